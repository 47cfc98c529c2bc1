// Rows of a column picked out in a given order.
#pragma once

#include <vector>

#include "table/column.h"

namespace opensum {

/// The chunks of a column's rows as given, in that order, their source texts with them. Where the rows go to
/// another sheet, `elsewhere` takes up the cells from which their nulls come; a null pointer leaves nulls as
/// they are.
std::vector<Chunk> gathered(const Column& column, const std::vector<std::size_t>& rows, Origins* elsewhere);

/// The same for rows that take their values in turn from several columns: row i has that of column `from[i]`
/// in row `rows[i]`, converted to the unit of the first. Texts of the source are kept where nothing is.
std::vector<Chunk> gathered(const std::vector<const Column*>& columns,
                            const std::vector<Conversion>& to_first, const std::vector<std::uint32_t>& from,
                            const std::vector<std::size_t>& rows, Origins* elsewhere);

}  // namespace opensum
