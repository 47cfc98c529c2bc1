// Which of what stands in the headers of a table is a unit.
#include "table/header_units.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <map>
#include <set>

#include "base/unicode.h"
#include "table/header.h"
#include "table/number_text.h"
#include "units/spellings.h"

namespace opensum {
namespace {

template <std::size_t kCount>
bool is_one_of(const std::array<std::string_view, kCount>& list, std::string_view text) {
  return std::find(list.begin(), list.end(), text) != list.end();
}

// How the text that may be a unit stands in a header.
enum class Form : std::uint8_t { none, square, round, solidus };

// A header in parts: `Flow / (L/min)` is in the form of square brackets, for nothing but units stands so.
struct Split {
  Form form = Form::none;
  std::string_view label;
  std::string_view text;
  bool attached = false;  // no space between label and bracket
};

std::string_view without_solidus(std::string_view label, Form& form) {
  if (label.empty() || label.back() != '/') return label;
  form = Form::square;
  return trimmed(label.substr(0, label.size() - 1));
}

Split split_bracket(std::string_view header) {
  const char close = header.empty() ? '\0' : header.back();
  if (close != ']' && close != ')') return {};
  const char open = close == ']' ? '[' : '(';
  int depth = 0;
  for (std::size_t i = header.size(); i-- > 0;) {
    if (header[i] == close) ++depth;
    if (header[i] != open || --depth > 0) continue;
    Split split;
    split.form = close == ']' ? Form::square : Form::round;
    split.text = trimmed(header.substr(i + 1, header.size() - i - 2));
    split.attached = i > 0 && header[i - 1] != ' ';
    split.label = without_solidus(trimmed(header.substr(0, i)), split.form);
    return split;
  }
  return {};
}

Split split_header(std::string_view header) {
  const Split bracket = split_bracket(header);
  if (bracket.form != Form::none) return bracket;
  const std::size_t solidus = header.find('/');
  if (solidus == std::string_view::npos) return {};
  Split split;
  split.label = trimmed(header.substr(0, solidus));
  split.text = trimmed(header.substr(solidus + 1));
  split.attached = solidus > 0 && header[solidus - 1] != ' ';
  if (!split.label.empty() && !split.text.empty()) split.form = Form::solidus;
  return split;
}

bool is_ascii_letter(char c) { return std::isalpha(static_cast<unsigned char>(c)) != 0; }
bool is_ascii_digit(char c) { return c >= '0' && c <= '9'; }

bool is_single_letter(std::string_view text) {
  std::size_t length = 0;
  if (!text.empty()) length = name_character(text, 0, true);
  return length > 0 && length == text.size();
}

// `T1`, `CO2`: letters and then digits.
bool is_numbered_name(std::string_view text) {
  const auto digit = std::find_if(text.begin(), text.end(), is_ascii_digit);
  return digit != text.begin() && digit != text.end() && std::all_of(text.begin(), digit, is_ascii_letter) &&
         std::all_of(digit, text.end(), is_ascii_digit);
}

// A symbol with a prefix that nobody uses with it: ronna, quetta, zetta, yotta and their small kin with
// anything; peta and exa but with what is counted in them; mega to tera before single capitals that are as
// likely initials; atto before m.
bool is_made_up(std::string_view symbol) {
  constexpr std::array<std::string_view, 7> kOfPetaAndExa = {"g", "J", "W", "Wh", "Bq", "eV", "mol"};
  constexpr std::array<std::string_view, 9> kInitials = {"A", "C", "F", "H", "K", "L", "M", "S", "T"};
  if (symbol.size() < 2) return false;
  const char prefix = symbol.front();
  const std::string_view rest = symbol.substr(1);
  const bool known_whole =
      std::any_of(catalogue_units().begin(), catalogue_units().end(), [&](const CatalogueUnit& entry) {
        return symbol == entry.symbol ||
               (' ' + std::string(entry.aliases) + ' ').find(' ' + std::string(symbol) + ' ') !=
                   std::string::npos;
      });
  if (known_whole) return false;
  switch (prefix) {
    case 'R':
    case 'Q':
    case 'Z':
    case 'Y':
    case 'r':
    case 'q':
    case 'z':
    case 'y':
      return true;
    case 'P':
    case 'E':
      return !is_one_of(kOfPetaAndExa, rest);
    case 'M':
    case 'G':
    case 'T':
      return is_one_of(kInitials, rest);
    case 'a':
      return rest == "m";
    default:
      return false;
  }
}

// The symbols in the text of a unit.
std::vector<std::string_view> symbols_in(std::string_view text) {
  std::vector<std::string_view> symbols;
  for (std::size_t at = 0; at < text.size();) {
    const auto in_symbol = [](char c) {
      return is_ascii_letter(c) || static_cast<unsigned char>(c) >= 0x80 || c == '%' || c == '_';
    };
    std::size_t end = at;
    while (end < text.size() && in_symbol(text[end])) ++end;
    if (end > at) symbols.push_back(text.substr(at, end - at));
    at = std::max(end, at + 1);
  }
  return symbols;
}

// Whether a text that is no unit has the form of one.
bool looks_like_unit(std::string_view text, const UnitReading& reading, const UnitSystem& units) {
  switch (reading.fault) {
    case UnitFault::refused:
    case UnitFault::two_solidi:
    case UnitFault::product_after_solidus:
      return true;
    case UnitFault::none:
    case UnitFault::syntax:
      return false;
    case UnitFault::unknown:
    case UnitFault::exponent:
      break;
  }
  const bool has_sign = text.find_first_of("/^*") != std::string_view::npos ||
                        text.find("·") != std::string_view::npos || text.find("µ") != std::string_view::npos;
  const auto symbols = symbols_in(text);
  const bool some_known = std::any_of(symbols.begin(), symbols.end(),
                                      [&](std::string_view symbol) { return units.knows(symbol); });
  return has_sign && some_known && !std::all_of(symbols.begin(), symbols.end(), is_single_letter);
}

// `J/m^2/s` with one solidus: `J/(m^2 s)`; empty when that is no unit either.
std::string with_one_solidus(std::string_view text, const UnitSystem& units) {
  std::string fixed(text.substr(0, text.find('/')));
  fixed += "/(";
  for (const char c : text.substr(text.find('/') + 1)) fixed += c == '/' ? ' ' : c;
  fixed += ')';
  return units.read(fixed).unit ? fixed : std::string();
}

bool contains_any(std::string_view text, std::initializer_list<std::string_view> words) {
  return std::any_of(words.begin(), words.end(),
                     [&](std::string_view word) { return text.find(word) != std::string_view::npos; });
}

// Whether a label speaks of a temperature: `Temp`, `Dew point`, `T_in`, `t2`, `Tmax`.
bool speaks_of_temperature(std::string_view label) {
  const std::string small = lower_case(label);
  if (contains_any(small, {"temp", "dew point", "dewpoint", "wet bulb", "dry bulb", "melting", "boiling"}))
    return true;
  if (small.empty() || small.front() != 't') return false;
  constexpr std::array<std::string_view, 9> kAfterT = {"max", "min", "avg", "mean", "in",
                                                       "out", "air", "amb", "set"};
  const std::string_view rest = std::string_view(label).substr(1);
  return rest.empty() || !is_ascii_letter(rest.front()) || is_one_of(kAfterT, lower_case(rest));
}

bool speaks_of_difference(std::string_view label) {
  return contains_any(lower_case(label), {"diff", "rise", "drop", "change", "delta", "δ"});
}

// Ratios of elements and the like, as in `C/N`.
bool is_ratio_of_names(std::string_view label, std::string_view text) {
  constexpr std::array<std::string_view, 9> kRatios = {"S/N", "C/N", "N/C", "H/C", "O/C",
                                                       "C/H", "C/S", "N/S", "S/C"};
  return is_one_of(kRatios, std::string(label) + '/' + std::string(text));
}

// Whole headers that are as likely a unit without a name as a name with a unit: `m/s`, `g/L`.
bool is_unit_alone(std::string_view label, const Unit& unit) {
  constexpr std::array<std::string_view, 4> kOfTime = {"m", "L", "l", "t"};
  constexpr std::array<std::string_view, 3> kOfAnything = {"g", "J", "W"};
  constexpr std::array<std::string_view, 8> kPrefixed = {"km", "mm", "cm", "kg", "mg", "mL", "ml", "mol"};
  const bool rate = unit.dimension == Dimension(kTime) && label != "t";
  return is_one_of(kPrefixed, label) || (rate && is_one_of(kOfTime, label)) ||
         (is_one_of(kOfAnything, label) && !unit.is_dimensionless());
}

// A word at the end of a label that is a unit by itself: the `L` of `Flow rate L/min`.
std::string_view unit_at_end(std::string_view label, const UnitSystem& units) {
  const std::size_t space = label.rfind(' ');
  if (space == std::string_view::npos) return {};
  const std::string_view word = label.substr(space + 1);
  return read_header_unit(word, units).unit ? word : std::string_view();
}

// A text that is a name as likely as a unit, so that other headers decide: `A`, `min`, `in`, `second`.
bool is_name_like(std::string_view text) {
  constexpr std::array<std::string_view, 4> kWords = {"min", "in", "pm", "as"};
  const auto& words = unit_words();
  return is_single_letter(text) || is_one_of(kWords, text) ||
         std::any_of(words.begin(), words.end(), [&](const UnitWords& w) {
           return (' ' + std::string(w.words) + ' ').find(' ' + lower_case(text) + ' ') != std::string::npos;
         });
}

class HeaderReader {
 public:
  HeaderReader(const std::vector<std::string>& headers, const UnitSystem& units) : units_(units) {
    for (const std::string& header : headers) headers_.push_back(trimmed(header));
  }

  std::vector<HeaderReading> run() {
    for (const std::string_view header : headers_) read(header);
    compare_alike();
    find_uncertainties();
    for (std::size_t i = 0; i < headers_.size(); ++i) {
      HeaderReading& reading = readings_[i];
      if (!reading.unit_stated) reading.unit = Unit{};
      if (reading.unit_stated && !splits_[i].label.empty()) reading.label = std::string(splits_[i].label);
    }
    return std::move(readings_);
  }

 private:
  void read(std::string_view header) {
    HeaderReading reading;
    reading.label = std::string(header);
    const Split split = split_header(header);
    reading.bracketed = std::string(split.text);
    if (split.form != Form::none) read_text(split, reading);
    splits_.push_back(split);
    readings_.push_back(std::move(reading));
  }

  static void doubt(HeaderReading& reading, HeaderDoubt what, std::string meant) {
    reading.doubt = what;
    reading.meant = std::move(meant);
  }

  void read_text(const Split& split, HeaderReading& reading) {
    constexpr std::array<std::string_view, 6> kNone = {"-", "–", "—", "none", "dimensionless", "unitless"};
    constexpr std::array<std::string_view, 5> kNames = {"N/A", "n/a", "M/F", "F/M", "am"};
    const std::string_view text = split.text;
    if (is_one_of(kNone, text)) {
      reading.unit_stated = true;
      return;
    }
    if (is_one_of(kNames, text) || (text == "1" && split.form != Form::square)) return;
    if (text == "C" || text == "F") return read_scale(split, reading);
    // Arbitrary units, or those of absorbance, more often than a length.
    const bool of_absorbance = lower_case(split.label).starts_with("abs");
    if (text == "au" || text == "a.u." || (text == "AU" && !of_absorbance))
      return doubt(reading, HeaderDoubt::either, "au");
    if (text == "mb") return doubt(reading, HeaderDoubt::either, "mbar");
    if (is_gauge_remark(split, reading)) return;
    const UnitReading unit = read_header_unit(text, units_);
    if (!unit.unit) return doubt_unknown(split, unit, reading);
    if (const std::string meant = other_meaning(split, *unit.unit); !meant.empty()) {
      reading.bracketed = split.form == Form::solidus ? meant : std::string(text);
      return doubt(reading, HeaderDoubt::either, meant);
    }
    reading.unit = *unit.unit;
    reading.unit_stated = true;
    if (unit.plain_number) reading.doubt = HeaderDoubt::plain_number;
  }

  void read_scale(const Split& split, HeaderReading& reading) const {
    const std::string scale = split.text == "C" ? "°C" : "°F";
    if (!speaks_of_temperature(split.label)) return doubt(reading, HeaderDoubt::either, scale);
    if (speaks_of_difference(split.label))
      return doubt(reading, HeaderDoubt::either, scale == "°C" ? "K" : "°R");
    reading.unit = *units_.read(scale).unit;
    reading.unit_stated = true;
  }

  // `Pressure bar(g)`: the unit stands before the bracket, which says what it counts from.
  bool is_gauge_remark(const Split& split, HeaderReading& reading) const {
    constexpr std::array<std::string_view, 4> kRemarks = {"g", "a", "abs", "gauge"};
    if (split.form != Form::round || !split.attached || !is_one_of(kRemarks, split.text)) return false;
    const std::size_t space = split.label.rfind(' ');
    const std::string_view word =
        space == std::string_view::npos ? split.label : split.label.substr(space + 1);
    const UnitReading unit = units_.read(word);
    if (!unit.unit || !(unit.unit->dimension == units_.read("Pa").unit->dimension)) return false;
    reading.bracketed = std::string(word) + '(' + std::string(split.text) + ')';
    doubt(reading, HeaderDoubt::unknown_unit, std::string(word));
    return true;
  }

  void doubt_unknown(const Split& split, const UnitReading& unit, HeaderReading& reading) const {
    const bool may_be_slip =
        split.form == Form::square || (split.form == Form::round && !is_single_letter(split.text));
    const std::string meant = may_be_slip ? units_.meant_by(split.text) : std::string();
    if (!meant.empty()) return doubt(reading, HeaderDoubt::nearly_unit, meant);
    const bool square = split.form == Form::square;
    if (!square && !looks_like_unit(split.text, unit, units_)) return;
    doubt(reading, HeaderDoubt::unknown_unit,
          unit.fault == UnitFault::two_solidi ? with_one_solidus(split.text, units_) : "");
    if (unit.fault == UnitFault::refused) reading.choices = unit.suggestion;
  }

  // The unit that a header may have had in mind where what stands in it is likely something else; empty where
  // nothing speaks against it.
  std::string other_meaning(const Split& split, const Unit& unit) const {
    const std::string text(split.text);
    if (split.form == Form::round && split.attached && is_single_letter(split.label) && text == "t")
      return text;
    if (split.form != Form::solidus) return {};
    const std::string whole = std::string(split.label) + '/' + text;
    if (split.attached) {
      const std::string_view before = unit_at_end(split.label, units_);
      if (!before.empty()) return std::string(before) + '/' + text;
    }
    if (is_unit_alone(split.label, unit)) return whole;
    const bool expression = split.label.find_first_of("()+-*^=") != std::string_view::npos;
    const bool names = is_numbered_name(split.label) && is_numbered_name(split.text);
    return expression || names || is_ratio_of_names(split.label, split.text) ? text : std::string();
  }

  // Headers that are alike but for what stands in brackets are told apart by it, unless it is a unit in each
  // of them: of one dimension, or in such a form that nothing else can be meant by some.
  void compare_alike() {
    std::map<std::string_view, std::vector<std::size_t>> alike;
    for (std::size_t i = 0; i < headers_.size(); ++i) {
      if (splits_[i].form != Form::none) alike[splits_[i].label].push_back(i);
    }
    for (const auto& [label, members] : alike) {
      std::set<std::string_view> texts;
      for (const std::size_t i : members) texts.insert(splits_[i].text);
      if (texts.size() < 2) continue;
      const Dimension& first = readings_[members.front()].unit.dimension;
      const bool all_units = all_of(members, [&](std::size_t i) { return readings_[i].unit_stated; });
      const bool one_dimension =
          all_of(members, [&](std::size_t i) { return readings_[i].unit.dimension == first; });
      const bool all_name_like =
          all_of(members, [&](std::size_t i) { return is_name_like(splits_[i].text); });
      if (all_units && (one_dimension || !all_name_like)) continue;
      for (const std::size_t i : members) {
        const bool in_question = readings_[i].unit_stated || readings_[i].doubt == HeaderDoubt::either;
        if (!in_question || !is_name_like(splits_[i].text)) continue;
        readings_[i].unit_stated = false;
        readings_[i].doubt = HeaderDoubt::label;
        readings_[i].meant = std::string(splits_[i].text);
      }
    }
  }

  // `u(V)` beside a column `V` is its uncertainty.
  void find_uncertainties() {
    for (std::size_t i = 0; i < headers_.size(); ++i) {
      if (splits_[i].label != "u" || splits_[i].form != Form::round || !splits_[i].attached) continue;
      for (std::size_t j = 0; j < headers_.size(); ++j) {
        const std::string_view label = readings_[j].unit_stated ? splits_[j].label : headers_[j];
        if (j == i || symbol_of(label) != symbol_of(splits_[i].text)) continue;
        readings_[i].unit_stated = false;
        readings_[i].doubt = HeaderDoubt::none;
      }
    }
  }

  template <typename Test>
  static bool all_of(const std::vector<std::size_t>& members, const Test& test) {
    return std::all_of(members.begin(), members.end(), test);
  }

  const UnitSystem& units_;
  std::vector<std::string_view> headers_;
  std::vector<Split> splits_;
  std::vector<HeaderReading> readings_;
};

}  // namespace

UnitReading read_header_unit(std::string_view text, const UnitSystem& units) {
  UnitReading reading = units.read(text);
  if (!reading.unit) return reading;
  const bool made_up =
      std::any_of(reading.unit->parts.begin(), reading.unit->parts.end(), [&](const UnitPart& part) {
        return !units.own_units().contains(part.symbol) && is_made_up(part.symbol);
      });
  if (made_up) {
    reading.unit.reset();
    reading.fault = UnitFault::syntax;
  }
  return reading;
}

std::vector<HeaderReading> read_headers(const std::vector<std::string>& headers, const UnitSystem& units) {
  return HeaderReader(headers, units).run();
}

}  // namespace opensum
