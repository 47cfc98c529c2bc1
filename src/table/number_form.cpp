// Numbers as people and instruments write them in cells, beyond plain ones.
#include "table/number_form.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "table/digits.h"

namespace opensum {
namespace {

constexpr std::array<std::string_view, 11> kSuperscripts = {"\u2070", "\u00B9", "\u00B2", "\u00B3",
                                                            "\u2074", "\u2075", "\u2076", "\u2077",
                                                            "\u2078", "\u2079", "\u207B"};

std::string with_plain_minus(std::string_view text) {
  std::string out(text);
  for (std::size_t at = out.find(kMinusSign); at != std::string::npos; at = out.find(kMinusSign, at))
    out.replace(at, kMinusSign.size(), "-");
  return out;
}

bool is_whole(std::string_view text) {
  if (text.starts_with('-') || text.starts_with('+')) text.remove_prefix(1);
  return !text.empty() && std::all_of(text.begin(), text.end(), [](char c) { return c >= '0' && c <= '9'; });
}

// Raised digits as usual ones; empty where anything else is among them.
std::string lowered(std::string_view text) {
  std::string out;
  while (!text.empty()) {
    const auto* sign = std::find_if(kSuperscripts.begin(), kSuperscripts.end(),
                                    [&](std::string_view raised) { return text.starts_with(raised); });
    if (sign == kSuperscripts.end()) return {};
    const auto digit = sign - kSuperscripts.begin();
    out += digit == 10 ? '-' : static_cast<char>('0' + digit);
    text.remove_prefix(sign->size());
  }
  return out;
}

// What stands before and after the sign of a power of ten: `1.5 × 10^3`.
bool split_power_of_ten(std::string_view text, std::string_view& number, std::string& exponent) {
  constexpr std::array<std::string_view, 5> kTimes = {"\u00D7", "x", "X", "\u00B7", "*"};
  for (const std::string_view times : kTimes) {
    const std::size_t at = text.find(times);
    if (at == std::string_view::npos) continue;
    number = trimmed(text.substr(0, at));
    std::string_view power = trimmed(text.substr(at + times.size()));
    if (!power.starts_with("10")) return false;
    power.remove_prefix(2);
    if (power.starts_with('^')) {
      power.remove_prefix(1);
      const bool bracket = power.starts_with('(') && power.ends_with(')');
      exponent = std::string(bracket ? power.substr(1, power.size() - 2) : power);
    } else {
      exponent = lowered(power);
    }
    return is_whole(exponent);
  }
  return false;
}

// The plain form of what may have a thousands sign and another decimal sign; empty when it is no number.
std::string plain_or_nothing(std::string_view text, const NumberStyle& style) {
  std::string plain = plain_number_text(text, style);
  return is_plain_decimal(plain) ? plain : std::string();
}

// A plain number, which may have a power of ten already, times another one.
std::string times_power_of_ten(const std::string& plain, const std::string& exponent) {
  const std::size_t letter = std::min(plain.find_first_of("eE"), plain.size());
  const NumberReading own = read_number(letter < plain.size() ? plain.substr(letter + 1) : "0");
  const auto sum = static_cast<long>(own.value) + static_cast<long>(read_number(exponent).value);
  return plain.substr(0, letter) + 'e' + std::to_string(sum);
}

// Digits that count in the last place of a plain number: 12 of 5.034 are 0.012, and of 5.1e3 they are 1.2e3.
std::string in_last_place(std::string_view digits, const std::string& plain) {
  const std::size_t letter = std::min(plain.find_first_of("eE"), plain.size());
  const std::size_t point = plain.find('.');
  const std::size_t places = point < letter ? letter - point - 1 : 0;
  const std::string power = letter < plain.size() ? plain.substr(letter + 1) : "0";
  return times_power_of_ten(std::string(digits) + "e-" + std::to_string(places), power);
}

}  // namespace

bool has_foreign_letter(std::string_view text, const NumberStyle& style) {
  return std::any_of(text.begin(), text.end(), [&](char c) {
    const bool letter = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z');
    const bool of_numbers = c == 'e' || c == 'E' || c == 'x' || c == 'X';
    return letter && !of_numbers && c != style.decimal && style.group.find(c) == std::string::npos;
  });
}

std::optional<NumberForm> read_number_form(std::string_view cell, const NumberStyle& style, bool percent) {
  if (has_foreign_letter(cell, style)) return std::nullopt;
  const std::string text = with_plain_minus(cell);
  std::string_view rest = text;
  if (percent && rest.ends_with('%')) rest = trimmed(rest.substr(0, rest.size() - 1));
  NumberForm form;
  std::string exponent;
  std::string_view number;
  if (split_power_of_ten(rest, number, exponent)) {
    rest = number;
    if (rest.find_first_of("eE") != std::string_view::npos) return std::nullopt;
  }
  for (const std::string_view sign : {"\u00B1", "+/-"}) {
    const std::size_t at = rest.find(sign);
    if (at == std::string_view::npos) continue;
    form.uncertainty = plain_or_nothing(trimmed(rest.substr(at + sign.size())), style);
    if (form.uncertainty.empty()) return std::nullopt;
    rest = trimmed(rest.substr(0, at));
    break;
  }
  // `1.234(56)e-09`
  if (const std::size_t close = rest.find(")e"); close != std::string_view::npos && exponent.empty()) {
    exponent = std::string(rest.substr(close + 2));
    if (!is_whole(exponent)) return std::nullopt;
    rest = rest.substr(0, close + 1);
  }
  std::string_view in_brackets;
  if (rest.ends_with(')')) {
    const std::size_t open = rest.find('(');
    if (open == std::string_view::npos || open == 0) return std::nullopt;
    in_brackets = rest.substr(open + 1, rest.size() - open - 2);
    const std::string inner = plain_or_nothing(in_brackets, style);
    const bool is_size = !inner.empty() && inner.find_first_of("-+eE") == std::string::npos;
    if (!is_size || !form.uncertainty.empty()) return std::nullopt;
    // With a point it is written in full, as in 0.1(5.2).
    if (!is_whole(inner)) form.uncertainty = inner;
    rest = rest.substr(0, open);
  }
  form.plain = plain_or_nothing(rest, style);
  if (form.plain.empty()) return std::nullopt;
  if (!in_brackets.empty() && form.uncertainty.empty())
    form.uncertainty = in_last_place(in_brackets, form.plain);
  if (exponent.empty()) return form;
  form.plain += 'e' + exponent;
  if (!form.uncertainty.empty()) form.uncertainty = times_power_of_ten(form.uncertainty, exponent);
  return form;
}

double uncertainty_in_cell(std::string_view cell, const NumberStyle& style, bool percent) {
  const auto form = read_number_form(trimmed(cell), style, percent);
  if (!form || form->uncertainty.empty()) return std::nan("");
  const NumberReading number = read_number(form->uncertainty);
  return number.fault == NumberFault::none ? number.value : std::nan("");
}

}  // namespace opensum
