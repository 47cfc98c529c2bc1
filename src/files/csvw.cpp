// CSV-on-the-Web metadata for a written sheet.
#include <algorithm>
#include <nlohmann/json.hpp>

#include "files/csv_writer.h"

namespace opensum {
namespace {

// Clocks of durations are no numbers of the standard.
const char* datatype(const Column& column) {
  switch (column.kind) {
    case Kind::number:
      return column.holds_clocks ? "string" : "number";
    case Kind::date:
      return column.clock ? "datetime" : "date";
    case Kind::truth:
      return "boolean";
    case Kind::text:
      return "string";
  }
  return "string";
}

}  // namespace

std::string csvw_text(const Table& table, const std::string& url, const std::vector<DerivedNote>& derived,
                      const CsvOptions& options, const WrittenNotes& notes) {
  using Json = nlohmann::ordered_json;
  Json columns = Json::array();
  for (const Column* written : table.written()) {
    const Column& column = *written;
    Json entry;
    entry["name"] = column.symbol;
    entry["titles"] = header_text(column, options.headers_are_symbols);
    entry["datatype"] = datatype(column);
    if (column.holds_clocks) entry[kKindKey] = "duration";
    if (const auto limits = notes.limits.find(column.symbol); limits != notes.limits.end()) {
      entry["null"] = Json::array({""});
      for (const std::string& limit : limits->second) entry["null"].push_back(limit);
    }
    entry[kSymbolKey] = column.symbol;
    entry[kLabelKey] = column.label;
    if (column.kind == Kind::number) entry[kUnitKey] = column.unit.text();
    if (column.measured) {
      entry["urn:opensum:header"] = column.header;
    } else {
      const auto note = std::find_if(derived.begin(), derived.end(),
                                     [&](const DerivedNote& n) { return n.symbol == column.symbol; });
      if (note != derived.end()) {
        entry["urn:opensum:equation"] = note->equation;
        entry["urn:opensum:nulls"] = note->null_rule;
      }
    }
    columns.push_back(std::move(entry));
  }
  Json whole;
  whole["@context"] = "http://www.w3.org/ns/csvw";
  whole["url"] = url;
  if (!options.changes.empty()) whole["urn:opensum:changes"] = options.changes;
  whole["dialect"] = {{"delimiter", std::string(1, options.delimiter)}, {"header", true}};
  whole["tableSchema"] = {{"null", ""}, {"columns", columns}};
  return whole.dump(2, ' ', false, nlohmann::json::error_handler_t::replace) + "\n";
}

}  // namespace opensum
