// Curves fitted to points.
#pragma once

#include <optional>
#include <string>

#include "fit/curve_model.h"

namespace opensum {

/// The model of a word such as `line` or `polynomial 3`; nothing for others, which may be equations.
std::optional<CurveModel> named_model(const std::string& words);

/// All that may stand as a model, in words; before them the one that was likely meant by `word`, if any was.
std::string models_in_words(const std::string& word);

/// Fits a model to points by least squares in y as measured. Linear models by QR; the others by the method of
/// Levenberg and Marquardt as in MINPACK, from starting values of their own or, for an equation, those given,
/// to the minimum by steps of Gauss and Newton; from other starts, too, for the one given may lead to a poor
/// place.
Curve fit_curve(const CurveModel& model, const CurveData& data);

/// The value of a fitted curve at x, NaN where it has none.
double curve_at(const CurveModel& model, const Curve& curve, double x);

/// The standard error of the curve at x, from the covariance of its parameters to first order.
double curve_error_at(const CurveModel& model, const Curve& curve, double x);

}  // namespace opensum
