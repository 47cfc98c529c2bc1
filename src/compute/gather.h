// Rows of a column picked out in a given order.
#pragma once

#include <vector>

#include "table/column.h"

namespace opensum {

/// The chunks of a column's rows as given, in that order, their source texts with them. Where the rows go to
/// another sheet, `elsewhere` takes up the cells from which their nulls come; a null pointer leaves nulls as
/// they are.
std::vector<Chunk> gathered(const Column& column, const std::vector<std::size_t>& rows, Origins* elsewhere);

}  // namespace opensum
