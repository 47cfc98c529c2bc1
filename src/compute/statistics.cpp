// Sums, means, spreads and quantiles of values.
#include "compute/statistics.h"

#include <algorithm>
#include <cmath>

namespace opensum {

void CompensatedSum::add(double value) {
  const double sum = sum_ + value;
  if (std::fabs(sum_) >= std::fabs(value)) {
    correction_ += (sum_ - sum) + value;
  } else {
    correction_ += (value - sum) + sum_;
  }
  sum_ = sum;
}

double sum_of(std::span<const double> values) {
  CompensatedSum sum;
  for (const double value : values) sum.add(value);
  return sum.value();
}

double mean_of(std::span<const double> values) { return sum_of(values) / static_cast<double>(values.size()); }

double deviation_of(std::span<const double> values) {
  const double count = static_cast<double>(values.size());
  const double mean = mean_of(values);
  CompensatedSum squares;
  CompensatedSum rest;
  for (const double value : values) {
    squares.add((value - mean) * (value - mean));
    rest.add(value - mean);
  }
  const double left = rest.value() * rest.value() / count;
  return std::sqrt(std::max(squares.value() - left, 0.0) / (count - 1));
}

double quantile_of(std::vector<double>& values, double p) {
  std::sort(values.begin(), values.end());
  const double at = static_cast<double>(values.size() - 1) * p;
  const auto below = static_cast<std::size_t>(std::floor(at));
  const double part = at - std::floor(at);
  if (part == 0 || values[below] == values[below + 1]) return values[below];
  // Weighted, not by way of the difference, which may be beyond the largest number.
  return (1 - part) * values[below] + part * values[below + 1];
}

double median_of(std::vector<double>& values) { return quantile_of(values, 0.5); }

}  // namespace opensum
