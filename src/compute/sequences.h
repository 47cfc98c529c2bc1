// Functions of the sequence of rows: neighbours, changes, values so far, moving windows, slopes,
// areas, interpolation, ranks.
#pragma once

#include <vector>

#include "compute/column_reductions.h"

namespace opensum {

/// The value of a sequence function in every row. Rows follow one another within their group. `along` are the
/// values of `along:`, none for functions without. Where there is no neighbour the null has the reason
/// no_neighbour; a null taken from another row keeps that row. Rows in which `along` does not increase are
/// noted.
std::vector<Chunk> sequence_values(const Stage& stage, const std::vector<Chunk>& values,
                                   const std::vector<Chunk>& along, const Grouping& grouping,
                                   const WholeColumns& whole);

}  // namespace opensum
