// Charts laid out on a page: from what a figure is to show to its marks.
#pragma once

#include <cstddef>
#include <vector>

#include "figure/chart.h"

namespace opensum {

/// The marks of a page, and how many points lie outside axes whose ends were given.
struct PageFigure {
  Figure figure;
  std::vector<std::size_t> outside;  ///< by chart
};
PageFigure build_page(const Page& page);

}  // namespace opensum
