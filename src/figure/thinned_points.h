// The points of a plot as they come from a database where there are more than can be told apart.
#pragma once

#include <cstddef>
#include <optional>
#include <vector>

#include "table/column.h"

namespace opensum {

/// Points that stand for all of a sheet: one for each spot of a page, or of a line those at which it bends.
/// In each row of x, y and, where it splits the points, `by` stands a point, or what x or y is null in place
/// of one.
struct ThinnedPoints {
  Column x;
  Column y;
  std::optional<Column> by;
  std::vector<std::size_t> counts;  ///< how many rows each stands for
};

}  // namespace opensum
