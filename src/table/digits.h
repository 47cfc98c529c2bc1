// Digits and signs of numbers in texts.
#pragma once

#include <cstddef>
#include <string_view>

namespace opensum {

/// The minus sign proper.
constexpr std::string_view kMinusSign = "\u2212";

/// Up to 2^53 every whole number is a double.
constexpr double kLargestExactInteger = 9007199254740992.0;

constexpr bool is_digit(char c) { return c >= '0' && c <= '9'; }

/// Goes on to what follows the digits at a place; how many there were.
inline std::size_t skip_digits(std::string_view text, std::size_t& at) {
  const std::size_t begin = at;
  while (at < text.size() && is_digit(text[at])) ++at;
  return at - begin;
}

}  // namespace opensum
