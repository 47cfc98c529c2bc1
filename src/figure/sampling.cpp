// Where a curve must be calculated.
#include "figure/sampling.h"

#include <algorithm>
#include <cmath>
#include <cstddef>

namespace opensum {
namespace {

// A quarter of a pixel of a figure of 2000 dots: once in finding places, once in leaving some out.
constexpr double kNear = 1.0 / 8000;
// Finer than this nothing can be drawn.
constexpr double kFinest = 1.0 / 8000;
constexpr std::size_t kFirstPlaces = 1024;

// Samples in order, with the heights of all curves at each.
struct Samples {
  std::vector<double> places;
  std::vector<std::vector<double>> heights;  // by curve
};

// The first places are uneven, so that no wave falls in step with them.
std::vector<double> first_places() {
  constexpr double kGolden = 0.6180339887498949;
  std::vector<double> places = {0};
  for (std::size_t i = 1; i < kFirstPlaces; ++i) {
    const double uneven = std::fmod(static_cast<double>(i) * kGolden, 1.0) - 0.5;
    places.push_back((static_cast<double>(i) + 0.6 * uneven) / static_cast<double>(kFirstPlaces));
  }
  places.push_back(1);
  return places;
}

// Whether the middle of an interval lies beside the straight line over it, or only some of the three are
// there.
bool bends(double left, double middle, double right) {
  const int there = (std::isnan(left) ? 0 : 1) + (std::isnan(middle) ? 0 : 1) + (std::isnan(right) ? 0 : 1);
  if (there < 3) return there > 0;
  return !(std::fabs(middle - (left / 2 + right / 2)) <= kNear);
}

Samples refined(const CurveHeights& heights) {
  Samples samples;
  samples.places = first_places();
  samples.heights = heights(samples.places);
  std::vector<bool> open(samples.places.size() - 1, true);
  while (std::find(open.begin(), open.end(), true) != open.end()) {
    std::vector<double> middles;
    for (std::size_t i = 0; i < open.size(); ++i) {
      if (open[i]) middles.push_back(samples.places[i] / 2 + samples.places[i + 1] / 2);
    }
    const std::vector<std::vector<double>> between = heights(middles);
    Samples next;
    next.heights.resize(samples.heights.size());
    std::vector<bool> next_open;
    const auto keep = [&](std::size_t i) {
      next.places.push_back(samples.places[i]);
      for (std::size_t c = 0; c < next.heights.size(); ++c) next.heights[c].push_back(samples.heights[c][i]);
    };
    std::size_t at = 0;
    for (std::size_t i = 0; i < open.size(); ++i) {
      keep(i);
      if (!open[i]) {
        next_open.push_back(false);
        continue;
      }
      bool again = false;
      for (std::size_t c = 0; c < samples.heights.size(); ++c)
        again = again || bends(samples.heights[c][i], between[c][at], samples.heights[c][i + 1]);
      again = again && samples.places[i + 1] - samples.places[i] > kFinest;
      next.places.push_back(middles[at]);
      for (std::size_t c = 0; c < next.heights.size(); ++c) next.heights[c].push_back(between[c][at]);
      next_open.insert(next_open.end(), {again, again});
      ++at;
    }
    keep(open.size());
    samples = std::move(next);
    open = std::move(next_open);
  }
  return samples;
}

// Marks the samples that are needed between two that are (Ramer, Douglas and Peucker).
void mark_needed(const Samples& samples, std::size_t first, std::size_t last, std::vector<bool>& needed) {
  std::vector<std::pair<std::size_t, std::size_t>> spans = {{first, last}};
  while (!spans.empty()) {
    const auto [begin, end] = spans.back();
    spans.pop_back();
    double farthest = kNear;
    std::size_t split = begin;
    for (const std::vector<double>& curve : samples.heights) {
      for (std::size_t i = begin + 1; i < end; ++i) {
        const double share =
            (samples.places[i] - samples.places[begin]) / (samples.places[end] - samples.places[begin]);
        const double line = curve[begin] + share * (curve[end] - curve[begin]);
        double distance = std::fabs(curve[i] - line);
        // A border of where the curve is must stay.
        if (std::isnan(distance) &&
            !(std::isnan(curve[i]) && std::isnan(curve[begin]) && std::isnan(curve[end])))
          distance = 1;
        if (!(distance > farthest)) continue;
        farthest = distance;
        split = i;
      }
    }
    if (split == begin) continue;
    needed[split] = true;
    spans.emplace_back(begin, split);
    spans.emplace_back(split, end);
  }
}

}  // namespace

std::vector<double> places_to_join(const CurveHeights& heights) {
  const Samples samples = refined(heights);
  std::vector<bool> needed(samples.places.size(), false);
  needed.front() = needed.back() = true;
  mark_needed(samples, 0, samples.places.size() - 1, needed);
  std::vector<double> places;
  for (std::size_t i = 0; i < needed.size(); ++i) {
    if (needed[i]) places.push_back(samples.places[i]);
  }
  return places;
}

}  // namespace opensum
