// Many points as a density: how many there are on each spot of the page.
#pragma once

#include <vector>

#include "figure/chart.h"
#include "figure/frame.h"

namespace opensum {

struct DensityMarks {
  std::vector<Mark> marks;  ///< one for each shade
  std::size_t points = 0;   ///< inside the frame
  std::size_t most = 0;     ///< on one spot
};

/// The points of a series as shaded spots. Shades are steps of the logarithm of the number of points.
DensityMarks density_marks(const Series& series, const Frame& frame, std::size_t number);

}  // namespace opensum
