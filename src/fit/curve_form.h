// The form in which models are fitted: linear ones by functions of x alone, others as functions.
#pragma once

#include <limits>
#include <span>
#include <vector>

#include "fit/curve_model.h"

namespace opensum {

/// What a curve has where it has no value.
constexpr double kNoValue = std::numeric_limits<double>::quiet_NaN();

/// Whether a model is a combination of functions of x alone.
bool is_linear(CurveKind kind);
/// These functions at one x.
void basis_at(const CurveModel& model, const Curve& curve, double x, std::span<long double> values);
/// How much a curve moves at x with each of the numbers that are fitted: the coefficients of a linear one,
/// else the parameters.
std::vector<long double> moves_at(const CurveModel& model, const Curve& curve, double x);
/// The parameters as combinations of the coefficients: those of powers of x from those of powers of
/// (x - centre) / width, by the binomial theorem.
std::vector<std::vector<long double>> powers_of_x(const CurveModel& model, const Curve& curve);
/// Any model that is not linear, with its derivatives.
CurveFunction function_of(const CurveModel& model);

}  // namespace opensum
