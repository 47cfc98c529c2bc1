// Axes: ranges, ticks at round values, and their labels.
#include "figure/scale.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace opensum {
namespace {

constexpr double kMargin = 0.04;  // of the data's range, on both sides
// Labels outside these powers of ten are divided by a common one.
constexpr int kLargestPlainPower = 5;
constexpr int kSmallestPlainPower = -4;

// The step of 1, 2 or 5 times a power of ten that divides a range into nearest to `wanted` parts.
double round_step(double range, int wanted) {
  const double rough = range / wanted;
  const double power = std::pow(10, std::floor(std::log10(rough)));
  double best = power;
  for (const double factor : {2.0, 5.0, 10.0}) {
    const double step = factor * power;
    if (std::fabs(std::log(step / rough)) < std::fabs(std::log(best / rough))) best = step;
  }
  return best;
}

int decimals_of(double step) {
  const int decimals = -static_cast<int>(std::floor(std::log10(step) + 1e-9));
  return std::max(decimals, 0);
}

}  // namespace

Scale make_scale(double least, double greatest, int wanted) {
  Scale scale;
  double range = greatest - least;
  // Too narrow to be told apart in doubles, or of no width at all.
  const double size = std::max(std::fabs(least), std::fabs(greatest));
  if (!(range > size * 1e-12)) range = size > 0 ? size * 0.2 : 2;
  const double middle = least / 2 + greatest / 2;
  const double half = range * (0.5 + kMargin);
  scale.low = middle - half;
  scale.high = middle + half;
  const double step = round_step(scale.high - scale.low, wanted);
  const auto first = static_cast<long long>(std::ceil(scale.low / step - 1e-9));
  const auto last = static_cast<long long>(std::floor(scale.high / step + 1e-9));
  const double largest = std::max(std::fabs(scale.low), std::fabs(scale.high));
  const int magnitude = static_cast<int>(std::floor(std::log10(largest)));
  if (magnitude >= kLargestPlainPower || magnitude <= kSmallestPlainPower) scale.power = magnitude;
  const double unit = std::pow(10, scale.power);
  const int decimals = decimals_of(step / unit);
  for (long long i = first; i <= last; ++i) {
    const double tick = static_cast<double>(i) * step;
    scale.ticks.push_back(tick);
    std::string label = fmt::format("{:.{}f}", tick / unit, decimals);
    if (label.find_first_not_of("-0.") == std::string::npos && label[0] == '-') label.erase(0, 1);
    scale.labels.push_back(std::move(label));
  }
  return scale;
}

}  // namespace opensum
