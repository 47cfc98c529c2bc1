// Which rows a function of whole columns looked at for the value that it gives one row.
#pragma once

#include <vector>

#include "compute/whole_column.h"
#include "equation/program.h"

namespace opensum {

/// The rows whose values went into a result, in order, and how many more it met that were null.
struct RowsUsed {
  std::vector<std::size_t> rows;
  std::size_t nulls = 0;
  /// The operand in every row.
  std::vector<Chunk> values;
};

RowsUsed rows_used(const Stage& stage, std::size_t row, const WholeColumns& whole);

}  // namespace opensum
