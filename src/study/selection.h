// The rows of a sheet that its `keep` leaves, and what leaving out the others costs.
#pragma once

#include <memory>
#include <vector>

#include "study/plan.h"

namespace opensum {

/// What the nulls of one column in complete(…) cost.
struct NullCost {
  std::string symbol;
  std::size_t nulls = 0;  ///< rows in which it is null
  std::size_t alone = 0;  ///< of these, rows in which it alone is
};

struct Selection {
  std::string condition;
  std::size_t read = 0;       ///< rows of the source
  std::size_t left_out = 0;   ///< where the condition is false
  std::size_t undecided = 0;  ///< where it is null, and which are left out for that
  std::vector<NullCost> costs;

  std::size_t kept() const { return read - left_out - undecided; }
};

/// The plan of the sheet's `keep` over its measured columns, with those equations that it needs; null after a
/// reported error.
std::shared_ptr<KeepPlan> plan_keep(const SheetModel& sheet, SheetTable table, const PlanContext& context,
                                    Diagnostics& diagnostics);

/// Finds the rows for which `keep` is true. The measured columns of the plan have their values.
Selection select_rows(const SheetModel& sheet, KeepPlan& keep, Origins& origins,
                      std::vector<std::size_t>& rows, Diagnostics& diagnostics);

/// The same in a table whose rows are left in the file; only those rows are left there.
Selection select_left_rows(const SheetModel& sheet, const KeepPlan& keep, SheetTable& table,
                           Diagnostics& diagnostics);

/// Leaves only these rows in a table. Cells that cannot be read count in the rows that are kept only.
void keep_rows(Table& table, const std::vector<std::size_t>& rows);

}  // namespace opensum
