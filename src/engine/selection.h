// The rows of a sheet that its `keep` leaves, and what leaving out the others costs.
#pragma once

#include <vector>

#include "engine/blocks.h"
#include "plan/plan.h"

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

/// Finds the rows of a source for which `keep` is true. The source has the measured columns of the plan.
/// Where `counted` is given, cells that cannot be read are counted anew in its columns: in kept rows only.
Selection select_rows(const SheetModel& sheet, const KeepPlan& keep, BlockSource& source,
                      std::vector<bool>& kept, Table* counted, Diagnostics& diagnostics);

/// The columns of a condition's table that it looks at, or of which cells that cannot be read are counted.
std::vector<bool> looked_at(const KeepPlan& keep);

/// Leaves only these rows in a table.
void keep_rows(SheetTable& sheet, const std::vector<bool>& kept);

}  // namespace opensum
