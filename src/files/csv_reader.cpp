// Reading CSV and TSV.
#include "files/csv_reader.h"

#include <utf8proc.h>

#include <algorithm>
#include <array>
#include <cstring>
#include <deque>

namespace opensum {
namespace {

constexpr std::size_t kListedFaults = 5;
constexpr std::size_t kLinesToSniff = 20;

// What the views of a table look into: the file, and fields whose doubled quotes were undone.
struct CsvStorage {
  std::shared_ptr<const InputFile> file;
  std::deque<std::string> unquoted;
};

// The offset of the first byte that is not UTF-8, or npos.
std::size_t find_invalid_utf8(std::string_view text) {
  std::size_t at = 0;
  while (at < text.size()) {
    std::uint64_t block = 0;
    if (at + sizeof block <= text.size()) {
      std::memcpy(&block, text.data() + at, sizeof block);
      if ((block & 0x8080808080808080ULL) == 0) {
        at += sizeof block;
        continue;
      }
    }
    if (static_cast<unsigned char>(text[at]) < 0x80) {
      ++at;
      continue;
    }
    std::int32_t code = 0;
    const auto length = utf8proc_iterate(reinterpret_cast<const utf8proc_uint8_t*>(text.data()) + at,
                                         static_cast<utf8proc_ssize_t>(text.size() - at), &code);
    if (length <= 0) return at;
    at += static_cast<std::size_t>(length);
  }
  return std::string_view::npos;
}

// A place in a data file, quoting the one line it stands on.
Place line_place(const InputFile& file, std::size_t offset, std::size_t length) {
  const std::string& text = file.text;
  offset = std::min(offset, text.size());
  const std::size_t before = offset == 0 ? std::string::npos : text.rfind('\n', offset - 1);
  const std::size_t begin = before == std::string::npos ? 0 : before + 1;
  const std::size_t end = std::min(text.find('\n', offset), text.size());
  const auto number = static_cast<std::size_t>(
                          std::count(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(begin), '\n')) +
                      1;
  std::string line = text.substr(begin, end - begin);
  // Only valid text is quoted; anything else would garble the terminal.
  for (char& c : line) {
    if (c == '\0') c = ' ';
  }
  for (std::size_t bad = 0; (bad = find_invalid_utf8(line)) != std::string::npos;) line[bad] = '?';
  auto source = std::make_shared<const Source>(file.path, std::move(line), number);
  return {std::move(source), {offset - begin, offset - begin + length}};
}

class CsvParser {
 public:
  CsvParser(const std::shared_ptr<const InputFile>& file, std::size_t begin, char delimiter,
            Diagnostics& diagnostics)
      : storage_(std::make_shared<CsvStorage>()),
        text_(file->text),
        at_(begin),
        delimiter_(delimiter),
        diagnostics_(diagnostics) {
    storage_->file = file;
  }

  std::optional<RawTable> run() {
    read_header();
    if (faults_ == 0) read_rows();
    if (faults_ > 0) return std::nullopt;
    table_.file = storage_->file->path;
    table_.storage = storage_;
    return std::move(table_);
  }

 private:
  struct Field {
    std::string_view text;
    std::size_t begin = 0;
    std::size_t end = 0;
  };

  void fail(Code code, std::size_t offset, std::size_t length, std::vector<std::string> args = {}) {
    if (++faults_ > kListedFaults) return;
    diagnostics_.add(code, line_place(*storage_->file, offset, length), std::move(args));
  }

  bool at_end() const { return at_ >= text_.size(); }

  // Whether the line at hand holds nothing at all.
  bool at_blank_line() const {
    return text_[at_] == '\n' || (text_[at_] == '\r' && (at_ + 1 == text_.size() || text_[at_ + 1] == '\n'));
  }

  void skip_line() {
    const std::size_t end = text_.find('\n', at_);
    at_ = end == std::string_view::npos ? text_.size() : end + 1;
    ++line_;
  }

  // The fields of the record at hand; false after a reported fault, from which the rest cannot be read.
  bool read_record(std::vector<Field>& fields) {
    fields.clear();
    for (;;) {
      Field field;
      field.begin = at_;
      if (!at_end() && text_[at_] == '"') {
        if (!read_quoted(field)) return false;
      } else {
        while (!at_end() && text_[at_] != delimiter_ && text_[at_] != '\n') ++at_;
        field.end = at_;
        if (field.end > field.begin && (at_end() || text_[at_] == '\n') && text_[field.end - 1] == '\r')
          --field.end;
        field.text = text_.substr(field.begin, field.end - field.begin);
      }
      fields.push_back(field);
      if (at_end()) return true;
      if (text_[at_] == '\n') {
        ++at_;
        ++line_;
        return true;
      }
      ++at_;  // the delimiter
    }
  }

  bool read_quoted(Field& field) {
    const std::size_t begin = at_ + 1;
    std::size_t scan = begin;
    bool doubled = false;
    for (;;) {
      const std::size_t quote = text_.find('"', scan);
      if (quote == std::string_view::npos) {
        fail(Code::quote_not_closed, field.begin, 1);
        return false;
      }
      if (quote + 1 < text_.size() && text_[quote + 1] == '"') {
        doubled = true;
        scan = quote + 2;
        continue;
      }
      field.text = text_.substr(begin, quote - begin);
      at_ = quote + 1;
      break;
    }
    line_ += static_cast<std::size_t>(std::count(field.text.begin(), field.text.end(), '\n'));
    field.end = at_;
    if (!at_end() && text_[at_] == '\r' && (at_ + 1 == text_.size() || text_[at_ + 1] == '\n')) ++at_;
    if (!at_end() && text_[at_] != delimiter_ && text_[at_] != '\n') {
      fail(Code::quote_misplaced, at_, 1);
      return false;
    }
    if (doubled) {
      std::string& plain = storage_->unquoted.emplace_back();
      for (std::size_t i = 0; i < field.text.size(); ++i) {
        plain += field.text[i];
        if (field.text[i] == '"') ++i;
      }
      field.text = plain;
    }
    return true;
  }

  void read_header() {
    const std::size_t begin = at_;
    const std::size_t line = line_;
    std::vector<Field> fields;
    if (!read_record(fields)) return;
    if (fields.size() > kMostColumns) {
      diagnostics_.add(Code::too_many_columns,
                       {storage_->file->path, std::to_string(fields.size()), std::to_string(kMostColumns)});
      ++faults_;
      return;
    }
    const std::size_t end = std::min(text_.find('\n', begin), text_.size());
    table_.header_source = std::make_shared<const Source>(
        storage_->file->path, std::string(text_.substr(begin, end - begin)), line);
    for (const Field& field : fields) {
      table_.headers.emplace_back(field.text);
      table_.header_spans.push_back({field.begin - begin, std::max(field.end, field.begin + 1) - begin});
    }
    table_.columns.resize(fields.size());
  }

  void read_rows() {
    std::vector<Field> fields;
    const std::size_t width = table_.headers.size();
    while (!at_end()) {
      if (at_blank_line() && (width > 1 || only_blank_lines_follow())) {
        skip_line();
        continue;
      }
      const std::size_t begin = at_;
      const std::size_t line = line_;
      if (!read_record(fields)) return;
      if (fields.size() != width) {
        const std::size_t end = std::min(text_.find('\n', begin), text_.size());
        fail(Code::ragged_row, begin, std::max<std::size_t>(end - begin, 1),
             {std::to_string(fields.size()), std::to_string(width)});
        continue;
      }
      for (std::size_t i = 0; i < width; ++i) table_.columns[i].push_back(fields[i].text);
      table_.lines.push_back(line);
    }
  }

  bool only_blank_lines_follow() const {
    return text_.find_first_not_of("\r\n", at_) == std::string_view::npos;
  }

  std::shared_ptr<CsvStorage> storage_;
  std::string_view text_;
  std::size_t at_;
  std::size_t line_ = 1;
  char delimiter_;
  Diagnostics& diagnostics_;
  std::size_t faults_ = 0;
  RawTable table_;
};

// Separators of one sort on each of the first lines, those inside quotes left out.
std::vector<std::size_t> counts_per_line(std::string_view text, char delimiter) {
  std::vector<std::size_t> counts(1, 0);
  bool quoted = false;
  for (const char c : text) {
    if (c == '"') quoted = !quoted;
    if (quoted) continue;
    if (c == delimiter) ++counts.back();
    if (c == '\n') {
      if (counts.size() == kLinesToSniff) break;
      counts.push_back(0);
    }
  }
  if (counts.size() > 1 && (counts.back() == 0 || text.back() == '\n')) counts.pop_back();
  return counts;
}

}  // namespace

char find_delimiter(std::string_view text) {
  constexpr std::size_t kSniffedBytes = 1U << 20U;
  text = text.substr(0, kSniffedBytes);
  char best = ',';
  std::size_t best_score = 0;
  for (const char candidate : {'\t', ';', ',', '|'}) {
    const std::vector<std::size_t> counts = counts_per_line(text, candidate);
    if (counts.front() == 0) continue;
    const auto agreeing = static_cast<std::size_t>(std::count(counts.begin(), counts.end(), counts.front()));
    // Lines that agree with the header weigh more than many separators.
    const std::size_t score =
        agreeing * 1000 / counts.size() * 1000 + std::min<std::size_t>(counts.front(), 999);
    if (score > best_score) {
      best_score = score;
      best = candidate;
    }
  }
  return best;
}

std::optional<RawTable> read_csv(const std::shared_ptr<const InputFile>& file, const ReadSettings& settings,
                                 Diagnostics& diagnostics) {
  const std::string& text = file->text;
  constexpr std::string_view kByteOrderMark = "\xEF\xBB\xBF";
  const std::size_t begin = text.starts_with(kByteOrderMark) ? kByteOrderMark.size() : 0;
  if (text.find_first_not_of(" \t\r\n", begin) == std::string::npos) {
    diagnostics.add(Code::empty_file, {file->path});
    return std::nullopt;
  }
  if (const std::size_t nul = text.find('\0'); nul != std::string::npos) {
    diagnostics.add(Code::holds_nul, line_place(*file, nul, 1), {file->path});
    return std::nullopt;
  }
  if (const std::size_t bad = find_invalid_utf8(text); bad != std::string::npos) {
    diagnostics.add(Code::not_utf8, line_place(*file, bad, 1), {file->path});
    return std::nullopt;
  }
  const char delimiter = settings.delimiter.value_or(find_delimiter(std::string_view(text).substr(begin)));
  auto table = CsvParser(file, begin, delimiter, diagnostics).run();
  if (table && table->rows() == 0) diagnostics.add(Code::no_rows, {file->path});
  return table;
}

}  // namespace opensum
