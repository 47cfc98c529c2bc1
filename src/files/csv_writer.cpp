// Writing a sheet as CSV.
#include "files/csv_writer.h"

#include "table/number_text.h"

namespace opensum {

void append_field(std::string& out, std::string_view field, char delimiter) {
  const char special[] = {delimiter, '"', '\n', '\r', '\0'};
  const bool blank_end = !field.empty() && (field.front() == ' ' || field.back() == ' ');
  if (field.find_first_of(special) == std::string_view::npos && !blank_end) {
    out += field;
    return;
  }
  out += '"';
  for (const char c : field) {
    if (c == '"') out += '"';
    out += c;
  }
  out += '"';
}

std::string cell_text(const Column& column, std::size_t row) {
  if (column.null(row)) return {};
  const Chunk& chunk = column.chunks[row / kChunkRows];
  const std::size_t i = row % kChunkRows;
  if (column.kind == Kind::text) return std::string(chunk.texts[i]);
  if (!chunk.source.empty()) {
    std::string source = column.kind == Kind::number
                             ? plain_number_text(trimmed(chunk.source[i]), column.style)
                             : std::string(trimmed(chunk.source[i]));
    const bool kept = column.kind == Kind::number ? is_plain_decimal(source)
                      : column.kind == Kind::date ? read_date(source).has_value()
                                                  : true;
    if (kept) return source;
    if (column.kind == Kind::number && !source.empty()) return number_text(chunk.numbers[i], -1);
  }
  switch (column.kind) {
    case Kind::date:
      return date_text(chunk.numbers[i]);
    case Kind::truth:
      return chunk.numbers[i] != 0 ? "true" : "false";
    default:
      return number_text(chunk.numbers[i], column.digits);
  }
}

std::string header_text(const Column& column, bool symbol) { return symbol ? column.symbol : column.title(); }

std::string csv_text(const Table& table, const CsvOptions& options) {
  std::string out;
  const char* separator = "";
  const std::string delimiter(1, options.delimiter);
  const std::vector<const Column*> columns = table.written();
  for (const Column* column : columns) {
    out += separator;
    append_field(out, header_text(*column, options.headers_are_symbols), options.delimiter);
    separator = delimiter.c_str();
  }
  out += '\n';
  for (std::size_t place = 0; place < table.rows; ++place) {
    const std::size_t row = table.row_at(place);
    separator = "";
    for (const Column* column : columns) {
      out += separator;
      append_field(out, cell_text(*column, row), options.delimiter);
      separator = delimiter.c_str();
    }
    // A row of one empty cell would look like a blank line, which readers pass over.
    if (columns.size() == 1 && out.back() == '\n') out += "\"\"";
    out += '\n';
  }
  return out;
}

}  // namespace opensum
