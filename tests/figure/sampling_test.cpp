// The places of curves: straight lines between them against the curve itself at very many places.
#include "figure/sampling.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <iostream>

namespace opensum {
namespace {

// How far the straight line between two points is from the origin.
double to_segment(double x0, double y0, double x1, double y1) {
  const double dx = x1 - x0;
  const double dy = y1 - y0;
  const double share = std::clamp(-(x0 * dx + y0 * dy) / (dx * dx + dy * dy), 0.0, 1.0);
  return std::hypot(x0 + share * dx, y0 + share * dy);
}

TEST(Sampling, StraightLinesLieOnTheCurve) {
  const struct {
    const char* name;
    std::function<double(double)> height;
    std::size_t most;  // places
  } curves[] = {
      {"a line", [](double x) { return 0.1 + 0.7 * x; }, 2},
      {"a parabola", [](double x) { return x * x; }, 200},
      {"a wave", [](double x) { return 0.5 + 0.5 * std::sin(6 * x); }, 300},
      // The waves that even places at 200 steps would miss.
      {"200 waves", [](double x) { return 0.5 + 0.5 * std::sin(2 * M_PI * 200 * x / 1.0005); }, 24000},
      {"40 seasons", [](double x) { return 0.5 + 0.3 * x + 0.1 * std::sin(2 * M_PI * 40 * x); }, 8000},
      {"a decay", [](double x) { return std::exp(-300 * x); }, 300},
      {"a root", [](double x) { return std::sqrt(x); }, 300},
      {"a peak", [](double x) { return std::exp(-std::pow((x - 0.3217) / 0.002, 2)); }, 400},
      {"a pole", [](double x) { return 0.001 / (x + 1e-4); }, 600},
  };
  for (const auto& curve : curves) {
    const auto places = places_to_join([&](const std::vector<double>& at) {
      std::vector<double> heights;
      for (const double x : at) heights.push_back(curve.height(x));
      return std::vector<std::vector<double>>{heights};
    });
    ASSERT_EQ(places.front(), 0);
    ASSERT_EQ(places.back(), 1);
    ASSERT_TRUE(std::is_sorted(places.begin(), places.end()));
    double farthest = 0;
    constexpr int kMany = 400'000;
    std::vector<double> dense;
    for (int i = 0; i <= kMany; ++i) dense.push_back(curve.height(static_cast<double>(i) / kMany));
    std::size_t k = 0;
    for (int i = 0; i <= kMany; ++i) {
      const double x = static_cast<double>(i) / kMany;
      while (places[k + 1] < x) ++k;
      const double share = (x - places[k]) / (places[k + 1] - places[k]);
      const double line =
          curve.height(places[k]) + share * (curve.height(places[k + 1]) - curve.height(places[k]));
      // How far a point of the drawn line is from the curve, which may pass beside it.
      double nearest = std::fabs(line - dense[static_cast<std::size_t>(i)]);
      for (int off = -100; off < 100 && nearest > 0.1 / 2000; ++off) {
        if (i + off < 0 || i + off >= kMany) continue;
        const auto at = static_cast<std::size_t>(i + off);
        nearest = std::min(nearest, to_segment(static_cast<double>(off) / kMany, dense[at] - line,
                                               static_cast<double>(off + 1) / kMany, dense[at + 1] - line));
      }
      farthest = std::max(farthest, nearest);
    }
    std::cout << curve.name << ": " << places.size() << " places, at most " << farthest * 2000
              << " pixels of 2000 off\n";
    EXPECT_LT(farthest, 0.5 / 2000) << curve.name;
    EXPECT_LE(places.size(), curve.most) << curve.name;
  }
}

TEST(Sampling, KeepsTheBordersOfWhereACurveIs) {
  const auto places = places_to_join([](const std::vector<double>& at) {
    std::vector<double> heights;
    for (const double x : at) heights.push_back(x < 0.25 ? std::nan("") : std::sqrt(x - 0.25));
    return std::vector<std::vector<double>>{heights};
  });
  // The last place without a curve and the first with one are a pixel apart at most.
  const auto first = std::lower_bound(places.begin(), places.end(), 0.25);
  ASSERT_NE(first, places.end());
  EXPECT_LT(*first - 0.25, 1e-4);
  EXPECT_LT(0.25 - *std::prev(first), 1e-4);
}

}  // namespace
}  // namespace opensum
