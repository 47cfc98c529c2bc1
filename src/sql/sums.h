// Sums without the errors of adding one number after the other.
#pragma once

#include <string>

#include "sql/bounds.h"

namespace opensum {

/// A sum by whole numbers: the leading 48 bits of each value as multiples of a power of two, then the
/// next 48. It is high / high_unit + low / low_unit, of two aggregates.
struct ExactSum {
  std::string high;
  std::string high_unit;
  std::string low;
  std::string low_unit;
};

/// The sum of values within bounds, over at most so many rows; `name` is that of the function, for
/// messages. Throws NotInSql.
ExactSum exact_sum(const std::string& value, const Bounds& bounds, double rows, const std::string& name);

}  // namespace opensum
