// Axes: ranges, ticks at round values, and their labels.
#pragma once

#include <optional>
#include <string>
#include <vector>

namespace opensum {

/// Room on both sides of the data, in shares of its range.
constexpr double kAxisMargin = 0.04;

/// An axis from `low` to `high` in the values shown.
struct Scale {
  double low = 0;
  double high = 1;
  bool logarithmic = false;
  bool reversed = false;  ///< the low end stands where the high one would
  std::vector<double> ticks;
  std::vector<std::string> labels;
  /// The power of ten that the labels are divided by, for the axis title; 0 for none.
  int power = 0;
  /// What all dates on the axis share, for the axis title: `2026-03-04`; empty for others.
  std::string shared_date;

  /// Where a value stands: 0 at the left or lower end of the axis, 1 at the other. On a logarithmic axis it
  /// must be above 0.
  double place(double value) const;
  bool holds(double value) const { return value >= low && value <= high; }
};

/// What is asked of an axis: ends that are given stay as they are.
struct ScaleWish {
  bool logarithmic = false;
  std::optional<double> low = {};
  std::optional<double> high = {};
  bool reversed = false;
  bool whole = false;  ///< ticks at whole numbers only, as for counts
};

/// The step of 1, 2 or 5 times a power of ten that divides a range into nearest to `wanted` parts.
double round_step(double range, int wanted);

/// A scale around the values, a little wider than they are, with about `wanted` ticks at multiples of 1, 2 or
/// 5 times a power of ten, on a logarithmic one at powers of ten. Values must be finite, and above 0 for a
/// logarithm; equal values get a range around them.
Scale make_scale(double least, double greatest, int wanted, const ScaleWish& wish = {});

/// The same for dates in seconds since 1970: ticks where seconds, minutes, hours, days, months or years
/// begin.
Scale make_date_scale(double least, double greatest, int wanted, const ScaleWish& wish = {});

/// A scale with a tick for each of some names, at 0, 1, 2, …
Scale make_name_scale(const std::vector<std::string>& names, bool reversed = false);

}  // namespace opensum
