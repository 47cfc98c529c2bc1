// How fitted curves move.
#include "fit/curve_sensitivity.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

#include "fit/curve_form.h"

namespace opensum {
namespace {

// A small step of x: of the range that was fitted.
double step_of(const Curve& curve, double x) {
  constexpr double kPart = 1e-6;
  const double range = curve.x_greatest - curve.x_least;
  return kPart * (range > 0 ? range : std::max(std::fabs(x), 1.0));
}

}  // namespace

std::vector<double> gradient_at(const CurveModel& model, const Curve& curve, double x) {
  if (is_linear(model.kind)) {
    const std::vector<long double> basis = basis_at(model, curve, x);
    return {basis.begin(), basis.end()};
  }
  std::vector<double> gradient;
  for (const std::vector<double>& derivative : function_of(model)(curve.parameters, {x}).derivatives)
    gradient.push_back(derivative.front());
  return gradient;
}

double slope_at(const CurveModel& model, const Curve& curve, double x) {
  const double step = step_of(curve, x);
  const double ahead = curve_at(model, curve, x + step);
  const double back = curve_at(model, curve, x - step);
  // At an end of where the model has values there is one side only.
  if (std::isnan(back)) return (ahead - curve_at(model, curve, x)) / step;
  if (std::isnan(ahead)) return (curve_at(model, curve, x) - back) / step;
  return (ahead - back) / (2 * step);
}

std::vector<std::vector<double>> parameters_by_numbers(const CurveModel& model, const Curve& curve) {
  const std::size_t count = model.names.size();
  std::vector<std::vector<double>> combinations(count, std::vector<double>(count, 0));
  if (!is_linear(model.kind)) {
    for (std::size_t k = 0; k < count; ++k) combinations[k][k] = 1;
    return combinations;
  }
  const auto powers = powers_of_x(model, curve);
  for (std::size_t k = 0; k < count; ++k) combinations[k].assign(powers[k].begin(), powers[k].end());
  return combinations;
}

CurveSensitivity sensitivity_of(const CurveModel& model, const Curve& curve, const CurveData& data) {
  const std::size_t count = curve.unscaled_covariance.size();
  CurveSensitivity sensitivity;
  sensitivity.by_y.assign(count, std::vector<double>(data.x.size(), 0));
  sensitivity.by_x = sensitivity.by_y;
  for (std::size_t i = 0; i < data.x.size(); ++i) {
    const double x = data.x[i];
    const double weight = data.weights.empty() ? 1 : data.weights[i];
    const std::vector<double> gradient = gradient_at(model, curve, x);
    const double residual = data.y[i] - curve_at(model, curve, x);
    const double slope = slope_at(model, curve, x);
    const double step = step_of(curve, x);
    const std::vector<double> ahead = gradient_at(model, curve, x + step);
    const std::vector<double> back = gradient_at(model, curve, x - step);
    for (std::size_t p = 0; p < count; ++p) {
      double by_y = 0;
      double by_x = 0;
      for (std::size_t q = 0; q < count; ++q) {
        const double inverse = curve.unscaled_covariance[p][q] * weight;
        const double bend = (ahead[q] - back[q]) / (2 * step);
        by_y += inverse * gradient[q];
        by_x += inverse * (residual * bend - slope * gradient[q]);
      }
      sensitivity.by_y[p][i] = by_y;
      sensitivity.by_x[p][i] = by_x;
    }
  }
  return sensitivity;
}

std::vector<std::vector<double>> scatter_of(const CurveModel& model, const Curve& curve) {
  const auto& covariance = is_linear(model.kind) ? curve.coefficient_covariance : curve.covariance;
  const auto count = static_cast<Eigen::Index>(covariance.size());
  Eigen::MatrixXd matrix(count, count);
  for (Eigen::Index i = 0; i < count; ++i) {
    for (Eigen::Index j = 0; j < count; ++j)
      matrix(i, j) = covariance[static_cast<std::size_t>(i)][static_cast<std::size_t>(j)];
  }
  // Of unlike size they are brought to 1, so that none is lost beside another.
  const Eigen::VectorXd sizes = matrix.diagonal().cwiseSqrt();
  for (Eigen::Index i = 0; i < count; ++i) {
    for (Eigen::Index j = 0; j < count; ++j)
      matrix(i, j) = sizes(i) * sizes(j) > 0 ? matrix(i, j) / (sizes(i) * sizes(j)) : 0;
  }
  const Eigen::SelfAdjointEigenSolver<Eigen::MatrixXd> solver(matrix);
  const Eigen::MatrixXd root =
      sizes.asDiagonal() * solver.eigenvectors() *
      solver.eigenvalues().cwiseMax(0).cwiseSqrt().asDiagonal();
  std::vector<std::vector<double>> scatter(covariance.size(), std::vector<double>(covariance.size(), 0));
  for (Eigen::Index i = 0; i < count; ++i) {
    for (Eigen::Index j = 0; j < count; ++j)
      scatter[static_cast<std::size_t>(i)][static_cast<std::size_t>(j)] = root(i, j);
  }
  return scatter;
}

}  // namespace opensum
