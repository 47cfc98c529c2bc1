// Writing a sheet as CSV.
#include "files/csv_writer.h"

#include <algorithm>

#include "table/number_text.h"

namespace opensum {

namespace {

// Whether a field needs quotes.
bool needs_quotes(std::string_view field, char delimiter) {
  if (field.empty()) return false;
  if (field.front() == ' ' || field.back() == ' ') return true;
  return std::any_of(field.begin(), field.end(),
                     [delimiter](char c) { return c == delimiter || c == '"' || c == '\n' || c == '\r'; });
}

}  // namespace

void append_field(std::string& out, std::string_view field, char delimiter) {
  if (!needs_quotes(field, delimiter)) {
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

// A cell as a field. Numbers hold nothing that needs quotes.
void append_cell(std::string& out, const Column& column, std::size_t row, char delimiter) {
  const Chunk& chunk = column.chunks[row / kChunkRows];
  const std::size_t i = row % kChunkRows;
  if (chunk.null_at(i)) return append_field(out, column.unread(row), delimiter);
  if (column.kind == Kind::text) {
    append_field(out, text_as_read(chunk, i), delimiter);
  } else if (column.kind == Kind::number) {
    append_value(out, column, chunk, i);
  } else {
    std::string text;
    append_value(text, column, chunk, i);
    append_field(out, text, delimiter);
  }
}

// Text that grows by small pieces without asking each time whether there is room.
class Growing {
 public:
  explicit Growing(std::string& out) : out_(out), at_(out.size()) { out_.resize(out_.capacity()); }
  ~Growing() { out_.resize(at_); }
  Growing(const Growing&) = delete;
  Growing& operator=(const Growing&) = delete;

  // A place with room for so many bytes.
  char* room(std::size_t bytes) {
    if (out_.size() - at_ < bytes) out_.resize(std::max(2 * out_.size(), at_ + bytes));
    return out_.data() + at_;
  }
  void end_at(const char* place) { at_ = static_cast<std::size_t>(place - out_.data()); }
  void add(char c) {
    *room(1) = c;
    ++at_;
  }
  void add(std::string_view text) { end_at(std::copy(text.begin(), text.end(), room(text.size()))); }
  std::size_t size() const { return at_; }

 private:
  std::string& out_;
  std::size_t at_;
};

// How the cells of a column are written in a short way, where there is one.
enum class Way : std::uint8_t { as_read, as_number, as_text, careful };

// A column in the rows of one chunk.
struct WrittenChunk {
  const Column& column;
  const Chunk& chunk;
  Way way;
};

WrittenChunk written_chunk(const Column& column, std::size_t part) {
  const Chunk& chunk = column.chunks[part];
  Way way = Way::careful;
  if (column.kind == Kind::text) way = Way::as_text;
  if (column.kind == Kind::number && chunk.source.empty()) way = Way::as_number;
  if (column.kind == Kind::number && !chunk.source.empty() && column.cells_are_plain) way = Way::as_read;
  return {column, chunk, way};
}

class CsvWriter {
 public:
  CsvWriter(const Table& table, const CsvOptions& options, std::vector<std::size_t>* ends = nullptr)
      : table_(table), options_(options), columns_(table.written()), ends_(ends) {}

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
    if (table_.order.empty()) {
      append_chunk(out, part, end - begin);
      return;
    }
    for (std::size_t place = begin; place < end; ++place) {
      const std::size_t row = table_.row_at(place);
      const std::size_t line = out.size();
      for (std::size_t c = 0; c < columns_.size(); ++c) {
        if (c > 0) out += options_.delimiter;
        append_cell(out, *columns_[c], row, options_.delimiter);
      }
      if (columns_.size() == 1 && out.size() == line) out += kEmptyRow;
      out += '\n';
    }
  }

 private:
  // A row of one empty cell would look like a blank line, which readers pass over.
  static constexpr const char* kEmptyRow = "\"\"";

  // The rows of a chunk in the order of the source.
  void append_chunk(std::string& out, std::size_t part, std::size_t rows) const {
    std::vector<WrittenChunk> columns;
    columns.reserve(columns_.size());
    for (const Column* column : columns_) columns.push_back(written_chunk(*column, part));
    std::string careful;
    Growing growing(out);
    for (std::size_t i = 0; i < rows; ++i) {
      const std::size_t line = growing.size();
      bool first = true;
      for (const WrittenChunk& column : columns) {
        if (!first) growing.add(options_.delimiter);
        first = false;
        const std::size_t row = part * kChunkRows + i;
        if (!column.chunk.null_at(i)) {
          append_known(growing, column, row, careful);
        } else if (column.column.measured) {
          append_null(growing, column.column, row, careful);
        }
      }
      if (columns.size() == 1 && growing.size() == line) growing.add(kEmptyRow);
      growing.add('\n');
      if (ends_ != nullptr) ends_->push_back(growing.size());
    }
  }

  // A null is empty but for cells that could not be read.
  void append_null(Growing& growing, const Column& column, std::size_t row, std::string& careful) const {
    if (column.unread(row).empty()) return;
    careful.clear();
    append_cell(careful, column, row, options_.delimiter);
    growing.add(careful);
  }

  // A known cell; `careful` is a text to work with.
  void append_known(Growing& growing, const WrittenChunk& written, std::size_t row,
                    std::string& careful) const {
    const std::size_t i = row % kChunkRows;
    switch (written.way) {
      case Way::as_number:
        growing.end_at(
            write_number(growing.room(kLongestNumber), written.chunk.numbers[i], written.column.digits));
        return;
      case Way::as_read:
        if (const std::string_view source = trimmed(written.chunk.source[i]); !source.empty())
          return growing.add(source);
        break;
      case Way::as_text:
        if (const std::string_view text = text_as_read(written.chunk, i);
            !needs_quotes(text, options_.delimiter))
          return growing.add(text);
        break;
      case Way::careful:
        break;
    }
    careful.clear();
    append_cell(careful, written.column, row, options_.delimiter);
    growing.add(careful);
  }

  const Table& table_;
  const CsvOptions& options_;
  std::vector<const Column*> columns_;
  std::vector<std::size_t>* ends_;
};

}  // namespace

std::string header_text(const Column& column, bool symbol) { return symbol ? column.symbol : column.title(); }

std::string csv_text(const Table& table, const CsvOptions& options) {
  std::string out = csv_header(table, options);
  append_csv_rows(out, table, options);
  return out;
}

std::string csv_header(const Table& table, const CsvOptions& options) {
  return CsvWriter(table, options).header();
}

void append_csv_rows(std::string& out, const Table& table, const CsvOptions& options,
                     std::vector<std::size_t>* ends) {
  const CsvWriter writer(table, options, ends);
  for (std::size_t part = 0; part < writer.parts(); ++part) writer.append_part(out, part);
}

}  // namespace opensum
