// How fitted curves move: with the points to which they are fitted, with their parameters and with x.
#pragma once

#include <vector>

#include "fit/curve.h"

namespace opensum {

/// A curve moves with some numbers of its own: the coefficients of a linear model in the form in which it is
/// fitted, else its parameters. How much each of them moves with y and with x of each point, to
/// first order: the derivatives of the minimum by the implicit function theorem.
struct CurveSensitivity {
  std::vector<std::vector<double>> by_y;  ///< by number and point
  std::vector<std::vector<double>> by_x;
};
CurveSensitivity sensitivity_of(const CurveModel& model, const Curve& curve, const CurveData& data);

/// How much the curve moves at x with each of these numbers.
std::vector<double> gradient_at(const CurveModel& model, const Curve& curve, double x);
/// How much it moves there with x; NaN where it has no value.
double slope_at(const CurveModel& model, const Curve& curve, double x);
/// The parameters as combinations of these numbers, by parameter.
std::vector<std::vector<double>> parameters_by_numbers(const CurveModel& model, const Curve& curve);
/// A square root of the covariance of these numbers by the scatter of the points: combinations of independent
/// unknowns of variance 1.
std::vector<std::vector<double>> scatter_of(const CurveModel& model, const Curve& curve);
/// Moves a curve by such unknowns, one for each of its numbers.
void scatter_curve(const CurveModel& model, Curve& curve, const std::vector<double>& unknowns);

}  // namespace opensum
