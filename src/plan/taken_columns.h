// The columns of a sheet that has the rows of another sheet.
#pragma once

#include <vector>

#include "equation/scope.h"
#include "model/study.h"
#include "plan/plan.h"
#include "plan/sheet_table.h"

namespace opensum {

/// Adds to the table of a sheet a column for each one that it takes over from its source: the keys of its
/// groups, those in `take`, or all; of one with one row per cell all but these, the cells and what their
/// headers say. They have names, but neither kinds nor values yet. Names that are not there are reported.
struct TakenColumns {
  std::vector<TakenColumn> columns;
  std::optional<CellHeaders> cell_headers;
};
TakenColumns take_columns(const SheetModel& sheet, const Scope& source, const UnitSystem& units,
                          SheetTable& table, Diagnostics& diagnostics);

}  // namespace opensum
