// The columns of a sheet that has the rows of another sheet.
#pragma once

#include <vector>

#include "equation/scope.h"
#include "model/study.h"
#include "plan/sheet_table.h"

namespace opensum {

/// Adds to the table of a sheet a column for each one that it takes over from its source: the keys of its
/// groups, those in `take`, or all. They have names, but neither kinds nor values yet. Gives their indices in
/// the source's scope; names that are not there are reported.
std::vector<std::size_t> take_columns(const SheetModel& sheet, const Scope& source, SheetTable& table,
                                      Diagnostics& diagnostics);

}  // namespace opensum
