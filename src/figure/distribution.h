// How values are distributed: counted in bins, and by quartiles.
#pragma once

#include <cstddef>
#include <vector>

namespace opensum {

/// Borders of bins with round widths that hold all values, ascending; on a logarithmic scale of equal ratios,
/// where all must be above 0. About `wanted` of them, or with 0 as many as the rule of Freedman and Diaconis
/// (1981) gives.
std::vector<double> bin_borders(std::vector<double> values, std::size_t wanted, bool logarithmic);

/// How many values lie in each bin: from its lower border up to but without the upper one, which belongs to
/// the last bin alone.
std::vector<std::size_t> bin_counts(const std::vector<double>& values, const std::vector<double>& borders);

/// What a box shows of values.
struct Quartiles {
  double low_whisker = 0;  ///< the least value within 1.5 box lengths of the box (Tukey 1977)
  double first = 0;
  double median = 0;
  double third = 0;
  double high_whisker = 0;
  std::vector<double> beyond;  ///< the values outside the whiskers
};

/// The quartiles of at least one value, as `col_quantile` gives them.
Quartiles quartiles_of(std::vector<double> values);

}  // namespace opensum
