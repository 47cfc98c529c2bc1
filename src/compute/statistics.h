// Sums, means, spreads and quantiles of values, accurate on hard data (large offset, tiny spread).
#pragma once

#include <cstddef>
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

/// A number as the sum of two doubles, of which the second holds what the first cannot.
struct Twofold {
  double high = 0;
  double low = 0;
};

/// The spread of values that come one by one. The sums of their distances from the first and of the squares
/// of those are held in twice the digits of a double (sums after Knuth, products after Dekker 1971), so that
/// their difference keeps all the digits that the values have.
class Spread {
 public:
  void add(double value);
  /// The sample standard deviation (n - 1); of at least two values.
  double deviation() const;

 private:
  std::size_t count_ = 0;
  double first_ = 0;
  Twofold sum_;
  Twofold squares_;
};

/// The sample standard deviation (n - 1) of at least two values.
double deviation_of(std::span<const double> values);

/// The quantile for a fraction p from 0 to 1: order statistics interpolated linearly at (n - 1) p; of at
/// least one value. Sorts the values.
double quantile_of(std::vector<double>& values, double p);

/// The quantile for 0.5.
double median_of(std::vector<double>& values);

}  // namespace opensum
