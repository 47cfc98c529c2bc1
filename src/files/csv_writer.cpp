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

void append_field(TextBuffer& out, std::string_view field, char delimiter) {
  if (!needs_quotes(field, delimiter)) return out.add(field);
  out.add('"');
  for (const char c : field) {
    if (c == '"') out.add('"');
    out.add(c);
  }
  out.add('"');
}

void append_field(std::string& out, std::string_view field, char delimiter) {
  if (!needs_quotes(field, delimiter)) {
    out += field;
    return;
  }
  TextBuffer quoted;
  append_field(quoted, field, delimiter);
  out += quoted.view();
}

namespace {

// A null is empty but for cells that could not be read, and limits.
std::string null_text(const Column& column, std::size_t row) {
  const std::string_view unread = column.unread(row);
  return unread.empty() ? limit_text(column, row) : std::string(unread);
}

// A cell as a field.
void append_cell(TextBuffer& out, const Column& column, std::size_t row, char delimiter) {
  const Chunk& chunk = column.chunks[row / kChunkRows];
  const std::size_t i = row % kChunkRows;
  if (chunk.null_at(i)) return append_field(out, null_text(column, row), delimiter);
  if (column.kind == Kind::text) {
    append_field(out, text_as_read(chunk, i), delimiter);
  } else {
    std::string text;
    append_value(text, column, chunk, i);
    append_field(out, text, delimiter);
  }
}

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
  if (column.kind == Kind::number && !chunk.has_source()) way = Way::as_number;
  if (column.kind == Kind::number && chunk.has_source() && column.cells_are_plain) way = Way::as_read;
  return {column, chunk, way};
}

// Neighbouring columns whose cells stand in a line of the source just as they are to be written.
struct SourceRun {
  std::size_t first = 0;
  std::size_t columns = 0;
};

class CsvWriter {
 public:
  CsvWriter(const Table& table, const CsvOptions& options, std::vector<std::size_t>* ends = nullptr,
            WrittenNotes* notes = nullptr)
      : table_(table), options_(options), columns_(table.written()), ends_(ends), notes_(notes) {}

  std::string header() const {
    std::string out;
    for (std::size_t c = 0; c < columns_.size(); ++c) {
      if (c > 0) out += options_.delimiter;
      append_field(out, header_text(*columns_[c], options_.headers_are_symbols), options_.delimiter);
    }
    return out + '\n';
  }

  std::size_t parts() const { return (table_.rows + kChunkRows - 1) / kChunkRows; }

  void append_part(TextBuffer& out, std::size_t part) const {
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
        if (c > 0) out.add(options_.delimiter);
        if (columns_[c]->measured && columns_[c]->null(row)) {
          append_null(out, *columns_[c], row);
        } else if (!append_formula(out, *columns_[c], row)) {
          append_cell(out, *columns_[c], row, options_.delimiter);
        }
      }
      end_row(out, line);
    }
  }

 private:
  // Counts a derived text that looks like a formula, and writes it where it is to be guarded.
  bool append_formula(TextBuffer& out, const Column& column, std::size_t row) const {
    if (column.measured || column.kind != Kind::text) return false;
    const Chunk& chunk = column.chunks[row / kChunkRows];
    const std::size_t i = row % kChunkRows;
    if (chunk.null_at(i) || !looks_like_formula(text_as_read(chunk, i))) return false;
    if (notes_ != nullptr) ++notes_->formulas;
    if (!options_.guard_formulas) return false;
    append_field(out, '\'' + std::string(text_as_read(chunk, i)), options_.delimiter);
    return true;
  }

  // A null of a measured column, which keeps a limit.
  void append_null(TextBuffer& out, const Column& column, std::size_t row) const {
    const std::string text = null_text(column, row);
    if (notes_ != nullptr && !text.empty() && is_limit(column.null(row).reason()))
      notes_->limits[column.symbol].insert(text);
    append_field(out, text, options_.delimiter);
  }

  void end_row(TextBuffer& out, std::size_t line) const {
    // A row of one empty cell would look like a blank line, which readers pass over.
    if (columns_.size() == 1 && out.size() == line) out.add("\"\"");
    out.add('\n');
    if (ends_ != nullptr) ends_->push_back(out.size());
  }

  // The rows of a chunk in the order of the source.
  void append_chunk(TextBuffer& out, std::size_t part, std::size_t rows) const {
    std::vector<WrittenChunk> columns;
    columns.reserve(columns_.size());
    for (const Column* column : columns_) columns.push_back(written_chunk(*column, part));
    const SourceRun run = source_run(columns);
    for (std::size_t i = 0; i < rows; ++i) {
      const std::size_t line = out.size();
      for (std::size_t c = 0; c < columns.size(); ++c) {
        if (c > 0) out.add(options_.delimiter);
        if (c == run.first && run.columns > 1) {
          out.add(part_of_line(columns, run, i));
          c += run.columns - 1;
          continue;
        }
        const std::size_t row = part * kChunkRows + i;
        if (!columns[c].chunk.null_at(i)) {
          append_known(out, columns[c], row);
        } else if (columns[c].column.measured) {
          append_null(out, columns[c].column, row);
        }
      }
      end_row(out, line);
    }
  }

  // The longest run of such columns in a chunk that has rows.
  SourceRun source_run(const std::vector<WrittenChunk>& columns) const {
    SourceRun longest;
    SourceRun run;
    for (std::size_t c = 0; c < columns.size(); ++c) {
      const WrittenChunk& written = columns[c];
      const bool as_read =
          written.chunk.verbatim && (written.way == Way::as_read || written.way == Way::as_text);
      if (!as_read) {
        run = {c + 1, 0};
        continue;
      }
      if (run.columns > 0 && !follows(columns[c - 1], written)) run = {c, 0};
      if (++run.columns > longest.columns) longest = run;
    }
    return longest;
  }

  // Whether a column stands right after another in the lines of the source, with the delimiter between them
  // that is to be written.
  bool follows(const WrittenChunk& left, const WrittenChunk& right) const {
    if (!left.column.in_source || right.column.in_source != *left.column.in_source + 1) return false;
    const std::string_view cell = left.chunk.source.front();
    const char* end = cell.data() + cell.size();
    return right.chunk.source.front().data() == end + 1 && *end == options_.delimiter;
  }

  // The cells of a row in a run of columns.
  static std::string_view part_of_line(const std::vector<WrittenChunk>& columns, const SourceRun& run,
                                       std::size_t i) {
    const char* begin = columns[run.first].chunk.source[i].data();
    const std::string_view last = columns[run.first + run.columns - 1].chunk.source[i];
    return {begin, static_cast<std::size_t>(last.data() + last.size() - begin)};
  }

  // A known cell.
  void append_known(TextBuffer& out, const WrittenChunk& written, std::size_t row) const {
    const std::size_t i = row % kChunkRows;
    switch (written.way) {
      case Way::as_number:
        out.end_at(write_number(out.room(kLongestNumber), written.chunk.numbers[i], written.column.digits));
        return;
      case Way::as_read:
        if (const std::string_view source = trimmed(written.chunk.source_at(i)); !source.empty())
          return out.add(source);
        break;
      case Way::as_text:
        if (append_formula(out, written.column, row)) return;
        if (const std::string_view text = text_as_read(written.chunk, i);
            !needs_quotes(text, options_.delimiter))
          return out.add(text);
        break;
      case Way::careful:
        break;
    }
    append_cell(out, written.column, row, options_.delimiter);
  }

  const Table& table_;
  const CsvOptions& options_;
  std::vector<const Column*> columns_;
  std::vector<std::size_t>* ends_;
  WrittenNotes* notes_;
};

}  // namespace

std::string header_text(const Column& column, bool symbol) { return symbol ? column.symbol : column.title(); }

bool looks_like_formula(std::string_view text) {
  return !text.empty() && std::string_view("=+-@\t\r").find(text.front()) != std::string_view::npos;
}

std::string csv_text(const Table& table, const CsvOptions& options) {
  TextBuffer rows;
  append_csv_rows(rows, table, options);
  return csv_header(table, options).append(rows.view());
}

std::string csv_header(const Table& table, const CsvOptions& options) {
  return CsvWriter(table, options).header();
}

void append_csv_rows(TextBuffer& out, const Table& table, const CsvOptions& options,
                     std::vector<std::size_t>* ends, WrittenNotes* notes) {
  const CsvWriter writer(table, options, ends, notes);
  for (std::size_t part = 0; part < writer.parts(); ++part) writer.append_part(out, part);
}

}  // namespace opensum
