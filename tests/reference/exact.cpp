// Numbers as exact fractions.
#include "reference/exact.h"

#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <limits>
#include <string>

namespace opensum::reference {

using boost::multiprecision::cpp_int;

Exact typed(double number) {
  const double size = std::fabs(number);
  if (size == 0) return 0;
  if (size < 1e16 && (size >= 1e15 || size == std::floor(size))) {
    // A double of that size is a whole number of eighths at most.
    return Exact(static_cast<std::int64_t>(number * 8), 8);
  }
  char text[40];
  std::snprintf(text, sizeof text, "%.14e", number);
  const std::string all = text;
  const std::size_t e = all.find('e');
  std::string digits = all.substr(0, e);
  const std::size_t point = digits.find('.');
  digits.erase(point, 1);
  const int exponent = std::stoi(all.substr(e + 1)) - 14;
  Exact value =
      cpp_int(digits[0] == '-' ? digits.substr(1).erase(0, digits.substr(1).find_first_not_of('0')) : digits);
  const Exact scale =
      Exact(boost::multiprecision::pow(cpp_int(10), static_cast<unsigned>(std::abs(exponent))));
  if (exponent < 0) {
    value /= scale;
  } else {
    value *= scale;
  }
  return number < 0 ? Exact(-value) : value;
}

double nearest_double(const Exact& decimal) {
  // The decimal of the greatest double is a little more than it.
  static const double most = std::numeric_limits<double>::max();
  static const Exact most_typed = typed(most);
  if (decimal > Exact(most) && decimal <= most_typed) return most;
  if (decimal < Exact(-most) && decimal >= -most_typed) return -most;
  Exact scaled = decimal;
  int exponent = 0;
  while (denominator(scaled) != 1) {
    scaled *= 10;
    --exponent;
  }
  return std::strtod((numerator(scaled).str() + "e" + std::to_string(exponent)).c_str(), nullptr);
}

Exact floor_of(const Exact& fraction) {
  cpp_int whole = numerator(fraction) / denominator(fraction);
  if (Exact(whole) > fraction) --whole;
  return Exact(whole);
}

}  // namespace opensum::reference
