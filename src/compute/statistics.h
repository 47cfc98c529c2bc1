// Sums, means, spreads and quantiles of values, accurate on hard data (large offset, tiny spread).
#pragma once

#include <span>
#include <vector>

namespace opensum {

/// Sums with the correction of Neumaier (1974), which keeps the digits that plain summing of values of
/// unlike size loses.
class CompensatedSum {
 public:
  void add(double value);
  double value() const { return sum_ + correction_; }

 private:
  double sum_ = 0;
  double correction_ = 0;
};

double sum_of(std::span<const double> values);

/// The arithmetic mean; of at least one value.
double mean_of(std::span<const double> values);

/// The sample standard deviation (n - 1) in two passes, with the correction of Chan, Golub and LeVeque (1983)
/// for the rounding of the mean; of at least two values.
double deviation_of(std::span<const double> values);

/// The quantile for a fraction p from 0 to 1: order statistics interpolated linearly at (n - 1) p; of at
/// least one value. Sorts the values.
double quantile_of(std::vector<double>& values, double p);

/// The quantile for 0.5.
double median_of(std::vector<double>& values);

}  // namespace opensum
