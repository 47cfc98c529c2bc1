// The short exact way to read most numbers.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <string_view>

namespace opensum {

/// The powers of ten that a double holds exactly.
constexpr std::array<double, 23> kExactPowers = {1e0,  1e1,  1e2,  1e3,  1e4,  1e5,  1e6,  1e7,
                                                 1e8,  1e9,  1e10, 1e11, 1e12, 1e13, 1e14, 1e15,
                                                 1e16, 1e17, 1e18, 1e19, 1e20, 1e21, 1e22};

/// Whether a text is a number that is read in the short way.
inline bool is_usual_number(std::string_view text) {
  constexpr std::size_t kMostDigits = 15;
  std::size_t others = 0;  // a sign and a point
  std::size_t at = 0;
  const auto skip = [&](char c) {
    if (at == text.size() || text[at] != c) return;
    ++others;
    ++at;
  };
  const auto skip_digits = [&] {
    while (at < text.size() && static_cast<unsigned char>(text[at] - '0') < 10) ++at;
  };
  skip('-');
  skip_digits();
  skip('.');
  skip_digits();
  return at == text.size() && at > others && at - others <= kMostDigits;
}

/// Reads a number without exponent whose digits a double holds exactly: one division of two exact numbers is
/// rounded right (Clinger 1990). False for all others.
inline bool read_usual_number(std::string_view text, double& value) {
  constexpr std::size_t kMostDigits = 15;
  const auto digit = [](char c) { return static_cast<unsigned char>(c - '0'); };
  const char* at = text.data();
  const char* const end = at + text.size();
  const bool negative = at < end && *at == '-';
  if (negative) ++at;
  std::uint64_t digits = 0;
  const char* const begin = at;
  while (at < end && digit(*at) < 10) digits = digits * 10 + digit(*at++);
  auto count = static_cast<std::size_t>(at - begin);
  std::size_t decimals = 0;
  if (at < end && *at == '.') {
    const char* const point = ++at;
    while (at < end && digit(*at) < 10) digits = digits * 10 + digit(*at++);
    decimals = static_cast<std::size_t>(at - point);
    count += decimals;
  }
  // With more digits the sum may have run over; it is not looked at.
  if (at != end || count == 0 || count > kMostDigits) return false;
  const double whole = static_cast<double>(digits) / kExactPowers[decimals];
  value = negative ? -whole : whole;
  return true;
}

}  // namespace opensum
