// Fits to points with a standard uncertainty in x as well as in y.
#pragma once

#include "fit/curve.h"

namespace opensum {

/// Fits a model to points whose weights are 1/u(y)², with `x_errors` their standard uncertainties in x: each
/// counts by its effective variance u(y)² + (f'(x) u(x))², where f' is the slope of the curve that was found
/// (Orear, Am. J. Phys. 50 (1982) 912). Fits again until the weights stay; they are those of the data then.
/// Without errors in x it is fit_curve.
Curve fit_by_effective_variance(const CurveModel& model, CurveData& data);

}  // namespace opensum
