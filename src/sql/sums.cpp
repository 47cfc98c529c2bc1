// Sums without the errors of adding one number after the other.
#include "sql/sums.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <limits>

#include "sql/value.h"

namespace opensum {

ExactSum exact_sum(const std::string& value, const Bounds& bounds, double rows, const std::string& name) {
  constexpr int kBits = 48;
  constexpr int kMost = 900;
  const double size = bounds.size();
  if (size * rows > 1e300) throw NotInSql{fmt::format("{} may overflow", name)};
  int exponent = 0;
  if (size > 0) std::frexp(size, &exponent);
  // Nor may what is left of the smallest values vanish.
  const double left = std::ldexp(bounds.tiny, 2 * kBits - exponent - std::numeric_limits<double>::digits);
  if (std::abs(exponent) > kMost || std::min(left, std::ldexp(bounds.tiny, kBits - exponent)) < 1e-300)
    throw NotInSql{fmt::format("{} goes over numbers of too unlike sizes", name)};
  ExactSum sum;
  sum.high_unit = sql_number(std::ldexp(1.0, kBits - exponent)) + "::float8";
  sum.low_unit = sql_number(std::ldexp(1.0, 2 * kBits - exponent)) + "::float8";
  sum.high = fmt::format("sum(({} * {})::bigint)", value, sum.high_unit);
  sum.low =
      fmt::format("sum((({0} - round({0} * {1}) / {1}) * {2})::bigint)", value, sum.high_unit, sum.low_unit);
  return sum;
}

}  // namespace opensum
