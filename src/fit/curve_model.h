// The models of curves, the points that they are fitted to, and what was found.
#pragma once

#include <cstdint>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "fit/curve_function.h"

namespace opensum {

enum class CurveKind : std::uint8_t {
  line,          ///< intercept + slope x
  proportional,  ///< slope x
  polynomial,    ///< c0 + c1 x + …
  power,         ///< a x^b
  exponential,   ///< a exp(b x)
  logarithm,     ///< a + b ln(x)
  equation,      ///< of one's own
};

/// The points that are fitted, all known. `weights` are none, or in proportion to 1/variance; where they are
/// `absolute`, they are 1/variance.
struct CurveData {
  std::vector<double> x;
  std::vector<double> y;
  std::vector<double> weights;
  bool absolute = false;
  std::vector<double> x_errors = {};  ///< standard uncertainties in x; none where they do not count
};

/// A model: its kind and what that needs.
struct CurveModel {
  CurveKind kind = CurveKind::line;
  std::size_t degree = 1;          ///< of a polynomial
  std::vector<std::string> names;  ///< of the parameters, in order
  CurveFunction function;          ///< of an equation
  std::vector<double> start;       ///< of an equation: where the search for its parameters begins
  /// Of an equation without a start: where that may be, from the points.
  std::function<std::vector<double>(const CurveData&)> guess;
};

enum class CurveState : std::uint8_t {
  fitted,
  too_few,        ///< no more points than parameters
  undetermined,   ///< the points do not tell some parameters apart
  unmoved,        ///< the model does not change with some parameters where the search came to
  not_converged,  ///< the search for the parameters of an equation found no end
  no_value,       ///< the model has no value for some x, as ln(x) for x ≤ 0
};

/// What was found. The numbers are meaningful where the state is `fitted`.
struct Curve {
  CurveState state = CurveState::too_few;
  /// Of `undetermined` and `unmoved`: the parameters at fault, by their places.
  std::vector<std::size_t> at_fault;
  std::vector<double> parameters;
  std::vector<double> standard_errors;
  std::vector<std::vector<double>> covariance;
  std::size_t points = 0;
  std::size_t degrees_of_freedom = 0;
  double scatter = 0;        ///< of y about the curve, for a point of mean weight, in the unit of y
  double residual_sd = 0;    ///< of unit weight; with absolute weights the root of the reduced χ²
  bool chi = false;          ///< the weights are absolute
  std::optional<double> r2;  ///< centred; none for a line through the origin
  std::optional<double> r;   ///< the correlation of x and y, of a line
  /// Where the search began, if that was guessed from the points.
  std::vector<double> guessed_start;
  double x_least = 0;
  double x_greatest = 0;
  /// Another place than the one that the start led to holds better: so many times less is left over there.
  std::optional<double> better_elsewhere;
  /// Linear models are evaluated by the form in which they were fitted: coefficients of powers of
  /// (x - centre) / width, which keeps the digits that powers of x lose.
  double centre = 0;
  double width = 1;
  std::vector<double> coefficients;
  std::vector<std::vector<double>> coefficient_covariance;
  /// Of the coefficients of a linear model, else of the parameters, for y of variance 1 / weight.
  std::vector<std::vector<double>> unscaled_covariance;
  /// The standard uncertainties of the parameters by what is stated of the points, where something is.
  std::vector<double> stated_errors;
};

}  // namespace opensum
