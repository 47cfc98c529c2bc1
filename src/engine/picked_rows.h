// A few rows of a table, picked out of their blocks.
#pragma once

#include <memory>
#include <vector>

#include "engine/blocks.h"

namespace opensum {

/// A table of some rows, which increase, with the values that the source has of them. `whole` has the
/// columns.
Table picked_rows(BlockSource& source, const Table& whole, const std::vector<std::size_t>& rows);

}  // namespace opensum
