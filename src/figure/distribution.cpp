// How values are distributed.
#include "figure/distribution.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "compute/statistics.h"
#include "figure/scale.h"

namespace opensum {
namespace {

constexpr std::size_t kMostBins = 60;

// The width that the rule of Freedman and Diaconis gives, or that of Sturges where half of the values are
// equal.
double suggested_width(std::vector<double>& values, double range) {
  const auto count = static_cast<double>(values.size());
  const double middle_half = quantile_of(values, 0.75) - quantile_of(values, 0.25);
  if (middle_half > 0) return 2 * middle_half / std::cbrt(count);
  return range / (std::log2(count) + 1);
}

}  // namespace

std::vector<double> bin_borders(std::vector<double> values, std::size_t wanted, bool logarithmic) {
  if (values.empty()) return {};
  if (logarithmic) {
    for (double& value : values) value = std::log10(value);
  }
  const auto [least, greatest] = std::minmax_element(values.begin(), values.end());
  // The range of huge values would be more than doubles hold.
  constexpr double kHuge = 1e300;
  const double shrink = std::max(std::fabs(*least), std::fabs(*greatest)) > kHuge ? 0x1p-20 : 1;
  for (double& value : values) value *= shrink;
  const double low = *least;
  const double high = *greatest;
  const double range = high > low ? high - low : std::max(std::fabs(low) * 0.1, 1.0);
  double parts = static_cast<double>(wanted);
  if (wanted == 0) parts = std::ceil(range / suggested_width(values, range));
  parts = std::clamp(parts, 1.0, static_cast<double>(wanted == 0 ? kMostBins : wanted));
  double width = round_step(range, std::max(1, static_cast<int>(parts)));
  // Narrower than doubles can tell, bins would be empty or without end.
  constexpr double kNarrowest = 1e-300;
  width = std::max({width, std::max(std::fabs(low), std::fabs(high)) * 1e-12, kNarrowest});
  const double first = std::floor(low / width + 1e-9);
  const double last = std::max(std::ceil(high / width - 1e-9), first + 1);
  std::vector<double> borders;
  const auto count = static_cast<std::size_t>(last - first) + 1;
  for (std::size_t i = 0; i < count; ++i) borders.push_back((first + static_cast<double>(i)) * width);
  // Rounding must not leave out the ends.
  borders.front() = std::min(borders.front(), low);
  borders.back() = std::max(borders.back(), high);
  for (double& border : borders) {
    constexpr double kGreatest = std::numeric_limits<double>::max();
    border = std::clamp(border / shrink, -kGreatest, kGreatest);
    if (logarithmic) border = std::pow(10, border);
  }
  return borders;
}

std::vector<std::size_t> bin_counts(const std::vector<double>& values, const std::vector<double>& borders) {
  std::vector<std::size_t> counts(borders.empty() ? 0 : borders.size() - 1, 0);
  if (counts.empty()) return counts;
  for (const double value : values) {
    const auto above = std::upper_bound(borders.begin(), borders.end(), value);
    const auto bin = std::clamp<std::ptrdiff_t>(above - borders.begin() - 1, 0,
                                                static_cast<std::ptrdiff_t>(counts.size()) - 1);
    ++counts[static_cast<std::size_t>(bin)];
  }
  return counts;
}

Quartiles quartiles_of(std::vector<double> values) {
  Quartiles found;
  found.first = quantile_of(values, 0.25);
  found.median = quantile_of(values, 0.5);
  found.third = quantile_of(values, 0.75);
  const double reach = 1.5 * (found.third - found.first);
  found.low_whisker = found.first;
  found.high_whisker = found.third;
  for (const double value : values) {
    if (value < found.first - reach || value > found.third + reach) {
      found.beyond.push_back(value);
    } else {
      found.low_whisker = std::min(found.low_whisker, value);
      found.high_whisker = std::max(found.high_whisker, value);
    }
  }
  return found;
}

}  // namespace opensum
