// The marks of the series of a chart: points, error bars, lines, bands, bars, boxes and densities.
#pragma once

#include <string>
#include <vector>

#include "figure/chart.h"
#include "figure/frame.h"

namespace opensum {

/// More points than this are drawn as plain dots, and more than that as a density.
constexpr std::size_t kMostMarkers = 2000;
constexpr std::size_t kMostDots = 50000;

/// What stands in a chart of bars, a histogram or boxes, once it is counted.
struct Bar {
  std::size_t series = 0;
  double left = 0;  ///< in values of x
  double right = 0;
  double from = 0;
  double to = 0;
  double error = 0;  ///< NaN for none
};

/// Everything that the series draw, from the back to the front. `bars` are those of a chart of bars or of a
/// histogram. Says in `remarks` what a reader must know of how it is drawn.
std::vector<Mark> series_marks(const Chart& chart, const Frame& frame, const std::vector<Bar>& bars,
                               std::vector<std::string>& remarks);

/// A marker as it stands in the chart or in its legend.
void add_marker(std::vector<Mark>& marks, Role role, Point at, const Look& look, double radius,
                std::optional<std::size_t> series, bool edged);

/// The number of points that have no place in the frame.
std::size_t points_outside(const Chart& chart, const Frame& frame);

/// Whether the points are drawn as a density.
bool is_dense(const Chart& chart);

/// How the outline of the counts of a series is drawn where there are several.
Dash outline_dash(std::size_t series);

/// Whether a series has a marker at each point: not a line through many.
bool has_markers(const Series& series);

/// The colour of a curve: that of its series, but for one through very many points, which would hide it.
Color curve_color(const Chart& chart, const Series& series, const CurveLine& curve);

/// How large the markers of a chart are.
double marker_radius(const Chart& chart);

}  // namespace opensum
