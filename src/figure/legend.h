// The legend of a chart: what it says, where it stands, its marks.
#pragma once

#include <string>
#include <vector>

#include "figure/chart.h"
#include "figure/frame.h"

namespace opensum {

/// A line of the legend: a series with its marker, or a curve with a piece of it.
struct LegendEntry {
  std::string label;
  Color color;
  Look look;
  bool curve = false;
  bool marker = false;
  bool filled = false;  ///< a patch, as for bars
  Dash dash = Dash::solid;
};

struct Legend {
  std::vector<LegendEntry> entries;
  double width = 0;
  double height = 0;
  bool empty() const { return entries.empty(); }
};

/// The legend that a chart needs, no larger than the room; empty where there is only one series and no curve
/// to name. What has no room is counted in its last line.
Legend legend_of(const Chart& chart, double widest, double highest);

/// Where a legend covers no mark within the frame, as near to a corner as can be; false where it would cover
/// some at every place, with the best of them.
bool place_legend(const Legend& legend, LegendPlace wish, const Frame& frame, const std::vector<Mark>& marks,
                  Box& place);

/// The marks of the legend at its place.
std::vector<Mark> legend_marks(const Legend& legend, const Box& place);

}  // namespace opensum
