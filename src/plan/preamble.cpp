// Quantities and texts in the lines before a table.
#include "plan/preamble.h"

#include <algorithm>

#include "table/header_units.h"
#include "table/number_form.h"

namespace opensum {
namespace {

bool is_separator(char c) { return c == ':' || c == '=' || c == ';' || c == '\t' || c == ',' || c == '|'; }

std::string without_quotes(std::string_view line) {
  std::string out(trimmed(line));
  std::erase(out, '"');
  return out;
}

std::optional<double> number_in(std::string_view text, const NumberStyle& style) {
  const NumberReading plain = read_number(text, style);
  if (plain.fault == NumberFault::none) return plain.value;
  const auto form = read_number_form(text, style, false);
  if (!form || !form->uncertainty.empty()) return std::nullopt;
  const NumberReading number = read_number(form->plain);
  return number.fault == NumberFault::none ? std::optional(number.value) : std::nullopt;
}

// Takes `[mm]` or `(mm)` off the end of a name where it is a unit.
void take_unit(std::string& name, PreambleLine& line, const UnitSystem& units) {
  if (name.empty() || (name.back() != ']' && name.back() != ')')) return;
  const std::size_t open = name.find_last_of("[(");
  if (open == std::string::npos || open == 0) return;
  const UnitReading unit =
      read_header_unit(trimmed(std::string_view(name).substr(open + 1, name.size() - open - 2)), units);
  if (!unit.unit) return;
  line.unit = unit.unit;
  name = std::string(trimmed(std::string_view(name).substr(0, open)));
}

// Reads what stands after the name.
void read_value(std::string_view rest, PreambleLine& line, const NumberStyle& style,
                const UnitSystem& units) {
  while (!rest.empty() && (is_separator(rest.front()) || rest.front() == ' ')) rest.remove_prefix(1);
  while (!rest.empty() && (is_separator(rest.back()) || rest.back() == ' ')) rest.remove_suffix(1);
  line.value = std::string(rest);
  // The number is the longest piece at the begin that reads as one; what follows is its unit.
  for (std::size_t end = rest.size(); end > 0; --end) {
    const std::string_view piece = rest.substr(0, end);
    if (piece.back() == ' ' || is_separator(piece.back())) continue;
    const auto number = number_in(piece, style);
    if (!number) continue;
    std::string_view after = rest.substr(end);
    while (!after.empty() && (is_separator(after.front()) || after.front() == ' ')) after.remove_prefix(1);
    if (!after.empty() && (after.front() == '[' || after.front() == '(') && after.size() > 2)
      after = after.substr(1, after.size() - 2);
    if (!after.empty()) {
      const UnitReading unit = read_header_unit(after, units);
      // Several numbers, a time of day or a remark are a text.
      if (!unit.unit && after.find_first_of("0123456789: ") != std::string_view::npos) return;
      if (unit.unit) {
        line.unit = unit.unit;
      } else {
        line.unknown_unit = std::string(after);
      }
    }
    line.number = number;
    line.value = std::string(piece);
    return;
  }
}

}  // namespace

std::optional<PreambleLine> find_in_preamble(const std::vector<std::string>& lines, std::string_view name,
                                             const NumberStyle& style, const UnitSystem& units) {
  const std::string wanted = without_quotes(name);
  for (const std::string& raw : lines) {
    const std::string text = without_quotes(raw);
    if (wanted.empty() || !text.starts_with(wanted)) continue;
    std::string_view rest = std::string_view(text).substr(wanted.size());
    // `Width` does not begin `Widths`.
    if (!rest.empty() && !is_separator(rest.front()) && rest.front() != ' ' && rest.front() != '[' &&
        rest.front() != '(')
      continue;
    PreambleLine line;
    line.name = wanted;
    rest = trimmed(rest);
    if (!rest.empty() && (rest.front() == '[' || rest.front() == '(')) {
      const std::size_t close = rest.find_first_of("])");
      if (close != std::string_view::npos) {
        std::string bracket = "x" + std::string(rest.substr(0, close + 1));
        take_unit(bracket, line, units);
        if (line.unit) rest.remove_prefix(close + 1);
      }
    }
    read_value(rest, line, style, units);
    return line;
  }
  return std::nullopt;
}

std::vector<PreambleLine> preamble_lines(const std::vector<std::string>& lines, const NumberStyle& style,
                                         const UnitSystem& units) {
  std::vector<PreambleLine> found;
  for (const std::string& raw : lines) {
    const std::string text = without_quotes(raw);
    const std::size_t at = text.find_first_of(":=;\t|,");
    if (at == std::string::npos || at == 0) continue;
    PreambleLine line;
    line.name = std::string(trimmed(std::string_view(text).substr(0, at)));
    take_unit(line.name, line, units);
    read_value(std::string_view(text).substr(at), line, style, units);
    if (!line.name.empty() && !line.value.empty()) found.push_back(std::move(line));
  }
  return found;
}

}  // namespace opensum
