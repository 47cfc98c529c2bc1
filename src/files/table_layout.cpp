// Where in the lines of a file the parts of a table stand.
#include "files/table_layout.h"

#include <algorithm>

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

}  // namespace

std::optional<TableLayout> find_layout(const InputFile& file, const ReadSettings& settings,
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
  LineStart first = lines.from({}, settings.skip_rows + 1);
  for (const auto& named : {settings.header_line, settings.units_row}) {
    if (named && *named <= settings.skip_rows) {
      diagnostics.add(Code::header_is_skipped, {std::to_string(*named), std::to_string(settings.skip_rows)});
      return std::nullopt;
    }
  }
  layout.rows = first;
  if (!settings.no_header) {
    if (settings.header_line) {
      first = lines.from(first, *settings.header_line);
    } else {
      while (first.offset < layout.end && lines.is_blank(first)) first = lines.from(first, first.number + 1);
    }
    layout.header = first;
    layout.rows = lines.from(first, first.number + 1);
  }
  if (settings.units_row) {
    if (layout.header && *settings.units_row == layout.header->number) {
      diagnostics.add(Code::units_in_header, {std::to_string(*settings.units_row)});
      return std::nullopt;
    }
    layout.units = lines.from(lines.from({}, settings.skip_rows + 1), *settings.units_row);
    // The rows begin below both.
    if (layout.units->number >= layout.rows.number) {
      layout.rows = lines.from(*layout.units, layout.units->number + 1);
    }
  }
  return layout;
}

}  // namespace opensum
