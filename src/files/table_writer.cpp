// What the formats other than CSV share.
#include "files/table_writer.h"

#include <algorithm>
#include <cctype>

namespace opensum {
namespace {

std::string lower(std::string text) {
  std::transform(text.begin(), text.end(), text.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  return text;
}

}  // namespace

const DerivedNote* note_on(const WrittenSheet& sheet, const Column& column) {
  const auto note = std::find_if(sheet.notes.begin(), sheet.notes.end(),
                                 [&](const DerivedNote& n) { return n.symbol == column.symbol; });
  return note == sheet.notes.end() ? nullptr : &*note;
}

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

}  // namespace opensum
