// Where in the lines of a file the parts of a table stand.
#include "files/table_layout.h"

#include <algorithm>
#include <cctype>

#include "base/result.h"
#include "files/delimiter.h"
#include "table/number_text.h"

namespace opensum {
namespace {

class LineFinder {
 public:
  explicit LineFinder(std::string_view text) : text_(text) {
    starts_of_end_ = text.size() - (text.ends_with('\n') ? 1 : 0);
  }

  // The lines of the file; a last line end begins no further one.
  std::size_t count() const {
    return static_cast<std::size_t>(std::count(text_.begin(), text_.begin() + end_offset(), '\n')) + 1;
  }

  // Whether there are so many.
  bool has(std::size_t lines) const {
    std::size_t offset = 0;
    for (; lines > 1; --lines) {
      const std::size_t end = text_.find('\n', offset);
      if (end >= starts_of_end_) return false;
      offset = end + 1;
    }
    return true;
  }

  // The line of a number, counted on from one that is known.
  LineStart from(LineStart line, std::size_t number) const {
    while (line.number < number) {
      const std::size_t end = text_.find('\n', line.offset);
      line.offset = end == std::string::npos ? text_.size() : end + 1;
      ++line.number;
    }
    return line;
  }

  bool is_blank(const LineStart& line) const {
    const std::size_t end = std::min(text_.find('\n', line.offset), text_.size());
    return text_.find_first_not_of(" \t\r", line.offset) >= end;
  }

  // Its text without the line end.
  std::string_view text_of(const LineStart& line) const {
    std::string_view text = text_.substr(line.offset, text_.find('\n', line.offset) - line.offset);
    if (text.ends_with('\r')) text.remove_suffix(1);
    return text;
  }

  LineStart after(const LineStart& line) const { return from(line, line.number + 1); }

  // The first byte of the last `lines` lines.
  std::size_t before_last(std::size_t lines) const {
    std::size_t end = starts_of_end_;
    for (; lines > 0 && end > 0; --lines) {
      const std::size_t before = text_.rfind('\n', end - 1);
      if (before == std::string::npos) return 0;
      end = before;
    }
    return end + 1;
  }

 private:
  std::ptrdiff_t end_offset() const { return static_cast<std::ptrdiff_t>(starts_of_end_); }

  std::string_view text_;
  std::size_t starts_of_end_;
};

// `sep=;`: the delimiter that the first line says.
std::optional<char> said_delimiter(std::string_view line) {
  constexpr std::string_view kWord = "sep=";
  if (line.size() != kWord.size() + 1) return std::nullopt;
  const bool is_word = std::equal(kWord.begin(), kWord.end(), line.begin(), [](char a, char b) {
    return a == std::tolower(static_cast<unsigned char>(b));
  });
  return is_word ? std::optional(line.back()) : std::nullopt;
}

// The sign with which a line begins where it is likely a comment; empty for none. `#,name` is a header.
std::string comment_sign(std::string_view line) {
  for (const std::string_view sign : {"//", "#", "%", "!"}) {
    if (!line.starts_with(sign)) continue;
    const std::string_view rest = line.substr(sign.size());
    const bool is_field = !rest.empty() && std::string_view(",;\t|").find(rest[0]) != std::string_view::npos;
    return is_field ? "" : std::string(sign);
  }
  return {};
}

// Where the text of a comment begins, after its signs and blanks.
LineStart inside_comment(LineStart line, std::string_view text, const std::string& sign) {
  std::size_t at = 0;
  while (!sign.empty() && text.substr(at).starts_with(sign)) at += sign.size();
  if (at > 0) at = std::min(text.find_first_not_of(" \t", at), text.size());
  line.offset += at;
  return line;
}

class LayoutFinder {
 public:
  LayoutFinder(const LineFinder& lines, std::string_view text, const ReadSettings& settings,
               TableLayout& layout)
      : lines_(lines), text_(text), settings_(settings), layout_(layout) {}

  // Finds header, delimiter and rows from a line on.
  void run(LineStart first) {
    if (settings_.skip_rows == 0 && settings_.header_line != std::size_t{1}) {
      said_ = said_delimiter(lines_.text_of(first));
      if (said_) first = lines_.after(first);
    }
    find_comment(first);
    layout_.rows = first;
    if (!settings_.no_header) {
      if (settings_.header_line) {
        set_header(lines_.from(first, *settings_.header_line));
        if (settings_.second_header_line) {
          const LineStart second = lines_.from(first, *settings_.second_header_line);
          layout_.second_header = inside_comment(second, lines_.text_of(second), layout_.comment);
          layout_.rows = lines_.after(second);
        }
      } else {
        find_header(first);
      }
    }
    layout_.delimiter = delimiter_from(layout_.header ? layout_.header->offset : layout_.rows.offset);
  }

 private:
  bool is_comment(const LineStart& line) const {
    return !layout_.comment.empty() && lines_.text_of(line).starts_with(layout_.comment);
  }

  // The first line from one on that holds anything and is no comment; the last comment before it.
  LineStart pass(LineStart line, std::optional<LineStart>& comment) const {
    while (line.offset < layout_.end && (lines_.is_blank(line) || is_comment(line))) {
      if (is_comment(line)) comment = line;
      line = lines_.after(line);
    }
    return line;
  }

  void find_comment(LineStart first) {
    if (settings_.comment) {
      layout_.comment = *settings_.comment;
      return;
    }
    while (first.offset < layout_.end && lines_.is_blank(first)) first = lines_.after(first);
    layout_.comment = comment_sign(lines_.text_of(first));
    std::optional<LineStart> comment;
    // A file of nothing but such lines is a table of them.
    if (!layout_.comment.empty() && pass(first, comment).offset >= layout_.end) layout_.comment.clear();
  }

  void set_header(const LineStart& line) {
    layout_.header = inside_comment(line, lines_.text_of(line), layout_.comment);
    layout_.rows = lines_.after(line);
  }

  void find_header(const LineStart& first) {
    std::optional<LineStart> comment;
    const LineStart next = pass(first, comment);
    if (comment && heads(*comment, next)) {
      layout_.header = inside_comment(*comment, lines_.text_of(*comment), layout_.comment);
      layout_.rows = next;
    } else {
      set_header(next);
    }
  }

  // Whether a comment holds the headers of the numbers in the line after it.
  bool heads(const LineStart& comment, const LineStart& next) const {
    const char delimiter = delimiter_from(next.offset);
    const std::string_view row = lines_.text_of(next);
    const LineStart begin = inside_comment(comment, lines_.text_of(comment), layout_.comment);
    const std::string_view header = lines_.text_of(begin);
    const std::size_t width = count_fields(row, delimiter);
    const bool as_wide = count_fields(header, delimiter) == width ||
                         (delimiter == kBlanks && wide_words_of(header).size() == width);
    return width > 1 && as_wide && !holds_number(header, delimiter) && holds_number(row, delimiter);
  }

  bool holds_number(std::string_view line, char delimiter) const {
    std::size_t at = 0;
    while (at <= line.size()) {
      const std::size_t end = std::min(
          delimiter == kBlanks ? line.find_first_of(" \t", at) : line.find(delimiter, at), line.size());
      if (read_number(trimmed(line.substr(at, end - at)), settings_.style).fault == NumberFault::none)
        return true;
      at = end + 1;
    }
    return false;
  }

  char delimiter_from(std::size_t offset) const {
    if (settings_.delimiter) return *settings_.delimiter;
    if (said_) return *said_;
    return find_delimiter(
        text_.substr(std::min(offset, layout_.end), layout_.end - std::min(offset, layout_.end)),
        settings_.style.decimal, layout_.comment);
  }

  const LineFinder& lines_;
  std::string_view text_;
  const ReadSettings& settings_;
  TableLayout& layout_;
  std::optional<char> said_;
};

}  // namespace

Result<TableLayout> find_layout(const InputFile& file, const ReadSettings& settings,
                                Diagnostics& diagnostics) {
  const LineFinder lines(file.text);
  const bool bounded =
      settings.skip_rows > 0 || settings.skip_end > 0 || settings.header_line || settings.units_row;
  TableLayout layout;
  layout.end = file.text.size();
  const auto too_short = [&](std::size_t needed) {
    diagnostics.add(Code::too_few_lines, {file.path, std::to_string(lines.count()), std::to_string(needed)});
    return std::nullopt;
  };
  if (bounded) {
    const std::size_t named = std::max(settings.header_line.value_or(0), settings.units_row.value_or(0));
    const std::size_t needed = std::max(settings.skip_rows + 1, named) + settings.skip_end;
    if (!lines.has(needed)) return too_short(needed);
  }
  if (settings.skip_end > 0) {
    layout.end = lines.before_last(settings.skip_end);
    layout.skipped_end = settings.skip_end;
  }
  const LineStart first = lines.from({}, settings.skip_rows + 1);
  for (const auto& named : {settings.header_line, settings.units_row}) {
    if (named && *named <= settings.skip_rows) {
      diagnostics.add(Code::header_is_skipped, {std::to_string(*named), std::to_string(settings.skip_rows)});
      return std::nullopt;
    }
  }
  LayoutFinder(lines, file.text, settings, layout).run(first);
  if (settings.units_row) {
    if (layout.header && *settings.units_row == layout.header->number) {
      diagnostics.add(Code::units_in_header, {std::to_string(*settings.units_row)});
      return std::nullopt;
    }
    const LineStart units = lines.from(first, *settings.units_row);
    layout.units = inside_comment(units, lines.text_of(units), layout.comment);
    // The rows begin below both.
    if (units.number >= layout.rows.number) layout.rows = lines.after(units);
  }
  return layout;
}

}  // namespace opensum
