// A pass over the rows of one sheet, block after block.
#pragma once

#include <vector>

#include "engine/block_values.h"
#include "engine/sink.h"

namespace opensum {

/// A condition that says which rows of a sheet a fit or a figure has.
struct RowCondition {
  const Program* program = nullptr;
  std::vector<bool>* rows = nullptr;  ///< takes up whether it holds, row by row
};

/// What a pass is to find out.
struct PassWork {
  std::size_t sheet = 0;
  std::vector<KnownStage*> stages;  ///< functions of whole columns that take up its rows
  std::vector<Held> held;           ///< by column: what all rows of it are to be held of
  bool lines = false;               ///< whether the lines of the rows are to be held
  std::vector<RowCondition> conditions;
  /// Of the last pass over a sheet: everything is computed, its claims are tested, and what is to be said of
  /// its rows is found.
  bool last = false;
  bool row_maps = false;  ///< whether the last pass keeps which rows links lead to and gaps that were filled
  std::vector<RowSink*> sinks;
};

/// Goes over the rows of the sheet. Columns that are held have their values in its table afterwards; of the
/// last pass the facts, claims, fills and remarks stand in the sheet, and rows that are errors are reported.
void run_pass(StudyRun& run, const Known& known, BlockSource& source, const PassWork& work,
              Diagnostics& diagnostics);

}  // namespace opensum
