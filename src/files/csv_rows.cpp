// The rows of a long CSV table, left in their file.
#include "files/csv_rows.h"

#include <algorithm>
#include <bit>
#include <cstdint>
#include <cstring>
#include <functional>

#include "files/encoding.h"

namespace opensum {
namespace {

RowLimits& limits() {
  static RowLimits used;
  return used;
}

// Finds the separators of a text in their order, a word at a time.
class SeparatorFinder {
 public:
  SeparatorFinder(const char* at, const char* stop, char delimiter)
      : delimiters_(kEach * static_cast<unsigned char>(delimiter)), stop_(stop) {
    go_to(at);
  }

  // Goes on from a place.
  void go_to(const char* at) {
    word_ = at;
    found_ = separators();
  }

  // The next one; the end where there is none.
  const char* next() {
    while (found_ == 0) {
      if (stop_ - word_ <= kBytes) return stop_;
      word_ += kBytes;
      found_ = separators();
    }
    const char* const place = word_ + std::countr_zero(found_) / 8;
    found_ &= found_ - 1;
    return place;
  }

 private:
  static_assert(std::endian::native == std::endian::little);
  static constexpr std::uint64_t kEach = 0x0101010101010101ULL;
  static constexpr std::uint64_t kLow = 0x7F7F7F7F7F7F7F7FULL;
  static constexpr std::ptrdiff_t kBytes = sizeof(std::uint64_t);

  // The highest bit of each byte that is zero, and no other.
  static std::uint64_t zero_bytes(std::uint64_t word) { return ~(((word & kLow) + kLow) | word | kLow); }

  std::uint64_t separators() const {
    std::uint64_t word = 0;
    if (stop_ - word_ >= kBytes) {
      std::memcpy(&word, word_, sizeof word);
    } else {
      std::memcpy(&word, word_, static_cast<std::size_t>(stop_ - word_));
    }
    return zero_bytes(word ^ delimiters_) | zero_bytes(word ^ (kEach * '\n'));
  }

  std::uint64_t delimiters_;
  const char* word_ = nullptr;
  const char* stop_;
  std::uint64_t found_ = 0;
};

// Reads records, as long as they are what a table is made of: anything else ends it.
class RecordReader {
 public:
  RecordReader(const CsvRows& table, std::string_view text, std::size_t at, RawRows& rows)
      : width_(table.width),
        form_(table.form),
        begin_(text.data()),
        at_(text.data() + at),
        stop_(text.data() + text.size()),
        rows_(rows),
        separators_(at_, stop_, form_.delimiter) {}

  // The rows that begin before `end`.
  RowSource::Reading run(std::size_t end, std::size_t first_line) {
    const char* const first = at_;
    const char* const last = begin_ + end;
    std::size_t line = first_line;
    RowSource::Reading reading;
    const bool has_comments = !form_.comment.empty();
    const bool by_words = form_.delimiter == kBlanks;
    while (at_ < last) {
      if (has_comments && is_comment()) {
        skip_line();
        ++line;
        continue;
      }
      if (is_blank_line()) {
        // A table of one column may have empty cells.
        if (width_ == 1) return reading;
        skip_line();
        ++line;
        continue;
      }
      lines_inside_ = 0;
      if (!(by_words ? read_words() : read_record())) return reading;
      rows_.lines.push_back(line);
      line += 1 + lines_inside_;
    }
    const std::string_view passed(first, static_cast<std::size_t>(at_ - first));
    rows_.bare = form_.is_plain() && passed.find('"') == std::string_view::npos &&
                 passed.find('\r') == std::string_view::npos;
    reading.end = static_cast<std::size_t>(at_ - begin_);
    reading.lines = line - first_line;
    reading.clean = true;
    return reading;
  }

 private:
  static bool ends_line(const char* at, const char* stop) {
    return at == stop || *at == '\n' || (*at == '\r' && (at + 1 == stop || at[1] == '\n'));
  }

  const char* after_blanks(const char* at) const { return at + form_.blanks_at({at, stop_}); }

  bool is_blank_line() const {
    return ends_line(form_.delimiter == kBlanks ? after_blanks(at_) : at_, stop_);
  }

  bool is_comment() const { return form_.is_comment({at_, static_cast<std::size_t>(stop_ - at_)}); }

  [[gnu::noinline]] void skip_line() {
    at_ = std::find(at_, stop_, '\n');
    if (at_ < stop_) ++at_;
    separators_.go_to(at_);
  }

  // The fields that a row does not have, where that is allowed.
  [[gnu::noinline]] bool pad(std::size_t from) {
    if (from < width_ && !form_.pads_short_rows) return false;
    for (std::size_t i = from; i < width_; ++i) rows_.columns[i].emplace_back();
    return true;
  }

  // A record of fields that blanks divide.
  [[gnu::noinline]] bool read_words() {
    std::size_t i = 0;
    at_ = after_blanks(at_);
    while (!ends_line(at_, stop_)) {
      if (i == width_) return false;
      std::string_view text;
      if (*at_ == '"') {
        if (!read_quoted(text)) return false;
      } else {
        const char* const field = at_;
        while (!ends_line(at_, stop_) && !is_blank_sign(*at_)) ++at_;
        text = {field, static_cast<std::size_t>(at_ - field)};
      }
      rows_.columns[i++].push_back(text);
      at_ = after_blanks(at_);
    }
    skip_line();
    return pad(i);
  }

  bool read_record() {
    for (std::size_t i = 0; i < width_; ++i) {
      std::string_view text;
      // Most fields begin with neither a blank nor a quote.
      const bool may_be_quoted = at_ < stop_ && static_cast<unsigned char>(*at_) <= '"';
      if (may_be_quoted && quote_follows()) {
        at_ = after_blanks(at_);
        if (!read_quoted(text)) return false;
        separators_.go_to(std::min(at_ + 1, stop_));
      } else {
        const char* const field = at_;
        at_ = separators_.next();
        const bool at_line_end = at_ == stop_ || *at_ == '\n';
        const char* const end = at_line_end && at_ > field && at_[-1] == '\r' ? at_ - 1 : at_;
        text = {field, static_cast<std::size_t>(end - field)};
      }
      const bool last = at_ == stop_ || *at_ == '\n';
      rows_.columns[i].push_back(text);
      if (at_ < stop_) ++at_;
      if (last) return i + 1 == width_ || pad(i + 1);
    }
    return ends_after_delimiter();
  }

  // A further field that is not there.
  [[gnu::noinline]] bool ends_after_delimiter() {
    if (!form_.trailing_delimiter || !ends_line(at_, stop_)) return false;
    skip_line();
    return true;
  }

  // A field of blanks before a quoted text is that text.
  [[gnu::noinline]] bool quote_follows() const {
    const char* const first = after_blanks(at_);
    return first < stop_ && *first == '"';
  }

  bool read_quoted(std::string_view& text) {
    const char* const field = at_ + 1;
    const char* scan = field;
    bool doubled = false;
    for (;;) {
      scan = static_cast<const char*>(std::memchr(scan, '"', static_cast<std::size_t>(stop_ - scan)));
      if (scan == nullptr) return false;
      if (scan + 1 == stop_ || scan[1] != '"') break;
      doubled = true;
      scan += 2;
    }
    text = {field, static_cast<std::size_t>(scan - field)};
    lines_inside_ += static_cast<std::size_t>(std::count(field, scan, '\n'));
    at_ = scan + 1;
    if (form_.delimiter == kBlanks) {
      if (!ends_line(at_, stop_) && !is_blank_sign(*at_)) return false;
    } else {
      at_ = after_blanks(at_);
      if (at_ < stop_ && *at_ == '\r' && (at_ + 1 == stop_ || at_[1] == '\n')) ++at_;
      if (at_ < stop_ && *at_ != form_.delimiter && *at_ != '\n') return false;
    }
    if (!doubled) return true;
    std::string& plain = rows_.unquoted.emplace_back();
    for (std::size_t i = 0; i < text.size(); ++i) {
      plain += text[i];
      if (text[i] == '"') ++i;
    }
    text = plain;
    return true;
  }

  std::size_t width_;
  LineForm form_;
  const char* begin_;
  const char* at_;
  const char* stop_;
  RawRows& rows_;
  SeparatorFinder separators_;
  std::size_t lines_inside_ = 0;  // line ends inside quotes
};

class CsvRowSource : public RowSource {
 public:
  explicit CsvRowSource(CsvRows rows)
      : table_(std::move(rows)), text_(table_.file->text.substr(0, table_.end)) {}

  std::size_t first_line() const override { return table_.first_line; }

  std::vector<std::size_t> cuts() const override {
    std::vector<std::size_t> cuts = {table_.begin};
    const std::size_t step = limits().block;
    while (text_.size() - cuts.back() > step) {
      const std::size_t line = text_.find('\n', cuts.back() + step);
      if (line == std::string_view::npos || line + 1 == text_.size()) break;
      table_.file->forget(cuts.back(), line + 1);
      cuts.push_back(line + 1);
    }
    cuts.push_back(text_.size());
    return cuts;
  }

  Reading read(std::size_t begin, std::size_t end, std::size_t first_line, RawRows& rows) const override {
    rows.columns.resize(table_.width);
    for (std::vector<std::string_view>& column : rows.columns) column.clear();
    rows.lines.clear();
    rows.unquoted.clear();
    return RecordReader(table_, text_, begin, rows).run(end, first_line);
  }

  bool is_text(std::size_t begin, std::size_t end) const override {
    const std::string_view text = text_.substr(begin, end - begin);
    return text.find('\0') == std::string_view::npos && find_invalid_utf8(text) == std::string_view::npos;
  }

  bool holds(std::string_view text) const override {
    const std::less_equal<> not_after;
    return not_after(text_.data(), text.data()) &&
           not_after(text.data() + text.size(), text_.data() + text_.size());
  }

  void forget(std::size_t begin, std::size_t end) const override { table_.file->forget(begin, end); }

 private:
  CsvRows table_;
  std::string_view text_;
};

}  // namespace

std::shared_ptr<const RowSource> csv_row_source(CsvRows rows) {
  return std::make_shared<CsvRowSource>(std::move(rows));
}

RowLimits row_limits() { return limits(); }

void set_row_limits(const RowLimits& wanted) { limits() = wanted; }

}  // namespace opensum
