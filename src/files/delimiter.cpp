// What separates the fields of a table of text.
#include "files/delimiter.h"

#include <algorithm>
#include <map>

#include "table/number_text.h"

namespace opensum {
namespace {

constexpr std::size_t kLinesToSniff = 20;

// Divides a line where `ends` says that a separator of so many bytes stands.
template <typename Separator>
std::vector<std::string_view> divided(std::string_view line, const Separator& separator) {
  std::vector<std::string_view> fields;
  std::size_t at = 0;
  while (at < line.size() && is_blank_sign(line[at])) ++at;
  while (at < line.size()) {
    const std::size_t begin = at;
    bool quoted = line[at] == '"';
    if (quoted) ++at;
    while (at < line.size() && (quoted || separator(line, at) == 0)) {
      if (line[at] == '"') quoted = false;
      ++at;
    }
    fields.push_back(trimmed(line.substr(begin, at - begin)));
    at += separator(line, at);
  }
  return fields;
}

std::size_t run_of_blanks(std::string_view line, std::size_t at) {
  std::size_t end = at;
  while (end < line.size() && is_blank_sign(line[end])) ++end;
  return end - at;
}

std::size_t wide_run(std::string_view line, std::size_t at) {
  const std::size_t run = run_of_blanks(line, at);
  const bool has_tab = line.substr(at, run).find('\t') != std::string_view::npos;
  return run >= 2 || has_tab ? run : 0;
}

// Separators of one sort in a text, those inside quotes left out. Quotes that do not begin a field are data.
std::size_t count_separators(std::string_view line, char delimiter) {
  std::size_t count = 0;
  bool quoted = false;
  bool may_begin = true;  // at the begin of a field, or after a quote, which another doubles
  for (const char c : line) {
    const bool turns = c == '"' && (quoted || may_begin);
    if (turns) quoted = !quoted;
    count += !quoted && c == delimiter ? 1 : 0;
    may_begin = !quoted && (c == delimiter || turns || (may_begin && c == ' '));
  }
  return count;
}

bool is_number(std::string_view text, char decimal) {
  NumberStyle style;
  style.decimal = decimal;
  return read_number(text, style).fault == NumberFault::none;
}

// How well lines agree that blanks separate their fields.
enum class Agreement { none, in_part, all };

Agreement agree_on_blanks(const std::vector<std::string_view>& lines, char decimal) {
  if (lines.size() < 2) return Agreement::none;
  const std::size_t width = words_of(lines.back()).size();
  if (width < 2) return Agreement::none;
  // The lines at the end that have as many words.
  std::size_t first = lines.size();
  while (first > 0 && words_of(lines[first - 1]).size() == width) --first;
  std::size_t numbers = 0;
  bool each_has_one = true;
  for (std::size_t i = std::max<std::size_t>(first, 1); i < lines.size(); ++i) {
    std::size_t here = 0;
    for (const std::string_view word : words_of(lines[i])) here += is_number(word, decimal) ? 1 : 0;
    numbers += here;
    each_has_one = each_has_one && here > 0;
  }
  // Words of a text and of dates are not fields.
  if (!each_has_one) return Agreement::none;
  if (first == 0 || (first == 1 && lines.size() > 2 && wide_words_of(lines[0]).size() == width))
    return Agreement::all;
  const bool mostly = numbers * 2 > (lines.size() - first) * width && lines.size() - first > first + 1;
  return mostly ? Agreement::in_part : Agreement::none;
}

// Where the first line of a text ends. A line end inside quotes is none, unless they are never closed.
std::size_t end_of_line(std::string_view text) {
  const std::size_t first = text.find('\n');
  std::size_t from = 0;
  std::ptrdiff_t quotes = 0;
  for (std::size_t end = first; end != std::string_view::npos; end = text.find('\n', end + 1)) {
    quotes += std::count(text.begin() + static_cast<std::ptrdiff_t>(from),
                         text.begin() + static_cast<std::ptrdiff_t>(end), '"');
    from = end;
    if (quotes % 2 == 0) return end;
  }
  quotes += std::count(text.begin() + static_cast<std::ptrdiff_t>(from), text.end(), '"');
  return quotes % 2 == 0 ? std::string_view::npos : first;
}

}  // namespace

std::vector<std::string_view> words_of(std::string_view line) { return divided(line, run_of_blanks); }

std::vector<std::string_view> wide_words_of(std::string_view line) { return divided(line, wide_run); }

std::size_t count_fields(std::string_view line, char delimiter) {
  return delimiter == kBlanks ? words_of(line).size() : count_separators(line, delimiter) + 1;
}

std::vector<std::string_view> first_lines(std::string_view text, std::size_t most,
                                          const std::string& comment) {
  std::vector<std::string_view> lines;
  while (!text.empty() && lines.size() < most) {
    const std::size_t end = end_of_line(text);
    std::string_view line = text.substr(0, end);
    if (line.ends_with('\r')) line.remove_suffix(1);
    const bool is_comment = !comment.empty() && line.starts_with(comment);
    if (!is_comment && !trimmed(line).empty()) lines.push_back(line);
    text.remove_prefix(end == std::string_view::npos ? text.size() : end + 1);
  }
  return lines;
}

char find_delimiter(std::string_view text, char decimal, const std::string& comment) {
  constexpr std::size_t kSniffedBytes = 1U << 20U;
  const std::vector<std::string_view> lines =
      first_lines(text.substr(0, kSniffedBytes), kLinesToSniff, comment);
  char best = ',';
  std::size_t best_score = 0;
  bool all_agree = false;
  for (const char candidate : {'\t', ';', ',', '|'}) {
    if (candidate == decimal) continue;
    std::map<std::size_t, std::size_t> lines_of_count;
    for (const std::string_view line : lines) {
      const std::size_t count = count_separators(line, candidate);
      if (count > 0) ++lines_of_count[count];
    }
    for (const auto& [count, agreeing] : lines_of_count) {
      // Lines that agree weigh more than many separators.
      const std::size_t score = agreeing * 1000 / lines.size() * 1000 + std::min<std::size_t>(count, 999);
      if (score <= best_score) continue;
      best_score = score;
      best = candidate;
      all_agree = agreeing == lines.size();
    }
  }
  if (all_agree) return best;
  const Agreement blanks = agree_on_blanks(lines, decimal);
  const bool better = blanks == Agreement::all || (blanks == Agreement::in_part && best_score == 0);
  return better ? kBlanks : best;
}

}  // namespace opensum
