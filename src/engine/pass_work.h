// What a pass over the rows of a sheet is to find out, and its blocks.
#pragma once

#include <map>
#include <vector>

#include "engine/block_values.h"
#include "engine/sink.h"

namespace opensum {

/// A condition that says which rows of a sheet a fit or a figure has.
struct RowCondition {
  const Program* program = nullptr;
  std::vector<bool>* rows = nullptr;  ///< takes up whether it holds, row by row
};

/// A function of whole columns whose operands a pass gathers with their deviations.
struct OperandsWanted {
  const KnownStage* stage = nullptr;
  RowsOver rows;
};

/// What a pass is to find out.
struct PassWork {
  std::size_t sheet = 0;
  std::vector<KnownStage*> stages;              ///< functions of whole columns that take up its rows
  std::vector<Held> held;                       ///< by column: what all rows of it are to be held of
  std::map<std::size_t, std::size_t> only_row;  ///< columns of which only the chunk of this row is held
  bool lines = false;                           ///< whether the lines of the rows are to be held
  std::vector<RowCondition> conditions;
  /// Of the last pass over a sheet: everything is computed, its claims are tested, and what is to be said of
  /// its rows is found.
  bool last = false;
  bool row_maps = false;  ///< whether the last pass keeps which rows links lead to and gaps that were filled
  std::vector<RowSink*> sinks;
  std::vector<OperandsWanted*> operands;
  /// Columns whose deviations are held, and where.
  std::vector<std::pair<std::size_t, FormRows*>> forms;
};

/// A block of a pass, with what it gives to those who take it up in order.
struct PassBlock : ComputedBlock {
  std::vector<StageRows> stages;
  std::vector<std::vector<bool>> conditions;
  // In step with what is wanted of deviations.
  struct Operands {
    StageRows rows;
    FormRows value;
    FormRows beside;
  };
  std::vector<Operands> operands;
  std::vector<FormRows> forms;
  // Of a last pass.
  std::vector<NullCounts> null_counts;
  std::vector<ClaimResult> claims;
  /// By derived column: rows that the study takes for errors.
  std::vector<QuotedRows> divided_by_zero;
  std::vector<QuotedRows> out_of_domain;
  std::vector<InnerFaults> curve_faults;  ///< in step with the functions that a curve gives
  std::vector<RowTexts> texts;            ///< by sink
};

}  // namespace opensum
