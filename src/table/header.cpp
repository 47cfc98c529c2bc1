// Column headers: the label, the unit and the symbol that stand in one.
#include "table/header.h"

#include <utf8proc.h>

#include <algorithm>
#include <array>
#include <cstdlib>
#include <map>
#include <memory>

#include "table/number_text.h"

namespace opensum {
namespace {

constexpr std::array kReserved = {"codata", "fit", "self", "null", "true", "false",
                                  "pi",    "and", "or",   "not",  "in",   "for"};

bool single_character(std::string_view text) {
  std::int32_t code = 0;
  const auto length = utf8proc_iterate(reinterpret_cast<const utf8proc_uint8_t*>(text.data()),
                                       static_cast<utf8proc_ssize_t>(text.size()), &code);
  return length == static_cast<utf8proc_ssize_t>(text.size()) &&
         utf8proc_category(code) <= UTF8PROC_CATEGORY_LO;
}

// The unit text at the end of a header, and what stands before it.
struct Split {
  std::string_view label;
  std::string_view unit;
  bool square = false;
};

// `Flow [L/min]`, `Flow (L/min)`, `Flow / (L/min)`: the last bracket must end the header.
bool split_bracket(std::string_view header, Split& split) {
  const char close = header.empty() ? '\0' : header.back();
  if (close != ']' && close != ')') return false;
  const char open = close == ']' ? '[' : '(';
  int depth = 0;
  for (std::size_t i = header.size(); i-- > 0;) {
    if (header[i] == close) ++depth;
    if (header[i] == open && --depth == 0) {
      split.unit = header.substr(i + 1, header.size() - i - 2);
      split.label = trimmed(header.substr(0, i));
      split.square = close == ']';
      if (!split.label.empty() && split.label.back() == '/') {
        split.label = trimmed(split.label.substr(0, split.label.size() - 1));
        split.square = true;
      }
      return true;
    }
  }
  return false;
}

// `t/°C`: the first solidus, when a unit follows it.
bool split_solidus(std::string_view header, Split& split) {
  const std::size_t solidus = header.find('/');
  if (solidus == std::string_view::npos || solidus == 0) return false;
  split.label = trimmed(header.substr(0, solidus));
  split.unit = trimmed(header.substr(solidus + 1));
  return !split.label.empty() && !split.unit.empty();
}

bool is_doubtful(const Split& split) {
  if (split.square) return split.unit == "C" || split.unit == "F";
  return single_character(split.unit) || split.unit == "min" || split.unit == "1";
}

}  // namespace

bool is_reserved(std::string_view word) {
  return std::find(kReserved.begin(), kReserved.end(), word) != kReserved.end();
}

std::string normalised(std::string_view text) {
  std::string whole(text);
  utf8proc_uint8_t* raw = utf8proc_NFC(reinterpret_cast<const utf8proc_uint8_t*>(whole.c_str()));
  if (raw == nullptr) return whole;
  const std::unique_ptr<utf8proc_uint8_t, decltype(&std::free)> owner(raw, &std::free);
  return reinterpret_cast<const char*>(owner.get());
}

std::size_t name_character(std::string_view text, std::size_t at, bool first) {
  std::int32_t code = 0;
  const auto length = utf8proc_iterate(reinterpret_cast<const utf8proc_uint8_t*>(text.data()) + at,
                                       static_cast<utf8proc_ssize_t>(text.size() - at), &code);
  if (length <= 0) return 0;
  const auto category = utf8proc_category(code);
  const bool letter = code == '_' || (category >= UTF8PROC_CATEGORY_LU && category <= UTF8PROC_CATEGORY_LO);
  const bool later = (category >= UTF8PROC_CATEGORY_MN && category <= UTF8PROC_CATEGORY_ME) ||
                     category == UTF8PROC_CATEGORY_ND;
  return letter || (!first && later) ? static_cast<std::size_t>(length) : 0;
}

std::size_t display_width(std::string_view text) {
  std::size_t width = 0;
  for (std::size_t at = 0; at < text.size();) {
    std::int32_t code = 0;
    const auto length = utf8proc_iterate(reinterpret_cast<const utf8proc_uint8_t*>(text.data()) + at,
                                         static_cast<utf8proc_ssize_t>(text.size() - at), &code);
    if (length <= 0) {
      ++width;
      ++at;
      continue;
    }
    width += static_cast<std::size_t>(std::max(utf8proc_charwidth(code), 0));
    at += static_cast<std::size_t>(length);
  }
  return width;
}

HeaderReading read_header(std::string_view raw, const UnitSystem& units) {
  const std::string_view header = trimmed(raw);
  HeaderReading reading;
  reading.label = std::string(header);
  Split split;
  const bool bracket = split_bracket(header, split);
  if (!bracket && !split_solidus(header, split)) return reading;
  UnitReading unit = units.read(split.unit);
  // `deg C` reads as degree times coulomb, which nobody means.
  const auto nearly = nearly_units();
  if (std::any_of(nearly.begin(), nearly.end(),
                  [&](const NearlyUnit& n) { return split.unit == n.spelling; })) {
    unit.unit.reset();
  }
  if (is_doubtful(split)) {
    // Only what could be a unit is worth a warning: `Site (B)` says nothing doubtful.
    if (!unit.unit && split.unit != "F") return reading;
    reading.doubt = HeaderDoubt::single_letter;
    reading.bracketed = std::string(split.unit);
    reading.meant = split.unit == "C" ? "°C" : split.unit == "F" ? "°F" : std::string(split.unit);
    return reading;
  }
  if (unit.unit) {
    reading.unit = *unit.unit;
    reading.unit_stated = true;
    if (!split.label.empty()) reading.label = std::string(split.label);
    if (unit.plain_number) reading.doubt = HeaderDoubt::plain_number;
    reading.bracketed = std::string(split.unit);
    return reading;
  }
  if (!bracket) return reading;
  reading.meant = units.meant_by(split.unit);
  if (!reading.meant.empty()) {
    reading.doubt = HeaderDoubt::nearly_unit;
    reading.bracketed = std::string(split.unit);
  }
  return reading;
}

std::string symbol_of(std::string_view label) {
  const std::string text = normalised(unify_lookalikes(label));
  std::string symbol;
  bool gap = false;
  for (std::size_t at = 0; at < text.size();) {
    const std::size_t length = name_character(text, at, false);
    if (length == 0) {
      gap = true;
      ++at;
      continue;
    }
    if (gap && !symbol.empty()) symbol += '_';
    gap = false;
    symbol.append(text, at, length);
    at += length;
  }
  if (symbol.empty()) return symbol;
  if (name_character(symbol, 0, true) == 0) symbol.insert(0, "c_");
  if (is_reserved(symbol)) symbol += '_';
  return symbol;
}

void number_repeated(std::vector<std::string>& symbols) {
  std::map<std::string, int> count;
  for (const std::string& symbol : symbols) ++count[symbol];
  std::map<std::string, int> next;
  for (std::string& symbol : symbols) {
    if (count[symbol] < 2) continue;
    const std::string base = symbol;
    // A numbered name must not meet a column that is called so itself.
    do {
      symbol = base + '_' + std::to_string(++next[base]);
    } while (count.contains(symbol));
  }
}

}  // namespace opensum
