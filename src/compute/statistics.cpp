// Sums, means, spreads and quantiles of values.
#include "compute/statistics.h"

#include <algorithm>
#include <cmath>

namespace opensum {

void CompensatedSum::add(double value) {
  constexpr double kSmaller = 0x1p-200;
  if (scale_ != 1) value *= kSmaller;
  double sum = sum_ + value;
  if (!std::isfinite(sum) && scale_ == 1) {
    sum_ *= kSmaller;
    correction_ *= kSmaller;
    value *= kSmaller;
    scale_ = 1 / kSmaller;
    sum = sum_ + value;
  }
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

double mean_of(std::span<const double> values) {
  CompensatedSum sum;
  for (const double value : values) sum.add(value);
  return sum.over(static_cast<double>(values.size()));
}

namespace {

// The sum of two doubles and what its rounding lost (Knuth).
Twofold exact_sum(double a, double b) {
  const double sum = a + b;
  const double of_b = sum - a;
  return {sum, (a - (sum - of_b)) + (b - of_b)};
}

// The product of two doubles and what its rounding lost (Dekker).
Twofold exact_product(double a, double b) {
  constexpr double kSplit = 134217729;  // 2^27 + 1
  const auto halves = [](double x) {
    const double far = kSplit * x;
    const double high = far - (far - x);
    return Twofold{high, x - high};
  };
  const double product = a * b;
  const Twofold x = halves(a);
  const Twofold y = halves(b);
  return {product, ((x.high * y.high - product) + x.high * y.low + x.low * y.high) + x.low * y.low};
}

Twofold sum(const Twofold& a, const Twofold& b) {
  const Twofold high = exact_sum(a.high, b.high);
  return exact_sum(high.high, high.low + (a.low + b.low));
}

Twofold square(const Twofold& a) {
  const Twofold high = exact_product(a.high, a.high);
  return exact_sum(high.high, high.low + 2 * a.high * a.low);
}

Twofold product(const Twofold& a, const Twofold& b) {
  const Twofold high = exact_product(a.high, b.high);
  return exact_sum(high.high, high.low + (a.high * b.low + a.low * b.high));
}

Twofold divided(const Twofold& a, double by) {
  const double quotient = a.high / by;
  const Twofold back = exact_product(quotient, by);
  return exact_sum(quotient, ((a.high - back.high) - back.low + a.low) / by);
}

}  // namespace

void Spread::add(double value) {
  if (count_++ == 0) first_ = value;
  const Twofold distance = exact_sum(value, -first_);
  sum_ = sum(sum_, distance);
  squares_ = sum(squares_, square(distance));
}

double Spread::deviation() const {
  const auto count = static_cast<double>(count_);
  const Twofold of_mean = divided(square(sum_), count);
  const Twofold left = sum(squares_, {-of_mean.high, -of_mean.low});
  // Beyond the largest number there is no variance, and it must not look like none.
  const double squares = left.high + left.low;
  return std::sqrt((squares < 0 ? 0 : squares) / (count - 1));
}

void SumOfSquares::add(double value) {
  if (!any_ && value != 0) {
    std::frexp(value, &exponent_);
    any_ = true;
  }
  const double scaled = std::ldexp(value, -exponent_);
  sum_.add(scaled * scaled);
}

double SumOfSquares::root_mean(double count) const {
  return std::ldexp(std::sqrt(sum_.over(count)), exponent_);
}

void CommonSpread::add(double x, double y) {
  if (count_++ == 0) {
    first_x_ = x;
    first_y_ = y;
  }
  const Twofold from_x = exact_sum(x, -first_x_);
  const Twofold from_y = exact_sum(y, -first_y_);
  sum_x_ = sum(sum_x_, from_x);
  sum_y_ = sum(sum_y_, from_y);
  squares_x_ = sum(squares_x_, square(from_x));
  squares_y_ = sum(squares_y_, square(from_y));
  products_ = sum(products_, product(from_x, from_y));
}

std::optional<double> CommonSpread::correlation() const {
  const auto count = static_cast<double>(count_);
  const auto left = [&](const Twofold& products, const Twofold& a, const Twofold& b) {
    const Twofold of_means = divided(product(a, b), count);
    const Twofold rest = sum(products, {-of_means.high, -of_means.low});
    return rest.high + rest.low;
  };
  const double xx = left(squares_x_, sum_x_, sum_x_);
  const double yy = left(squares_y_, sum_y_, sum_y_);
  if (!std::isfinite(xx) || !std::isfinite(yy)) return std::nan("");
  if (!(xx > 0) || !(yy > 0)) return std::nullopt;
  const double correlation = left(products_, sum_x_, sum_y_) / (std::sqrt(xx) * std::sqrt(yy));
  return std::clamp(correlation, -1.0, 1.0);
}

double deviation_of(std::span<const double> values) {
  Spread spread;
  for (const double value : values) spread.add(value);
  return spread.deviation();
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

Instant quantile_of(std::vector<Instant>& values, double p) {
  std::sort(values.begin(), values.end());
  const double at = static_cast<double>(values.size() - 1) * p;
  const auto below = static_cast<std::size_t>(std::floor(at));
  const double part = at - std::floor(at);
  return part > 0 ? instant_between(values[below], values[below + 1], part) : values[below];
}

Instant median_of(std::vector<Instant>& values) { return quantile_of(values, 0.5); }

Instant mean_of(std::span<const Instant> values) {
  std::vector<double> distances;
  distances.reserve(values.size());
  for (const Instant& value : values) distances.push_back(seconds_between(values.front(), value));
  return later(values.front(), mean_of(distances));
}

}  // namespace opensum
