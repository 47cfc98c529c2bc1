// The fits of a study: their points gathered, their curves found, and what the curves give to equations.
#pragma once

#include "engine/study_run.h"
#include "message/diagnostic.h"

namespace opensum {

/// Fits a curve to the points of a sheet, one for each group; those that cannot be fitted are warned about.
/// `kept` says which rows are points; a null pointer for all.
FitResult fit_points(const StudyRun& run, const FitPlan& fit, const FitSheetPlan& plan,
                     const std::vector<bool>* kept, Diagnostics& diagnostics);

/// The x at which a curve has the value y within the range that was fitted, or why there is none.
struct Solution {
  double x = 0;
  std::optional<Reason> why_not;
};
Solution solve_curve(const CurveModel& model, const Curve& curve, double y);

}  // namespace opensum
