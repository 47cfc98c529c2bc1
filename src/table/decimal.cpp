// Numbers as the decimals that people typed.
#include "table/decimal.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <limits>

#include "table/digits.h"
#include "table/usual_number.h"

namespace opensum {
namespace {

__extension__ using Wide = __int128;

constexpr int kDigits = 15;
constexpr double kFirstOfSixteenDigits = 1e15;
constexpr double kFirstOfSeventeenDigits = 1e16;
// So many powers of ten times the digits of a number fit into a word of 128 bits.
constexpr int kMostShift = 19;

// Whether a size is taken as the double that it is: whole numbers of up to 16 digits, and what lies between
// the largest of these.
bool is_exact(double size) {
  return size < kFirstOfSeventeenDigits && (size >= kFirstOfSixteenDigits || size == std::floor(size));
}

// digits * 10^exponent
struct Decimal {
  std::int64_t digits = 0;
  int exponent = 0;
};

// The decimal of a size that is neither zero nor held exactly, by the library that is right for all sizes.
Decimal any_decimal(double size) {
  // d.dddddddddddddde±xxx
  const std::string text = fmt::format("{:.{}e}", size, kDigits - 1);
  Decimal decimal;
  std::size_t at = 0;
  for (; text[at] != 'e'; ++at) {
    if (text[at] != '.') decimal.digits = decimal.digits * 10 + (text[at] - '0');
  }
  ++at;
  if (text[at] == '+') ++at;
  std::from_chars(text.data() + at, text.data() + text.size(), decimal.exponent);
  decimal.exponent -= kDigits - 1;
  return decimal;
}

// The same for sizes whose digits are found by one exact power of ten; false where that does not decide.
bool usual_decimal(double size, Decimal& decimal) {
  constexpr double kLeast = 1e-7;
  if (!(size >= kLeast && size < kFirstOfSixteenDigits)) return false;
  // log10(2) = 1233 / 4096; the guess is right or one too small.
  int exponent = (std::ilogb(size) * 1233) >> 12;
  const double next = exponent + 1 >= 0 ? kExactPowers[static_cast<std::size_t>(exponent + 1)]
                                        : 1 / kExactPowers[static_cast<std::size_t>(-exponent - 1)];
  if (size >= next) ++exponent;
  const double scaled = size * kExactPowers[static_cast<std::size_t>(kDigits - 1 - exponent)];
  const double digits = std::nearbyint(scaled);
  // The product is rounded itself: half-way cases are left to others.
  constexpr double kSureBelowHalf = 0.3;
  if (std::fabs(scaled - digits) > kSureBelowHalf || digits < kFirstOfSixteenDigits / 10) return false;
  decimal = {static_cast<std::int64_t>(digits), exponent - (kDigits - 1)};
  return true;
}

Decimal decimal_of(double value) {
  const double size = std::fabs(value);
  Decimal decimal;
  if (size == 0) return decimal;
  if (is_exact(size)) {
    // Beyond 2^50 there are no more than eighths.
    const double whole = std::floor(size);
    const bool parts = whole != size;
    decimal.digits = static_cast<std::int64_t>(whole) * (parts ? 1000 : 1) +
                     static_cast<std::int64_t>((size - whole) * 1000);
    decimal.exponent = parts ? -3 : 0;
  } else if (!usual_decimal(size, decimal)) {
    decimal = any_decimal(size);
  }
  while (decimal.exponent < 0 && decimal.digits % 10 == 0) {
    decimal.digits /= 10;
    ++decimal.exponent;
  }
  if (value < 0) decimal.digits = -decimal.digits;
  return decimal;
}

// The double nearest to digits * 10^exponent.
double value_of(Wide digits, int exponent) {
  const bool negative = digits < 0;
  if (negative) digits = -digits;
  double value = 0;
  if (digits <= static_cast<Wide>(kLargestExactInteger) && exponent <= 0 && exponent >= -22) {
    // Both are exact, and a quotient is rounded once.
    value = static_cast<double>(static_cast<std::int64_t>(digits)) /
            kExactPowers[static_cast<std::size_t>(-exponent)];
  } else {
    std::string text;
    for (Wide rest = digits; rest > 0; rest /= 10)
      text += static_cast<char>('0' + static_cast<int>(rest % 10));
    std::reverse(text.begin(), text.end());
    const auto read = [&](int scale) {
      const std::string all = (text.empty() ? "0" : text) + fmt::format("e{}", scale);
      return std::from_chars(all.data(), all.data() + all.size(), value).ec == std::errc();
    };
    if (!read(exponent) && exponent > 0) {
      // The decimal of the greatest double is a little more than it.
      constexpr double kMostOverTen = 1.79769313486232e307;
      value = read(exponent - 1) && value <= kMostOverTen ? std::numeric_limits<double>::max() : HUGE_VAL;
    }
  }
  return negative ? -value : value;
}

Wide power_of_ten(int exponent) {
  Wide power = 1;
  for (; exponent > 0; --exponent) power *= 10;
  return power;
}

// Two decimals as whole numbers of one power of ten, where both fit.
struct Aligned {
  Wide first = 0;
  Wide second = 0;
  int exponent = 0;
  bool fits = true;
};

Aligned align(const Decimal& a, const Decimal& b) {
  Aligned both;
  if (a.digits == 0 || b.digits == 0) {
    both.exponent = a.digits == 0 ? b.exponent : a.exponent;
    both.first = a.digits;
    both.second = b.digits;
    return both;
  }
  both.exponent = std::min(a.exponent, b.exponent);
  const int shift_a = a.exponent - both.exponent;
  const int shift_b = b.exponent - both.exponent;
  both.fits = std::max(shift_a, shift_b) <= kMostShift;
  if (!both.fits) return both;
  both.first = a.digits * power_of_ten(shift_a);
  both.second = b.digits * power_of_ten(shift_b);
  return both;
}

Wide magnitude(Wide x) { return x < 0 ? -x : x; }

// The exact distance of two decimals; nothing fits where one is beyond all digits of the other.
struct Distance {
  Wide digits = 0;
  int exponent = 0;
  bool fits = true;
};

Distance distance_of(double a, double b) {
  const Aligned both = align(decimal_of(a), decimal_of(b));
  return {magnitude(both.first - both.second), both.exponent, both.fits};
}

// The order of two distances that may have grown to 38 digits: those are compared by digits in common.
int compare(const Distance& a, const Distance& b) {
  Wide first = a.digits;
  Wide second = b.digits;
  int exponent_a = a.exponent;
  int exponent_b = b.exponent;
  // Trailing zeros of the one with the higher exponent; it overflows only where it is the greater one.
  const Wide most = power_of_ten(37);
  while (first != 0 && exponent_a > exponent_b) {
    if (first > most) return 1;
    first *= 10;
    --exponent_a;
  }
  while (second != 0 && exponent_b > exponent_a) {
    if (second > most) return -1;
    second *= 10;
    --exponent_b;
  }
  return first < second ? -1 : first > second ? 1 : 0;
}

// The remainder of |a| after multiples of |b|, in powers of ten of the finer one; b is not zero.
struct Division {
  Wide remainder = 0;
  Wide divisor = 0;
  int exponent = 0;
  bool odd = false;  ///< the quotient is
};

Division divide(const Decimal& a, const Decimal& b) {
  Division result;
  const Wide dividend = magnitude(a.digits);
  result.divisor = magnitude(b.digits);
  if (dividend == 0) return result;
  if (a.exponent >= b.exponent) {
    // Digit by digit, as by hand.
    result.exponent = b.exponent;
    Wide quotient = dividend / result.divisor;
    result.remainder = dividend % result.divisor;
    for (int shift = a.exponent - b.exponent; shift > 0; --shift) {
      result.remainder *= 10;
      quotient = result.remainder / result.divisor;
      result.remainder %= result.divisor;
    }
    // All digits but the last are times ten, which is even.
    result.odd = quotient % 2 != 0;
    return result;
  }
  result.exponent = a.exponent;
  const int shift = b.exponent - a.exponent;
  if (shift > kMostShift) {
    result.remainder = dividend;
    result.divisor = 0;  // greater than any
    return result;
  }
  result.divisor *= power_of_ten(shift);
  result.remainder = dividend % result.divisor;
  result.odd = dividend / result.divisor % 2 != 0;
  return result;
}

}  // namespace

double as_typed(double value) {
  const double size = std::fabs(value);
  if (size == 0) return 0;
  if (is_exact(size)) return value;
  Decimal decimal;
  if (!usual_decimal(size, decimal)) decimal = any_decimal(size);
  return value_of(value < 0 ? -decimal.digits : decimal.digits, decimal.exponent);
}

bool within_typed(double a, double b, double width) {
  const double distance = std::fabs(a - b);
  const double doubt = 1e-14 * (std::fabs(a) + std::fabs(b) + width);
  if (std::fabs(distance - width) > doubt) return distance < width;
  const Distance exact = distance_of(a, b);
  if (!exact.fits) return distance <= width;
  const Decimal bound = decimal_of(width);
  return compare(exact, {bound.digits, bound.exponent, true}) <= 0;
}

int nearer_typed(double to, double first, double second) {
  const double to_first = std::fabs(to - first);
  const double to_second = std::fabs(to - second);
  const double doubt = 1e-14 * (std::fabs(to) + std::fabs(first) + std::fabs(second));
  if (std::fabs(to_first - to_second) > doubt) return to_first < to_second ? -1 : 1;
  const Distance a = distance_of(to, first);
  const Distance b = distance_of(to, second);
  if (!a.fits || !b.fits) return to_first < to_second ? -1 : to_first > to_second ? 1 : 0;
  return compare(a, b);
}

double rounded_typed(double value, double step, Rounding rounding) {
  const Decimal whole = decimal_of(value);
  const Decimal by = decimal_of(step);
  if (whole.digits == 0) return 0;
  const bool negative = value < 0;
  const Division division = divide(whole, by);
  if (division.remainder == 0) return as_typed(value);
  bool away = false;
  switch (rounding) {
    case Rounding::half_even: {
      // Beyond all digits of the step a value is less than half of it.
      const Wide rest = 2 * division.remainder;
      away = division.divisor != 0 && (rest > division.divisor || (rest == division.divisor && division.odd));
      break;
    }
    case Rounding::down:
      away = negative;
      break;
    case Rounding::up:
      away = !negative;
      break;
    case Rounding::toward_zero:
      break;
  }
  if (division.divisor == 0) return away ? (negative ? -as_typed(step) : as_typed(step)) : 0;
  const Wide change = away ? division.divisor - division.remainder : -division.remainder;
  const int shift = whole.exponent - division.exponent;
  if (shift > kMostShift) {
    const double size = std::fabs(value) + value_of(change, division.exponent);
    return negative ? -size : size;
  }
  const Wide size = magnitude(whole.digits) * power_of_ten(shift) + change;
  return value_of(negative ? -size : size, division.exponent);
}

double modulo_typed(double value, double step) {
  const Division division = divide(decimal_of(value), decimal_of(step));
  const bool negative = step < 0;
  if (division.remainder == 0) return 0;
  if ((value < 0) == negative) {
    return value_of(negative ? -division.remainder : division.remainder, division.exponent);
  }
  if (division.divisor == 0) return as_typed(step) + as_typed(value);
  const Wide rest = division.divisor - division.remainder;
  return value_of(negative ? -rest : rest, division.exponent);
}

}  // namespace opensum
