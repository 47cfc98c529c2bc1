// The rows of a long CSV table, left in their file.
#include "files/csv_rows.h"

#if defined(__SSE2__)
#include <emmintrin.h>
#endif

#include <algorithm>
#include <array>
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

// Finds the separators of a text in their order, 64 bytes at a time.
class SeparatorFinder {
 public:
  SeparatorFinder(const char* at, const char* stop, char delimiter) : delimiter_(delimiter), stop_(stop) {
    look_at(at);
  }

  // Goes on from a place that is not before the one where it is.
  void go_to(const char* at) {
    const std::ptrdiff_t passed = at - window_;
    if (passed >= kWindow) return look_at(at);
    left_ = all_ & (~std::uint64_t{0} << passed);
  }

  // The next one; the end where there is none.
  const char* next() {
    while (left_ == 0) {
      if (stop_ - window_ <= kWindow) return stop_;
      look_at(window_ + kWindow);
    }
    const char* const place = window_ + std::countr_zero(left_);
    left_ &= left_ - 1;
    return place;
  }

 private:
  static constexpr std::ptrdiff_t kWindow = 64;

  void look_at(const char* window) {
    window_ = window;
    if (stop_ - window >= kWindow) {
      all_ = separators_in(window);
    } else {
      std::array<char, kWindow> last{};
      std::copy(window, stop_, last.begin());
      all_ = separators_in(last.data());
    }
    left_ = all_;
  }

  // A bit for each byte that is one.
  std::uint64_t separators_in(const char* window) const {
    std::uint64_t found = 0;
#if defined(__SSE2__)
    constexpr std::ptrdiff_t kAtOnce = sizeof(__m128i);
    const __m128i delimiters = _mm_set1_epi8(delimiter_);
    const __m128i line_ends = _mm_set1_epi8('\n');
    for (std::ptrdiff_t at = 0; at < kWindow; at += kAtOnce) {
      const __m128i bytes = _mm_loadu_si128(reinterpret_cast<const __m128i*>(window + at));
      const __m128i are = _mm_or_si128(_mm_cmpeq_epi8(bytes, delimiters), _mm_cmpeq_epi8(bytes, line_ends));
      found |= std::uint64_t{static_cast<std::uint32_t>(_mm_movemask_epi8(are))} << at;
    }
#else
    for (std::ptrdiff_t at = 0; at < kWindow; ++at)
      found |= std::uint64_t{window[at] == delimiter_ || window[at] == '\n'} << at;
#endif
    return found;
  }

  char delimiter_;
  const char* window_ = nullptr;
  const char* stop_;
  std::uint64_t all_ = 0;
  std::uint64_t left_ = 0;
};

// Takes up the fields of rows. All columns have room for the same number of rows, so that a field is put down
// without a look at its column.
class Fields {
 public:
  Fields(RawRows& rows, std::size_t width) : rows_(rows) {
    rows.columns.resize(width);
    room_ = SIZE_MAX;
    for (const auto& column : rows.columns) room_ = std::min(room_, column.size());
    make_room(width == 0 ? 0 : room_);
  }
  void put(std::size_t column, std::string_view text) { columns_[column][count_] = text; }
  void end_row() {
    constexpr std::size_t kFirst = 256;
    if (++count_ == room_) make_room(std::max(kFirst, room_ + room_ / 4));
  }
  // Leaves as many rows as there are.
  void finish() {
    for (std::vector<std::string_view>& column : rows_.columns) column.resize(count_);
  }

 private:
  void make_room(std::size_t rows) {
    room_ = std::max<std::size_t>(rows, 1);
    columns_.clear();
    for (std::vector<std::string_view>& column : rows_.columns) {
      column.resize(room_);
      columns_.push_back(column.data());
    }
  }

  RawRows& rows_;
  std::vector<std::string_view*> columns_;
  std::size_t room_ = 0;
  std::size_t count_ = 0;
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
        fields_(rows, table.width),
        separators_(at_, stop_, form_.delimiter) {}

  // The rows that begin before `end`.
  RowSource::Reading run(std::size_t end, std::size_t first_line) {
    const RowSource::Reading reading = read_rows(end, first_line);
    fields_.finish();
    return reading;
  }

 private:
  RowSource::Reading read_rows(std::size_t end, std::size_t first_line) {
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
      fields_.end_row();
      line += 1 + lines_inside_;
    }
    look_through(first);
    reading.end = static_cast<std::size_t>(at_ - begin_);
    reading.lines = line - first_line;
    reading.clean = true;
    return reading;
  }

  // Finds out what bytes there are in all that was passed.
  void look_through(const char* first) {
    const std::string_view passed(first, static_cast<std::size_t>(at_ - first));
    unsigned char bits = 0;
    for (const char c : passed) bits |= static_cast<unsigned char>(c);
    rows_.ascii = bits < 0x80;
    rows_.bare = form_.is_plain() && passed.find('"') == std::string_view::npos &&
                 passed.find('\r') == std::string_view::npos;
  }

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
    for (std::size_t i = from; i < width_; ++i) fields_.put(i, {});
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
      fields_.put(i++, text);
      at_ = after_blanks(at_);
    }
    skip_line();
    return pad(i);
  }

  bool read_record() {
    // Copies, which the compiler keeps in registers.
    SeparatorFinder separators = separators_;
    const char* at = at_;
    const auto keep_place = [&] {
      separators_ = separators;
      at_ = at;
    };
    for (std::size_t i = 0; i < width_; ++i) {
      // Most fields begin with neither a blank nor a quote.
      const bool may_be_quoted = at < stop_ && static_cast<unsigned char>(*at) <= '"';
      if (may_be_quoted && quote_follows(at)) {
        std::string_view text;
        at_ = after_blanks(at);
        if (!read_quoted(text)) return false;
        at = at_;
        fields_.put(i, text);
        separators.go_to(std::min(at + 1, stop_));
      } else {
        const char* const field = at;
        at = separators.next();
        const bool at_line_end = at == stop_ || *at == '\n';
        const char* const end = at_line_end && at > field && at[-1] == '\r' ? at - 1 : at;
        fields_.put(i, {field, static_cast<std::size_t>(end - field)});
      }
      const bool last = at == stop_ || *at == '\n';
      if (at < stop_) ++at;
      if (last) {
        keep_place();
        return i + 1 == width_ || pad(i + 1);
      }
    }
    keep_place();
    return ends_after_delimiter();
  }

  // A further field that is not there.
  [[gnu::noinline]] bool ends_after_delimiter() {
    if (!form_.trailing_delimiter || !ends_line(at_, stop_)) return false;
    skip_line();
    return true;
  }

  // A field of blanks before a quoted text is that text.
  [[gnu::noinline]] bool quote_follows(const char* at) const {
    const char* const first = after_blanks(at);
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
  Fields fields_;
  SeparatorFinder separators_;
  std::size_t lines_inside_ = 0;  // line ends inside quotes
};

class CsvRowSource : public RowSource {
 public:
  explicit CsvRowSource(CsvRows rows)
      : table_(std::move(rows)), text_(table_.file->text.substr(0, table_.end)) {}

  std::optional<std::size_t> line_at(std::size_t place) const override {
    if (place != table_.begin) return std::nullopt;
    return table_.first_line;
  }

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
