// Filling the gaps of a measured column by rules, with a record of what each cell was filled by.
#pragma once

#include <optional>
#include <vector>

#include "table/column.h"

namespace opensum {

/// A gap of the measured column and what became of it.
struct FilledCell {
  std::size_t row = 0;
  std::optional<std::size_t> rule;  ///< index of the rule that closed it; nothing where none did
  Null left;                        ///< where none did: why the last rule gave no value
};

/// Gives `filled` the values of `measured`, and in its gaps that of the first rule that has one; `rules` are
/// their values. A gap that no rule closes keeps its own null.
std::vector<FilledCell> fill_gaps(const Column& measured, const std::vector<std::vector<Chunk>>& rules,
                                  Column& filled);

}  // namespace opensum
