// Numbers as the decimals that people typed. In a double 0.11 cm and 1.1 mm are not quite the same, nor is
// 0.3 over 0.1 quite three; so numbers are compared, matched and rounded as they stand at 15 significant
// digits, and whole numbers of up to 16 digits exactly.
#pragma once

#include <cstdint>

namespace opensum {

/// The double nearest to what a number is at 15 significant digits; the number itself where that is whole and
/// a double holds it exactly. -0 becomes 0. Numbers of the same decimal become the same double, and order is
/// kept.
double as_typed(double value);

/// Whether two numbers are so near that they may be the same decimal; those that are not compare as they
/// stand.
inline bool may_be_same(double a, double b) {
  const double distance = a > b ? a - b : b - a;
  const double size = (a < 0 ? -a : a) + (b < 0 ? -b : b);
  return distance <= 1e-14 * size;
}

/// Whether two numbers are the same decimal.
inline bool same_typed(double a, double b) {
  return a == b || (may_be_same(a, b) && as_typed(a) == as_typed(b));
}

/// Less, the same or greater as decimals: -1, 0 or 1.
inline int compare_typed(double a, double b) {
  if (a == b) return 0;
  if (may_be_same(a, b)) {
    a = as_typed(a);
    b = as_typed(b);
  }
  return a < b ? -1 : a > b ? 1 : 0;
}

/// Whether two decimals are no farther from one another than a third, which is not negative.
bool within_typed(double a, double b, double width);

/// Which of two decimals is nearer to a third: -1 for the first, 1 for the second, 0 for both alike.
int nearer_typed(double to, double first, double second);

enum class Rounding : std::uint8_t { half_even, down, up, toward_zero };

/// The multiple of a step to which a decimal is rounded; the step is positive.
double rounded_typed(double value, double step, Rounding rounding);

/// What is left of a decimal after the multiples of a step, with the sign of the step; the step is not zero.
double modulo_typed(double value, double step);

}  // namespace opensum
