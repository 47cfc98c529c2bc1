// What a study states of uncertainty, read and checked, and which columns it reaches.
#pragma once

#include <deque>
#include <vector>

#include "plan/plan.h"

namespace opensum {

/// Reads what is said of the columns of each sheet and adds to the tables and scopes a column for each
/// uncertainty; the last thing, once the tables have all others. Statements that are wrong are reported, and
/// equations through which uncertainty is not carried.
void plan_uncertainties(const std::vector<SheetInput>& sheets, std::deque<SheetPlan>& plans,
                        std::deque<FitPlan>& fits, const PlanContext& context, Diagnostics& diagnostics);

}  // namespace opensum
