// Functions of the sequence of rows: neighbours, changes, values so far, moving windows, ranks.
#pragma once

#include <vector>

#include "equation/program.h"
#include "table/column.h"

namespace opensum {

/// The value of a sequence function in every row. Rows follow one another within their group, given for each
/// row by `group_of_row`. Where there is no neighbour the null has the reason no_neighbour; a null taken from
/// another row keeps that row.
std::vector<Chunk> sequence_values(const Stage& stage, const std::vector<Chunk>& values,
                                   const std::vector<std::size_t>& group_of_row, std::size_t groups,
                                   OriginId own, Origins& origins);

}  // namespace opensum
