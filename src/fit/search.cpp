// The search for the parameters of a model that is no linear combination.
#include "fit/search.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <limits>
#include <unsupported/Eigen/NonLinearOptimization>

#include "fit/least_squares.h"

namespace opensum {
namespace {

// A step of central differences: the cube root of the precision, which balances rounding and curvature.
double step_of(double parameter) {
  static const double kRelative = std::cbrt(std::numeric_limits<double>::epsilon());
  return kRelative * std::max(std::abs(parameter), 1e-8);
}

// The residuals of a model as the library wants them.
struct Residuals {
  const CurveFunction& function;
  const std::vector<double>& x;
  const std::vector<double>& y;
  std::vector<double> roots;  ///< of the weights

  int inputs() const { return static_cast<int>(x.size()); }
  int values() const { return static_cast<int>(x.size()); }

  // Large numbers in place of none make a step there a bad one.
  int operator()(const Eigen::VectorXd& parameters, Eigen::VectorXd& out) const {
    constexpr double kFarOff = 1e150;
    const std::vector<double> values =
        function(std::vector<double>(parameters.data(), parameters.data() + parameters.size()), x);
    for (std::size_t i = 0; i < x.size(); ++i) {
      const double residual = (values[i] - y[i]) * roots[i];
      out(static_cast<Eigen::Index>(i)) = std::isfinite(residual) ? residual : kFarOff;
    }
    return 0;
  }

  int df(const Eigen::VectorXd& parameters, Eigen::MatrixXd& jacobian) const {
    Eigen::VectorXd at = parameters;
    Eigen::VectorXd above(values());
    Eigen::VectorXd below(values());
    for (Eigen::Index j = 0; j < parameters.size(); ++j) {
      const double step = step_of(parameters(j));
      at(j) = parameters(j) + step;
      const double high = at(j);
      (*this)(at, above);
      at(j) = parameters(j) - step;
      const double low = at(j);
      (*this)(at, below);
      at(j) = parameters(j);
      jacobian.col(j) = (above - below) / (high - low);
    }
    return 0;
  }
};

// One search; gives whether it came to an end, and leaves the parameters there.
bool search(const Residuals& residuals, double first_step, Eigen::VectorXd& parameters) {
  constexpr int kMostEvaluations = 4000;
  const double tolerance = std::sqrt(std::numeric_limits<double>::epsilon()) * 1e-5;
  Eigen::LevenbergMarquardt<const Residuals> method(residuals);
  method.parameters.factor = first_step;
  method.parameters.maxfev = kMostEvaluations;
  method.parameters.ftol = tolerance;
  method.parameters.xtol = tolerance;
  const auto status = method.minimize(parameters);
  using Status = Eigen::LevenbergMarquardtSpace::Status;
  return parameters.allFinite() && status != Status::TooManyFunctionEvaluation &&
         status != Status::ImproperInputParameters && status != Status::UserAsked;
}

}  // namespace

std::vector<double> gradient_at(const std::function<double(const std::vector<double>&)>& function,
                                const std::vector<double>& parameters, const std::vector<double>& scales) {
  std::vector<double> gradient;
  std::vector<double> at = parameters;
  for (std::size_t i = 0; i < parameters.size(); ++i) {
    const double step = scales.empty() || scales[i] == 0 ? step_of(parameters[i]) : scales[i] * 1e-3;
    at[i] = parameters[i] + step;
    const double high = function(at);
    at[i] = parameters[i] - step;
    const double low = function(at);
    at[i] = parameters[i];
    gradient.push_back((high - low) / (2 * step));
  }
  return gradient;
}

SearchResult search_parameters(const CurveFunction& function, const std::vector<double>& start,
                               const std::vector<double>& x, const std::vector<double>& y,
                               const std::vector<double>& weights) {
  SearchResult result;
  Residuals residuals{function, x, y, std::vector<double>(x.size(), 1)};
  for (std::size_t i = 0; i < weights.size(); ++i) residuals.roots[i] = std::sqrt(weights[i]);
  const std::vector<double> first = function(start, x);
  result.has_values = std::all_of(first.begin(), first.end(), [](double v) { return std::isfinite(v); });
  if (!result.has_values) return result;
  const auto count = static_cast<Eigen::Index>(start.size());
  Eigen::VectorXd best;
  double least = std::numeric_limits<double>::infinity();
  Eigen::VectorXd values(residuals.values());
  // The first step as a multiple of the parameters' size; shorter ones keep to the valley of the start.
  for (const double first_step : {100.0, 1.0, 0.1}) {
    Eigen::VectorXd parameters = Eigen::Map<const Eigen::VectorXd>(start.data(), count);
    if (!search(residuals, first_step, parameters)) continue;
    residuals(parameters, values);
    const double sum = values.squaredNorm();
    if (sum < least) {
      least = sum;
      best = parameters;
    }
  }
  if (best.size() == 0) return result;
  // From there once more, so that the end does not depend on the way.
  search(residuals, 1, best);
  residuals(best, values);
  result.sum_of_squares = values.squaredNorm();
  result.converged = true;
  result.parameters.assign(best.data(), best.data() + best.size());
  Eigen::MatrixXd jacobian(residuals.values(), count);
  residuals.df(best, jacobian);
  std::vector<std::vector<long double>> columns;
  for (Eigen::Index j = 0; j < count; ++j) {
    const Eigen::VectorXd column = jacobian.col(j);
    columns.emplace_back(column.data(), column.data() + column.size());
  }
  LinearFit tangent = linear_fit(columns, std::vector<double>(x.size(), 0), {});
  result.singular = tangent.singular || !jacobian.allFinite();
  result.unscaled_covariance = std::move(tangent.unscaled_covariance);
  return result;
}

}  // namespace opensum
