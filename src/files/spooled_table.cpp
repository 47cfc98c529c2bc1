// Tables of formats that are no text, laid out as lines of text.
#include "files/spooled_table.h"

#include <algorithm>
#include <cerrno>

#include "base/result.h"
#include "base/unicode.h"
#include "files/csv_writer.h"

namespace opensum {

void SpooledTable::add(std::string_view cell) {
  std::string valid;
  if (!std::all_of(cell.begin(), cell.end(), [](char c) { return c > 0; })) {
    valid = cell;
    if (make_valid_utf8(valid) && ++replaced_ == 1) first_replaced_ = "row " + std::to_string(rows_ + 1);
    cell = valid;
  }
  if (begun_) line_ += ',';
  begun_ = true;
  // A line of a single cell that is empty would be no row, and a last column of nothing but such cells no
  // column.
  if (++place_ == columns_.size() && cell.empty()) {
    line_ += "\"\"";
  } else {
    append_field(line_, cell, ',');
  }
}

void SpooledTable::end_row() {
  line_ += '\n';
  spool_.write(line_);
  line_.clear();
  begun_ = false;
  place_ = 0;
  ++rows_;
}

Result<RawTable> SpooledTable::finish(const InputFile& shown_as, const std::string& name, Rows rows,
                                      Diagnostics& diagnostics) {
  for (SpooledColumn& column : columns_) {
    if (make_valid_utf8(column.header) && ++replaced_ == 1) first_replaced_ = "a name of a column";
    make_valid_utf8(column.metadata.label);
    if (column.metadata.unit) make_valid_utf8(*column.metadata.unit);
  }
  for (std::string& line : before_) make_valid_utf8(line);
  if (replaced_ > 0)
    diagnostics.add(Code::bytes_replaced, {name, std::to_string(replaced_), first_replaced_});
  text_ = spool_.finish(shown_as);
  if (!text_) {
    diagnostics.add(Code::file_damaged, {name, "a table", system_reason(errno)});
    return std::nullopt;
  }
  std::optional<RawTable> table;
  if (rows_ == 0) {
    table.emplace();
    table->columns.resize(columns_.size());
    table->headers.resize(columns_.size());
    diagnostics.add(Code::no_rows, {name});
  } else {
    ReadSettings plain;
    plain.no_header = true;
    plain.delimiter = ',';
    plain.comment = "";
    table = read_csv(text_, plain, diagnostics, rows);
  }
  if (!table) return std::nullopt;
  table->file = name;
  table->before = before_;
  const bool described = std::any_of(columns_.begin(), columns_.end(), [](const SpooledColumn& column) {
    return column.metadata.unit || column.metadata.kind || !column.metadata.label.empty();
  });
  for (std::size_t i = 0; i < columns_.size(); ++i) {
    table->headers[i] = columns_[i].header;
    if (described) table->metadata.emplace_back(columns_[i].metadata);
  }
  return table;
}

}  // namespace opensum
