// Rows of a column picked out in a given order.
#pragma once

#include <span>
#include <vector>

#include "table/column.h"

namespace opensum {

/// The chunks of a column's rows as given, in that order, their source texts with them.
std::vector<Chunk> gathered(const Column& column, std::span<const std::size_t> rows);

/// The same for rows that take their values in turn from several columns: row i has that of column `from[i]`
/// in row `rows[i]`, converted to the unit of the first. Texts of the source are kept where nothing is, if
/// all columns have them.
std::vector<Chunk> gathered(const std::vector<const Column*>& columns,
                            const std::vector<Conversion>& to_first, std::span<const std::uint32_t> from,
                            std::span<const std::size_t> rows, bool with_source);

/// Whether all chunks of columns have their texts of the source.
bool have_source(const std::vector<const Column*>& columns);

}  // namespace opensum
