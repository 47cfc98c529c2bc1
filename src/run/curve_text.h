// The equation of a fitted curve, as a legend or a report gives it.
#pragma once

#include <string>

#include "run/prepared_study.h"

namespace opensum {

/// `y = 1.2 kW + (3.4 kJ/L) x`, with four digits, from the parameters of a curve that was fitted.
std::string curve_text(const FitPlan& fit, const Curve& curve);

}  // namespace opensum
