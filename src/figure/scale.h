// Axes: ranges, ticks at round values, and their labels.
#pragma once

#include <string>
#include <vector>

namespace opensum {

/// A linear axis from `low` to `high` in the values shown.
struct Scale {
  double low = 0;
  double high = 1;
  std::vector<double> ticks;
  std::vector<std::string> labels;
  /// The power of ten that the labels are divided by, for the axis title; 0 for none.
  int power = 0;
};

/// A scale around the values, a little wider than they are, with about `wanted` ticks at multiples of 1, 2 or
/// 5 times a power of ten. Values must be finite; equal values get a range around them.
Scale make_scale(double least, double greatest, int wanted);

}  // namespace opensum
