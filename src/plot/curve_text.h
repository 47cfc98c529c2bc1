// The equation of a fitted curve, as a legend or a report gives it.
#pragma once

#include <string>

#include "study/prepared_study.h"

namespace opensum {

/// `2.933(35) kW · (flow / (1 L/min))^{0.6049(47)}`: what a fitted curve says of y, with the names of the
/// columns, in the units of the axes x and y as far as the model does not fix its own. Parameters have their
/// standard errors in brackets.
std::string curve_text(const FitPlan& fit, const Curve& curve, const Unit& x, const Unit& y);

}  // namespace opensum
