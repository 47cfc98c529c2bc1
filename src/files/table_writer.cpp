// What the formats other than CSV share, and JSON.
#include "files/table_writer.h"

#include <algorithm>
#include <nlohmann/json.hpp>

#include "table/number_text.h"

namespace opensum {
namespace {

const DerivedNote* note_on(const WrittenSheet& sheet, const Column& column) {
  const auto note = std::find_if(sheet.notes.begin(), sheet.notes.end(),
                                 [&](const DerivedNote& n) { return n.symbol == column.symbol; });
  return note == sheet.notes.end() ? nullptr : &*note;
}

std::string lower(std::string text) {
  std::transform(text.begin(), text.end(), text.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  return text;
}

nlohmann::ordered_json value_of(const Column& column, std::size_t row) {
  const std::string text = cell_text(column, row);
  if (column.null(row)) return text.empty() ? nlohmann::ordered_json() : nlohmann::ordered_json(text);
  if (column.kind == Kind::number) return read_number(text).value;
  if (column.kind == Kind::truth) return text == "true";
  return text;
}

}  // namespace

std::vector<std::string> remark_titles() {
  return {"sheet", "column", "symbol", "unit", "kind", "equation", "nulls"};
}

std::vector<std::string> remark_fields(const ColumnRemark& remark) {
  return {remark.sheet, remark.header,   remark.symbol,   remark.unit,
          remark.kind,  remark.equation, remark.null_rule};
}

std::vector<ColumnRemark> column_remarks(const std::vector<WrittenSheet>& sheets) {
  std::vector<ColumnRemark> remarks;
  for (const WrittenSheet& sheet : sheets) {
    for (const Column* column : sheet.table->written()) {
      ColumnRemark remark;
      remark.sheet = sheet.name;
      remark.header = header_text(*column, sheet.headers_are_symbols);
      remark.symbol = column->symbol;
      if (column->kind == Kind::number) remark.unit = column->unit.text();
      remark.kind = kind_name(column->kind);
      if (const DerivedNote* note = note_on(sheet, *column)) {
        remark.equation = note->equation;
        remark.null_rule = note->null_rule;
      }
      remarks.push_back(std::move(remark));
    }
  }
  return remarks;
}

std::string unused_name(const std::string& name, std::size_t length, std::vector<std::string>& used) {
  for (std::size_t attempt = 1;; ++attempt) {
    const std::string suffix = attempt == 1 ? "" : "_" + std::to_string(attempt);
    std::string candidate = name;
    if (candidate.size() + suffix.size() > length) {
      std::size_t cut = length - suffix.size();
      // Not in the middle of a character.
      while (cut > 0 && (static_cast<unsigned char>(candidate[cut]) & 0xC0U) == 0x80U) --cut;
      candidate.resize(cut);
    }
    candidate += suffix;
    if (std::find(used.begin(), used.end(), lower(candidate)) != used.end()) continue;
    used.push_back(lower(candidate));
    return candidate;
  }
}

std::string json_text(const WrittenSheet& sheet) {
  using Json = nlohmann::ordered_json;
  Json whole;
  whole["sheet"] = sheet.name;
  whole["rows"] = sheet.table->rows;
  whole["columns"] = Json::array();
  for (const Column* column : sheet.table->written()) {
    Json entry;
    entry["symbol"] = column->symbol;
    entry["label"] = column->label;
    entry["kind"] = kind_name(column->kind);
    if (column->kind == Kind::number) entry["unit"] = column->unit.text();
    if (const DerivedNote* note = note_on(sheet, *column)) {
      entry["equation"] = note->equation;
      entry["nulls"] = note->null_rule;
    }
    Json values = Json::array();
    Json reasons = Json::object();
    for (std::size_t place = 0; place < sheet.table->rows; ++place) {
      const std::size_t row = sheet.table->row_at(place);
      values.push_back(value_of(*column, row));
      if (const Null null = column->null(row))
        reasons[std::to_string(place + 1)] = reason_name(null.reason());
    }
    entry["values"] = std::move(values);
    if (!reasons.empty()) entry["null_reasons"] = std::move(reasons);
    whole["columns"].push_back(std::move(entry));
  }
  return whole.dump(1, ' ', false, nlohmann::json::error_handler_t::replace) + "\n";
}

void append_json_lines(TextBuffer& out, const WrittenSheet& sheet, std::vector<std::size_t>* ends) {
  std::vector<std::string> headers;
  const auto columns = sheet.table->written();
  headers.reserve(columns.size());
  for (const Column* column : columns) headers.push_back(header_text(*column, sheet.headers_are_symbols));
  for (std::size_t place = 0; place < sheet.table->rows; ++place) {
    nlohmann::ordered_json line = nlohmann::ordered_json::object();
    for (std::size_t i = 0; i < columns.size(); ++i)
      line[headers[i]] = value_of(*columns[i], sheet.table->row_at(place));
    out.add(line.dump(-1, ' ', false, nlohmann::json::error_handler_t::replace));
    out.add('\n');
    if (ends != nullptr) ends->push_back(out.size());
  }
}

}  // namespace opensum
