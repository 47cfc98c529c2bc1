// Sums, means, spreads and quantiles of values, accurate on hard data (large offset, tiny spread).
#pragma once

#include <cstddef>
#include <optional>
#include <span>
#include <vector>

#include "table/instant.h"

namespace opensum {

/// Sums with the correction of Neumaier (1974), which keeps the digits that plain summing of values of
/// unlike size loses.
class CompensatedSum {
 public:
  void add(double value);
  double value() const { return (sum_ + correction_) * scale_; }
  /// The sum over a count, also where the sum itself is beyond the largest double.
  double over(double count) const { return (sum_ + correction_) / count * scale_; }

 private:
  double sum_ = 0;
  double correction_ = 0;
  /// What the sum is held in; a power of two other than 1 once it grew beyond the largest double.
  double scale_ = 1;
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

/// The squares of values that come one by one, held in a power of two near the first, so that neither very
/// small nor very large ones leave what a double can hold.
class SumOfSquares {
 public:
  void add(double value);
  /// The root of the mean of so many squares.
  double root_mean(double count) const;

 private:
  CompensatedSum sum_;
  int exponent_ = 0;
  bool any_ = false;
};

/// How two quantities vary together, as Spread does it for one.
class CommonSpread {
 public:
  void add(double x, double y);
  /// Pearson's correlation; nothing where one of them does not vary, NaN where squares are beyond the largest
  /// double.
  std::optional<double> correlation() const;

 private:
  std::size_t count_ = 0;
  double first_x_ = 0;
  double first_y_ = 0;
  Twofold sum_x_;
  Twofold sum_y_;
  Twofold squares_x_;
  Twofold squares_y_;
  Twofold products_;
};

/// The sample standard deviation (n - 1) of at least two values.
double deviation_of(std::span<const double> values);

/// The quantile for a fraction p from 0 to 1: order statistics interpolated linearly at (n - 1) p; of at
/// least one value. Sorts the values.
double quantile_of(std::vector<double>& values, double p);

/// The quantile for 0.5.
double median_of(std::vector<double>& values);

/// The same of dates, and their mean: that of their distances from the first.
Instant quantile_of(std::vector<Instant>& values, double p);
Instant median_of(std::vector<Instant>& values);
Instant mean_of(std::span<const Instant> values);

}  // namespace opensum
