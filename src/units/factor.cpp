// Exact positive factors between units.
#include "units/factor.h"

#include <boost/math/constants/constants.hpp>
#include <boost/multiprecision/cpp_bin_float.hpp>
#include <charconv>

namespace opensum {
namespace {

// A hundred digits leave the rounding to double as the only one that matters.
using Long = boost::multiprecision::cpp_bin_float_100;

constexpr std::uint64_t kPi = 1;
constexpr std::uint64_t kLargestTrialDivisor = 1'000'000;
constexpr double kLargestExactInteger = 9007199254740992.0;  // 2^53
constexpr std::size_t kMostDigits = 18;

}  // namespace

Factor Factor::integer(std::uint64_t value) {
  Factor result;
  for (std::uint64_t prime = 2; prime * prime <= value && prime <= kLargestTrialDivisor;
       prime += 1 + prime % 2) {
    int exponent = 0;
    for (; value % prime == 0; value /= prime) ++exponent;
    if (exponent > 0) result.powers_ = result.powers_ * Powers<std::uint64_t>(prime, exponent);
  }
  if (value > 1) result.powers_ = result.powers_ * Powers<std::uint64_t>(value);
  return result;
}

Factor Factor::ten_to(int exponent) {
  return Factor(Powers<std::uint64_t>(2, exponent) * Powers<std::uint64_t>(5, exponent));
}

Factor Factor::pi() { return Factor(Powers<std::uint64_t>(kPi)); }

std::optional<Factor> Factor::from_decimal(std::string_view text) {
  std::uint64_t digits = 0;
  std::size_t count = 0;
  int scale = 0;
  bool after_point = false;
  std::size_t i = 0;
  for (; i < text.size() && (text[i] == '.' || (text[i] >= '0' && text[i] <= '9')); ++i) {
    if (text[i] == '.') {
      if (after_point) return std::nullopt;
      after_point = true;
      continue;
    }
    if (digits != 0 || text[i] != '0') ++count;
    if (count > kMostDigits) return std::nullopt;
    digits = digits * 10 + static_cast<std::uint64_t>(text[i] - '0');
    if (after_point) --scale;
  }
  if (digits == 0) return std::nullopt;
  if (i < text.size()) {
    if (text[i] != 'e' && text[i] != 'E') return std::nullopt;
    const char* begin = text.data() + i + 1;
    const char* end = text.data() + text.size();
    if (begin != end && *begin == '+') ++begin;
    int exponent = 0;
    const auto [stop, error] = std::from_chars(begin, end, exponent);
    if (error != std::errc() || stop != end || exponent > 400 || exponent < -400) return std::nullopt;
    scale += exponent;
  }
  return integer(digits) * ten_to(scale);
}

double Factor::value() const {
  Long result = 1;
  for (const auto& [base, exponent] : powers_.terms()) {
    const Long number = base == kPi ? boost::math::constants::pi<Long>() : Long(base);
    if (exponent.is_integer()) {
      result *= pow(number, static_cast<int>(exponent.numerator()));
    } else {
      result *= pow(number, Long(exponent.numerator()) / exponent.denominator());
    }
  }
  return result.convert_to<double>();
}

std::optional<Factor::Fraction> Factor::fraction() const {
  Fraction result;
  for (const auto& [base, exponent] : powers_.terms()) {
    if (base == kPi || !exponent.is_integer()) return std::nullopt;
    double& side = exponent.numerator() > 0 ? result.numerator : result.denominator;
    for (std::int64_t n = std::abs(exponent.numerator()); n > 0; --n) {
      side *= static_cast<double>(base);
      if (side > kLargestExactInteger) return std::nullopt;
    }
  }
  return result;
}

}  // namespace opensum
