// The reductions down the column: col_sum, col_mean, … of all rows or of groups of rows.
#pragma once

#include <string>
#include <vector>

#include "equation/program.h"
#include "table/column.h"

namespace opensum {

/// How many of the values that a reduction met were known; those that were not are left out of its result.
struct ReductionTally {
  std::string function;
  std::size_t used = 0;
  std::size_t met = 0;
};

/// The result of a reduction for every row: the same in all rows, or in all rows of a group. A null that
/// comes from a cell of another row keeps that cell as its origin. Rows for which `where` is not true are
/// left out; a null key is a group of its own.
std::vector<Chunk> reduce_column(const Stage& stage, const std::vector<const Column*>& columns,
                                 std::size_t rows, OriginId own, Origins& origins,
                                 std::vector<ReductionTally>& tallies);

}  // namespace opensum
