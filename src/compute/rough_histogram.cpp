// How values are spread.
#include "compute/rough_histogram.h"

#include <algorithm>
#include <cmath>

namespace opensum {

void RoughHistogram::add(double value) {
  if (width_ > 0) return count(value);
  first_.push_back(value);
  if (first_.size() >= kFirst) begin();
}

void RoughHistogram::begin() {
  const auto [least, greatest] = std::minmax_element(first_.begin(), first_.end());
  const double range = *greatest / 2 - *least / 2;
  // Values that are all the same wait for another.
  if (!(range > 0) || !std::isfinite(range)) return;
  low_ = *least;
  width_ = range * 2 / (kBins - 1);
  const std::vector<double> values = std::move(first_);
  first_.clear();
  for (const double value : values) count(value);
}

void RoughHistogram::widen(bool below) {
  std::array<std::size_t, kBins> wider{};
  const std::size_t shift = below ? kBins : 0;
  for (std::size_t i = 0; i < kBins; ++i) wider[(i + shift) / 2] += bins_[i];
  if (below) low_ -= width_ * kBins;
  bins_ = wider;
  width_ *= 2;
}

void RoughHistogram::count(double value) {
  constexpr int kMostTurns = 2100;  // a double has no more powers of two
  for (int turn = 0; turn < kMostTurns && std::isfinite(width_) && value < low_; ++turn) widen(true);
  for (int turn = 0; turn < kMostTurns && std::isfinite(width_) && value >= low_ + width_ * kBins; ++turn)
    widen(false);
  const double place = std::floor((value - low_) / width_);
  if (place >= 0 && place < kBins) ++bins_[static_cast<std::size_t>(place)];
}

std::vector<std::size_t> RoughHistogram::counts(std::size_t bins, double least, double greatest) const {
  std::vector<std::size_t> counts(bins);
  const double range = greatest - least;
  if (!(range > 0) || !std::isfinite(range)) return counts;
  const auto add = [&](double value, std::size_t count) {
    const double place =
        std::clamp((value - least) / range * static_cast<double>(bins), 0.0, static_cast<double>(bins - 1));
    counts[static_cast<std::size_t>(place)] += count;
  };
  for (const double value : first_) add(value, 1);
  for (std::size_t i = 0; i < kBins && width_ > 0; ++i) {
    if (bins_[i] > 0) add(low_ + (static_cast<double>(i) + 0.5) * width_, bins_[i]);
  }
  return counts;
}

std::string bars_of(const std::vector<std::size_t>& counts) {
  constexpr std::array<const char*, 8> kHeights = {"▁", "▂", "▃", "▄", "▅", "▆", "▇", "█"};
  const std::size_t most = counts.empty() ? 0 : *std::max_element(counts.begin(), counts.end());
  std::string text;
  for (const std::size_t count : counts) {
    if (most == 0) return {};
    const std::size_t height = (count * kHeights.size() + most - 1) / most;
    text += height == 0 ? " " : kHeights.at(height - 1);
  }
  return text;
}

}  // namespace opensum
