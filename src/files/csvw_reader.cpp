// Reading metadata beside a table of text.
#include "files/csvw_reader.h"

#include <algorithm>
#include <filesystem>
#include <nlohmann/json.hpp>

#include "base/result.h"
#include "files/csv_writer.h"

namespace opensum {
namespace {

using Metadata = nlohmann::json;

std::string text_at(const Metadata& object, const char* key) {
  const auto found = object.find(key);
  return found != object.end() && found->is_string() ? found->get<std::string>() : std::string();
}

// One text, a list of texts, or texts by language.
std::vector<std::string> texts_at(const Metadata& object, const char* key) {
  std::vector<std::string> texts;
  const auto found = object.find(key);
  if (found == object.end()) return texts;
  if (found->is_string()) return {found->get<std::string>()};
  for (const Metadata& item : *found) {
    if (item.is_string()) texts.push_back(item.get<std::string>());
    if (!item.is_array()) continue;
    for (const Metadata& text : item) {
      if (text.is_string()) texts.push_back(text.get<std::string>());
    }
  }
  return texts;
}

// The kind of a datatype of its own; none where a format of its own would be needed to read it.
std::optional<Kind> kind_of(const Metadata& column) {
  const auto found = column.find("datatype");
  if (found == column.end()) return std::nullopt;
  const bool has_format = found->is_object() && found->contains("format");
  const std::string base = found->is_string() ? found->get<std::string>() : text_at(*found, "base");
  for (const char* number :
       {"number", "decimal", "double", "float", "integer", "long", "int", "short", "byte",
        "nonNegativeInteger", "positiveInteger", "nonPositiveInteger", "negativeInteger", "unsignedLong",
        "unsignedInt", "unsignedShort", "unsignedByte"}) {
    if (base == number) return has_format ? std::nullopt : std::optional(Kind::number);
  }
  for (const char* date : {"date", "datetime", "dateTime", "dateTimeStamp"}) {
    if (base == date) return has_format ? std::nullopt : std::optional(Kind::date);
  }
  if (base == "boolean") return has_format ? std::nullopt : std::optional(Kind::truth);
  if (base == "string") return Kind::text;
  return std::nullopt;
}

CsvMetadata::Described described(const Metadata& column, const std::vector<std::string>& inherited_missing) {
  CsvMetadata::Described entry;
  entry.titles = texts_at(column, "titles");
  entry.column.symbol = text_at(column, kSymbolKey);
  if (entry.column.symbol.empty()) entry.column.symbol = text_at(column, "name");
  entry.column.label = text_at(column, kLabelKey);
  if (const std::string unit = text_at(column, kUnitKey); !unit.empty()) entry.column.unit = unit;
  entry.column.kind = kind_of(column);
  if (text_at(column, kKindKey) == "duration") {
    entry.column.kind = Kind::number;
    entry.column.duration = true;
  }
  std::vector<std::string> missing = texts_at(column, "null");
  // Limits such as `<0.05` are nulls with a reason of their own.
  std::erase_if(missing,
                [](const std::string& text) { return text.starts_with('<') || text.starts_with('>'); });
  if (!missing.empty()) {
    entry.column.missing = missing;
  } else if (!inherited_missing.empty()) {
    entry.column.missing = inherited_missing;
  }
  return entry;
}

}  // namespace

Result<CsvMetadata> read_metadata(const std::string& path, Inputs& inputs, Diagnostics& diagnostics) {
  const std::string beside = path + "-metadata.json";
  std::error_code error;
  if (path == "-" || !std::filesystem::is_regular_file(beside, error)) return std::nullopt;
  Diagnostics unread;
  const auto file = inputs.read(beside, {}, unread);
  const auto leave = [&](const std::string& why) -> std::optional<CsvMetadata> {
    diagnostics.add(Code::metadata_unreadable, {beside, why});
    return std::nullopt;
  };
  if (!file) return leave("the file cannot be opened");
  const Metadata whole = Metadata::parse(file->text, nullptr, false);
  if (whole.is_discarded()) return leave("it is not JSON");
  const auto schema = whole.is_object() ? whole.find("tableSchema") : whole.end();
  if (schema == whole.end() || !schema->is_object() || !schema->contains("columns") ||
      !(*schema)["columns"].is_array()) {
    return leave("it has no tableSchema with columns");
  }
  CsvMetadata metadata;
  std::vector<std::string> missing = texts_at(*schema, "null");
  if (missing.empty()) missing = texts_at(whole, "null");
  if (whole.contains("dialect") && whole["dialect"].is_object()) {
    const std::string delimiter = text_at(whole["dialect"], "delimiter");
    if (delimiter.size() == 1) metadata.delimiter = delimiter.front();
  }
  for (const Metadata& column : (*schema)["columns"]) {
    if (!column.is_object() || (column.contains("virtual") && column["virtual"] == true)) continue;
    metadata.columns.push_back(described(column, missing));
  }
  return metadata;
}

void apply_metadata(const CsvMetadata& metadata, RawTable& table) {
  table.metadata.resize(table.headers.size());
  const bool by_place = metadata.columns.size() == table.headers.size() &&
                        std::all_of(metadata.columns.begin(), metadata.columns.end(),
                                    [](const CsvMetadata::Described& d) { return d.titles.empty(); });
  for (std::size_t i = 0; i < table.headers.size(); ++i) {
    for (std::size_t k = 0; k < metadata.columns.size(); ++k) {
      const CsvMetadata::Described& entry = metadata.columns[k];
      const bool titled =
          std::find(entry.titles.begin(), entry.titles.end(), table.headers[i]) != entry.titles.end();
      const bool named = entry.titles.empty() && entry.column.symbol == table.headers[i];
      if (by_place ? i == k : titled || named) table.metadata[i] = entry.column;
    }
  }
}

}  // namespace opensum
