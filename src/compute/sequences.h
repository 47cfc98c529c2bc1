// Functions of the sequence of rows: neighbours, changes, values so far, moving windows, slopes,
// areas, interpolation, ranks.
#pragma once

#include <optional>
#include <vector>

#include "compute/whole_columns.h"

namespace opensum {

/// What a sequence function met.
struct SequenceNotes {
  std::optional<ReductionTally> left_out;  ///< where it leaves nulls out, and did
  RowList order_fault;                     ///< rows in which `along` does not increase
};

/// The value of a sequence function in every row. Rows follow one another within their group; all are one
/// where `grouping` has no rows. `along` are the
/// values of `along:`, none for functions without. Where there is no neighbour the null has the reason
/// no_neighbour and begins in `own`; a null taken from another row keeps that row, which `origins` takes up.
/// Texts look into those of the values.
std::vector<Chunk> sequence_values(const Stage& stage, const std::vector<Chunk>& values,
                                   const std::vector<Chunk>& along, const Grouping& grouping, OriginId own,
                                   Origins& origins, SequenceNotes& notes);

}  // namespace opensum
