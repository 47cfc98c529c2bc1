// Exact fractions of 64-bit integers.
#include "units/rational.h"

#include <charconv>
#include <limits>
#include <stdexcept>

namespace opensum {
namespace {

__extension__ using Wide = __int128;

Wide greatest_common_divisor(Wide a, Wide b) {
  if (a < 0) a = -a;
  if (b < 0) b = -b;
  while (b != 0) {
    const Wide rest = a % b;
    a = b;
    b = rest;
  }
  return a;
}

Rational reduced(Wide numerator, Wide denominator) {
  if (denominator == 0) throw std::domain_error("a fraction has the denominator zero");
  if (denominator < 0) {
    numerator = -numerator;
    denominator = -denominator;
  }
  const Wide common = greatest_common_divisor(numerator, denominator);
  numerator /= common;
  denominator /= common;
  constexpr Wide kMost = std::numeric_limits<std::int64_t>::max();
  if (numerator > kMost || numerator < -kMost || denominator > kMost) {
    throw std::overflow_error("a fraction leaves the range of 64 bits");
  }
  return {static_cast<std::int64_t>(numerator), static_cast<std::int64_t>(denominator)};
}

}  // namespace

Rational::Rational(std::int64_t numerator, std::int64_t denominator) {
  const std::int64_t common = std::gcd(numerator, denominator);
  if (common == 0) throw std::domain_error("a fraction has the denominator zero");
  const std::int64_t sign = denominator < 0 ? -1 : 1;
  numerator_ = sign * numerator / common;
  denominator_ = sign * denominator / common;
}

std::optional<Rational> Rational::from_decimal(std::string_view text) {
  bool negative = false;
  if (!text.empty() && (text[0] == '-' || text[0] == '+')) {
    negative = text[0] == '-';
    text.remove_prefix(1);
  }
  Wide digits = 0;
  int scale = 0;
  bool after_point = false;
  std::size_t count = 0;
  std::size_t i = 0;
  for (; i < text.size(); ++i) {
    const char c = text[i];
    if (c == '.' && !after_point) {
      after_point = true;
      continue;
    }
    if (c < '0' || c > '9') break;
    if (digits > std::numeric_limits<std::int64_t>::max()) return std::nullopt;
    digits = digits * 10 + (c - '0');
    if (after_point) --scale;
    ++count;
  }
  if (count == 0) return std::nullopt;
  if (i < text.size() && (text[i] == 'e' || text[i] == 'E')) {
    int exponent = 0;
    const char* begin = text.data() + i + 1;
    const char* end = text.data() + text.size();
    if (begin != end && *begin == '+') ++begin;
    const auto [stop, error] = std::from_chars(begin, end, exponent);
    if (error != std::errc() || stop != end || exponent > 400 || exponent < -400) return std::nullopt;
    scale += exponent;
    i = text.size();
  }
  if (i != text.size()) return std::nullopt;
  Wide denominator = 1;
  constexpr Wide kMost = Wide(1) << 120;
  for (; scale < 0; ++scale) {
    if (digits % 10 == 0) {
      digits /= 10;
      continue;
    }
    if (denominator > kMost / 10) return std::nullopt;
    denominator *= 10;
  }
  for (; scale > 0 && digits != 0; --scale) {
    if (digits > kMost / 10) return std::nullopt;
    digits *= 10;
  }
  try {
    return reduced(negative ? -digits : digits, denominator);
  } catch (const std::overflow_error&) {
    return std::nullopt;
  }
}

std::string Rational::text() const {
  std::string out = std::to_string(numerator_);
  if (denominator_ != 1) out += '/' + std::to_string(denominator_);
  return out;
}

Rational operator+(const Rational& a, const Rational& b) {
  return reduced(Wide(a.numerator_) * b.denominator_ + Wide(b.numerator_) * a.denominator_,
                 Wide(a.denominator_) * b.denominator_);
}

Rational operator-(const Rational& a, const Rational& b) {
  return reduced(Wide(a.numerator_) * b.denominator_ - Wide(b.numerator_) * a.denominator_,
                 Wide(a.denominator_) * b.denominator_);
}

Rational operator*(const Rational& a, const Rational& b) {
  return reduced(Wide(a.numerator_) * b.numerator_, Wide(a.denominator_) * b.denominator_);
}

Rational operator/(const Rational& a, const Rational& b) {
  return reduced(Wide(a.numerator_) * b.denominator_, Wide(a.denominator_) * b.numerator_);
}

}  // namespace opensum
