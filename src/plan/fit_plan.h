// Fits checked against the columns of their sheets.
#pragma once

#include <deque>
#include <set>
#include <string>
#include <vector>

#include "base/result.h"
#include "plan/plan.h"

namespace opensum {

/// Checks a fit to the points of one of its sheets: names, kinds, units, the condition, and with the first
/// sheet the model and the units of its parameters. `of_fit` are the columns of the sheet that follow from
/// the fit.
void check_fit(FitPlan& fit, std::size_t sheet, const std::string& sheet_name, const Scope& scope,
               const CheckContext& context, const std::set<std::string>& of_fit, Diagnostics& diagnostics);

/// An expression in x, checked to give values of y, as a function of x alone; nothing after a reported error.
Result<CurveFunction> function_of_x(const Passage& expression, const Type& x, const Unit& y,
                                    const CheckContext& context, Diagnostics& diagnostics);

/// A fit as an equation of the sheet `own` sees it; `sheets` are the names of all sheets.
FitView view_of_fit(const std::deque<FitPlan>& fits, const std::vector<std::string>& sheets,
                    const std::string& name, const std::string& sheet, std::size_t own);

}  // namespace opensum
