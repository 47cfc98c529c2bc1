// The rows of a sheet that its `keep` leaves, and what leaving out the others costs.
#pragma once

#include <optional>

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

/// Leaves in the table the rows for which `keep` is true; nothing for a sheet without one or after a reported
/// error. Cells that cannot be read count in the rows that are kept only.
std::optional<Selection> select_rows(const SheetModel& sheet, SheetTable& table, const PlanContext& context,
                                     Diagnostics& diagnostics);

}  // namespace opensum
