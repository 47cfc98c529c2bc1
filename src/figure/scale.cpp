// Axes: ranges, ticks at round values, and their labels.
#include "figure/scale.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

namespace opensum {
namespace {

// Narrower, steps would have no digits.
constexpr double kNarrowest = 1e-300;
constexpr double kGreatest = std::numeric_limits<double>::max();
// Labels outside these powers of ten are divided by a common one.
constexpr int kLargestPlainPower = 5;
constexpr int kSmallestPlainPower = -4;

int decimals_of(double step) {
  const int decimals = -static_cast<int>(std::floor(std::log10(step) + 1e-9));
  return std::max(decimals, 0);
}

// A number with the sign that printers use.
std::string minus_sign(const std::string& number) {
  return number.starts_with('-') ? "−" + number.substr(1) : number;
}

// A power of ten as it is written: plain near 1, else as 10 with an exponent.
std::string power_label(int power) {
  if (power > kSmallestPlainPower && power < kLargestPlainPower) {
    return fmt::format("{:.{}f}", std::pow(10, power), std::max(0, -power));
  }
  return fmt::format("10^{{{}}}", minus_sign(std::to_string(power)));
}

Scale make_log_scale(double least, double greatest, int wanted, const ScaleWish& wish) {
  Scale scale;
  scale.logarithmic = true;
  double low = std::log10(least);
  double high = std::log10(greatest);
  if (high - low < 1e-9) {
    low -= 0.5;
    high += 0.5;
  }
  const double margin = (high - low) * kAxisMargin;
  // Not beyond what doubles hold.
  constexpr double kGreatestExponent = 307;
  scale.low = wish.low ? *wish.low : std::pow(10, std::max(low - margin, -kGreatestExponent));
  scale.high = wish.high ? *wish.high : std::pow(10, std::min(high + margin, kGreatestExponent));
  // One end that is given may lie beyond all values.
  if (!(scale.low < scale.high))
    (wish.high ? scale.low : scale.high) = wish.high ? scale.high / 10 : scale.low * 10;
  const int first = static_cast<int>(std::ceil(std::log10(scale.low) - 1e-9));
  const int last = static_cast<int>(std::floor(std::log10(scale.high) + 1e-9));
  // Over few powers of ten there are ticks between them, over many not at each one.
  const int stride = std::max(1, (last - first) / wanted);
  const bool between = last - first < 3;
  for (int power = first - 1; power <= last; ++power) {
    for (const double factor : {1.0, 2.0, 5.0}) {
      const double tick = factor * std::pow(10, power);
      const bool shown = factor == 1.0 ? (power - first) % stride == 0 : between;
      if (!shown || tick < scale.low * (1 - 1e-9) || tick > scale.high * (1 + 1e-9)) continue;
      scale.ticks.push_back(tick);
      const bool plain = power > kSmallestPlainPower && power < kLargestPlainPower;
      scale.labels.push_back(factor == 1.0 ? power_label(power)
                             : plain       ? fmt::format("{:.{}f}", tick, std::max(0, -power))
                                           : fmt::format("{:.0f}·{}", factor, power_label(power)));
    }
  }
  return scale;
}

}  // namespace

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

double Scale::place(double value) const {
  // By halves, for the whole range may be more than doubles hold.
  const double along = logarithmic ? (std::log(value) - std::log(low)) / (std::log(high) - std::log(low))
                                   : (value / 2 - low / 2) / (high / 2 - low / 2);
  return reversed ? 1 - along : along;
}

namespace {

// Ticks at multiples of a step, with labels that share a power of ten where that keeps them short.
void add_even_ticks(Scale& scale, double step) {
  const auto first = static_cast<long long>(std::ceil(scale.low / step - 1e-9));
  const auto last = static_cast<long long>(std::floor(scale.high / step + 1e-9));
  const double largest = std::max(std::fabs(scale.low), std::fabs(scale.high));
  const int magnitude = static_cast<int>(std::floor(std::log10(largest)));
  if (magnitude >= kLargestPlainPower || magnitude <= kSmallestPlainPower) scale.power = magnitude;
  const double unit = std::pow(10, scale.power);
  const int decimals = decimals_of(step / unit);
  scale.ticks.clear();
  scale.labels.clear();
  for (long long i = first; i <= last; ++i) {
    const double tick = static_cast<double>(i) * step;
    scale.ticks.push_back(tick);
    std::string label = fmt::format("{:.{}f}", tick / unit, decimals);
    if (label.find_first_not_of("-0.") == std::string::npos && label[0] == '-') label.erase(0, 1);
    scale.labels.push_back(minus_sign(label));
  }
}

}  // namespace

Scale make_scale(double least, double greatest, int wanted, const ScaleWish& wish) {
  if (wish.logarithmic) {
    Scale scale = make_log_scale(least, greatest, wanted, wish);
    // Within a power of ten the ticks are those of an even axis.
    constexpr std::size_t kFew = 3;
    if (scale.ticks.size() < kFew)
      add_even_ticks(scale, round_step(scale.high - scale.low, std::max(wanted, static_cast<int>(kFew))));
    scale.reversed = wish.reversed;
    return scale;
  }
  Scale scale;
  scale.reversed = wish.reversed;
  // By halves, for the whole range may be more than doubles hold.
  double half = greatest / 2 - least / 2;
  // Too narrow to be told apart in doubles, or of no width at all.
  const double size = std::max(std::fabs(least), std::fabs(greatest));
  if (!(half > size * 5e-13)) half = size > 0 ? size * 0.1 : 1;
  half = std::max(half, kNarrowest) * (1 + 2 * kAxisMargin);
  const double middle = least / 2 + greatest / 2;
  const auto end = [&](double value, double step) { return std::clamp(value + step, -kGreatest, kGreatest); };
  scale.low = wish.low.value_or(end(middle, -half));
  scale.high = wish.high.value_or(end(middle, half));
  // One end that is given may lie beyond all values.
  if (!(scale.low < scale.high)) {
    (wish.high ? scale.low : scale.high) = wish.high ? end(scale.high, -2 * half) : end(scale.low, 2 * half);
  }
  const double step = round_step(scale.high / wanted - scale.low / wanted, 1);
  add_even_ticks(scale, wish.whole ? std::max(step, 1.0) : step);
  return scale;
}

Scale make_name_scale(const std::vector<std::string>& names, bool reversed) {
  Scale scale;
  scale.reversed = reversed;
  scale.low = -0.5;
  scale.high = static_cast<double>(names.size()) - 0.5;
  for (std::size_t i = 0; i < names.size(); ++i) scale.ticks.push_back(static_cast<double>(i));
  scale.labels = names;
  return scale;
}

}  // namespace opensum
