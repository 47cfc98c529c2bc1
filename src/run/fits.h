// The fits of a study: their points gathered, their curves found, and what the curves give to equations.
#pragma once

#include "message/diagnostic.h"
#include "run/prepare.h"

namespace opensum {

/// The rows of a sheet for which a condition is true.
std::vector<bool> kept_rows(const RunSheet& sheet, const Program& condition, Origins& origins,
                            const StudyColumns& columns);

/// Fits a curve to the points of a sheet, one for each group; those that cannot be fitted are warned about.
FitResult fit_points(const PreparedStudy& prepared, const FitPlan& fit, const FitSheetPlan& plan,
                     Origins& origins, const StudyColumns& columns, Diagnostics& diagnostics);

/// The x at which a curve has the value y within the range that was fitted, or why there is none.
struct Solution {
  double x = 0;
  std::optional<Reason> why_not;
};
Solution solve_curve(const CurveModel& model, const Curve& curve, double y);

}  // namespace opensum
