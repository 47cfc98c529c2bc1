// A value beside its standard error as people read it.
#include "table/value_with_error.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>

#include "table/number_text.h"

namespace opensum {
namespace {

// The power of ten of a number's first digit once it is rounded to so many significant digits.
int decade_of(double value, int digits) {
  const std::string text = fmt::format("{:.{}e}", std::abs(value), digits - 1);
  return std::atoi(text.c_str() + text.find('e') + 1);
}

// Rounded to a multiple of ten to the power `place`, in full.
std::string to_place(double value, int place) {
  std::string text;
  if (place <= 0) {
    text = fmt::format("{:.{}f}", value, -place);
  } else {
    // Digits before the point that are none are zeros: 1234 to tens is 1230.
    const double unit = std::pow(10, place);
    text = fmt::format("{:.0f}", std::round(value / unit) * unit);
  }
  return text.find_first_not_of("-0.") == std::string::npos && text.front() == '-' ? text.substr(1) : text;
}

}  // namespace

std::string value_with_error(double value, double error) {
  if (!(std::abs(error) > 0) || !std::isfinite(error) || !std::isfinite(value))
    return number_text(value, kShownDigits);
  // Less than doubles tell apart: a curve that goes through all its points.
  constexpr double kRounding = 1e-12;
  if (std::abs(error) < kRounding * std::abs(value)) return number_text(value, kShownDigits);
  // Usual sizes are written without an exponent, as all other numbers.
  constexpr int kLeast = -5;
  constexpr int kGreatest = 9;
  const int size = std::max(value == 0 ? decade_of(error, 2) : decade_of(value, 6), decade_of(error, 2));
  if (size < kLeast || size > kGreatest) {
    const double scale = std::pow(10, -size);
    const double to_one = std::isfinite(scale) && scale > 0 ? scale : 0;
    if (to_one == 0) return number_text(value, kShownDigits);
    return fmt::format("{}e{}{:02}", value_with_error(value * to_one, error * to_one), size < 0 ? '-' : '+',
                       std::abs(size));
  }
  const int first = decade_of(error, 2);
  const int place = first - 1;
  std::string digits;
  if (first < 0) {
    digits = fmt::format("{:.0f}", std::abs(error) * std::pow(10, -place));
  } else {
    digits = to_place(std::abs(error), place);
  }
  return fmt::format("{}({})", to_place(value, place), digits);
}

std::string share_text(double value) {
  constexpr int kFewest = 3;
  constexpr int kMost = 8;
  const double lacks = 1 - std::abs(value);
  const int decimals = lacks > 0 ? std::clamp(1 - decade_of(lacks, 2), kFewest, kMost) : kFewest;
  return lacks > 0 ? fmt::format("{:.{}f}", value, decimals) : number_text(value);
}

}  // namespace opensum
