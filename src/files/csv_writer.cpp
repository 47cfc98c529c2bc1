// Writing a sheet as CSV.
#include "files/csv_writer.h"

#include <algorithm>

#include "files/output.h"
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

namespace {

// The text of a cell that is no text.
void append_value(std::string& out, const Column& column, const Chunk& chunk, std::size_t i) {
  if (!chunk.source.empty()) {
    const std::string_view source = trimmed(chunk.source[i]);
    if (column.kind == Kind::number && column.style.is_plain()) {
      if (column.cells_are_plain ? !source.empty() : is_plain_decimal(source)) {
        out += source;
        return;
      }
      if (!source.empty()) return append_number(out, chunk.numbers[i], -1);
    } else if (column.kind == Kind::number) {
      const std::string plain = plain_number_text(source, column.style);
      if (is_plain_decimal(plain)) {
        out += plain;
        return;
      }
      if (!plain.empty()) return append_number(out, chunk.numbers[i], -1);
    } else if (column.kind != Kind::date || read_date(source)) {
      out += source;
      return;
    }
  }
  switch (column.kind) {
    case Kind::date:
      out += date_text(chunk.numbers[i]);
      break;
    case Kind::truth:
      out += chunk.numbers[i] != 0 ? "true" : "false";
      break;
    default:
      append_number(out, chunk.numbers[i], column.digits);
  }
}

// A cell as a field. Numbers hold nothing that needs quotes.
void append_cell(std::string& out, const Column& column, std::size_t row, char delimiter) {
  const Chunk& chunk = column.chunks[row / kChunkRows];
  const std::size_t i = row % kChunkRows;
  if (chunk.null_at(i)) return;
  if (column.kind == Kind::text) {
    append_field(out, chunk.texts[i], delimiter);
  } else if (column.kind == Kind::number) {
    append_value(out, column, chunk, i);
  } else {
    std::string text;
    append_value(text, column, chunk, i);
    append_field(out, text, delimiter);
  }
}

class CsvWriter {
 public:
  CsvWriter(const Table& table, const CsvOptions& options)
      : table_(table), options_(options), columns_(table.written()) {}

  std::string header() const {
    std::string out;
    for (std::size_t c = 0; c < columns_.size(); ++c) {
      if (c > 0) out += options_.delimiter;
      append_field(out, header_text(*columns_[c], options_.headers_are_symbols), options_.delimiter);
    }
    return out + '\n';
  }

  std::size_t parts() const { return (table_.rows + kChunkRows - 1) / kChunkRows; }

  void append_part(std::string& out, std::size_t part) const {
    const std::size_t begin = part * kChunkRows;
    const std::size_t end = std::min(begin + kChunkRows, table_.rows);
    for (std::size_t place = begin; place < end; ++place) {
      const std::size_t row = table_.row_at(place);
      const std::size_t line = out.size();
      for (std::size_t c = 0; c < columns_.size(); ++c) {
        if (c > 0) out += options_.delimiter;
        append_cell(out, *columns_[c], row, options_.delimiter);
      }
      // A row of one empty cell would look like a blank line, which readers pass over.
      if (columns_.size() == 1 && out.size() == line) out += "\"\"";
      out += '\n';
    }
  }

 private:
  const Table& table_;
  const CsvOptions& options_;
  std::vector<const Column*> columns_;
};

}  // namespace

std::string cell_text(const Column& column, std::size_t row) {
  if (column.null(row)) return {};
  const Chunk& chunk = column.chunks[row / kChunkRows];
  const std::size_t i = row % kChunkRows;
  if (column.kind == Kind::text) return std::string(chunk.texts[i]);
  std::string text;
  append_value(text, column, chunk, i);
  return text;
}

std::string header_text(const Column& column, bool symbol) { return symbol ? column.symbol : column.title(); }

std::string csv_text(const Table& table, const CsvOptions& options) {
  const CsvWriter writer(table, options);
  std::string out = writer.header();
  for (std::size_t part = 0; part < writer.parts(); ++part) writer.append_part(out, part);
  return out;
}

int write_csv(const Table& table, const CsvOptions& options, int descriptor) {
  const CsvWriter writer(table, options);
  if (const int error = write_all(descriptor, writer.header())) return error;
  return write_in_parts(descriptor, writer.parts(),
                        [&](std::string& out, std::size_t part) { writer.append_part(out, part); });
}

}  // namespace opensum
