// What a figure is to show: charts with their axes and series, in values and not yet in places on a page.
#pragma once

#include <cstddef>
#include <memory>
#include <numeric>
#include <optional>
#include <string>
#include <vector>

#include "figure/marks.h"
#include "figure/palette.h"
#include "figure/scale.h"

namespace opensum {

enum class AxisKind : std::uint8_t {
  number,
  date,   ///< in seconds since 1970
  names,  ///< values are places in a list of names
};

struct AxisRequest {
  std::string label;
  AxisKind kind = AxisKind::number;
  ScaleWish wish = {};
  std::vector<std::string> names = {};
};

/// A line through a chart: a fitted curve or one that is given.
struct CurveLine {
  std::vector<double> x;
  std::vector<double> y;
  /// The borders of a band around it; none where they are empty.
  std::vector<double> low = {};
  std::vector<double> high = {};
  /// The line begins anew at each of these points.
  std::vector<std::size_t> breaks = {};
  std::string label = {};  ///< in the legend; empty for none
  Dash dash = Dash::solid;
  /// Of no series: drawn in ink.
  bool in_ink = false;
};

/// Values of one series, in the units of the axes. Rows without a value are left out by the caller, who says
/// how many there were.
struct Series {
  std::string label;
  std::vector<double> x;  ///< of a histogram the values that are counted
  std::vector<double> y;
  /// Half the length of an error bar for each point, NaN for none; empty where no point has one.
  std::vector<double> y_error = {};
  std::vector<double> x_error = {};  ///< the same along x
  /// The quantity shown as colour, for each point; empty without one.
  std::vector<double> shade = {};
  /// Whether x or y of each point was filled; empty where none was.
  std::vector<bool> filled = {};
  /// How many points each stands for, where they were thinned; empty where each is itself.
  std::vector<std::size_t> counts = {};
  std::size_t rows = 0;  ///< with those that are null
  /// Of the rows not drawn: those that a logarithmic axis has no place for.
  std::size_t not_positive = 0;
  std::vector<CurveLine> curves = {};
  /// The points are joined by a line, which begins anew at each of these.
  bool joined = false;
  bool steps = false;  ///< each value holds until the next point
  std::vector<std::size_t> breaks = {};
  Dash dash = Dash::solid;
  bool right_axis = false;
  Look look = {};

  std::size_t count(std::size_t point) const { return counts.empty() ? 1 : counts[point]; }
  /// How many points there are, with those that others stand for.
  std::size_t points() const {
    return counts.empty() ? x.size() : std::accumulate(counts.begin(), counts.end(), std::size_t{0});
  }
};

enum class ChartKind : std::uint8_t { points, bars, histogram, box, cells };

/// A value, or a range of values, of an axis that is marked.
struct Marking {
  bool of_x = false;
  bool right_axis = false;
  double low = 0;
  double high = 0;  ///< the same for a single value
  std::string label = {};
};

/// The quantity that is shown as colour.
struct ShadeRequest {
  std::string label;
  ScaleWish wish = {};
};

/// Where the legend stands; `best` is where it covers the least. In the order of the words of a study.
enum class LegendPlace : std::uint8_t { best, none, top_left, top_right, bottom_left, bottom_right, outside };

struct Chart {
  ChartKind kind = ChartKind::points;
  std::string title;
  AxisRequest x;
  AxisRequest y;
  std::optional<AxisRequest> right = {};
  std::optional<ShadeRequest> shade = {};
  std::vector<Series> series = {};
  LegendPlace legend = LegendPlace::best;
  std::size_t bins = 0;    ///< of a histogram, about; 0 for as many as its values suggest
  bool zero_line = false;  ///< a line at y = 0
  std::vector<Marking> markings = {};
  /// Another one under it that shares its x, such as one of residuals.
  std::shared_ptr<const Chart> below = {};
};

/// A page of charts, row by row.
struct Page {
  std::string title;  ///< above several charts
  std::vector<Chart> charts;
  std::size_t columns = 1;
  double width = 1280;  ///< in units of the page
  double height = 800;
  double pixels_per_unit = 1;
  double points_per_unit = 0.35;
};

}  // namespace opensum
