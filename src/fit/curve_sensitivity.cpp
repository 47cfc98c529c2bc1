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

// The inverse of half the second derivatives of the sum of squares by the parameters of a model that is not
// linear: beside the product of gradients, what its curvature does to points beside it. Where that is no
// minimum but for rounding, without the curvature.
std::vector<std::vector<double>> inverse_bend(const CurveModel& model, const Curve& curve,
                                              const CurveData& data) {
  const auto count = static_cast<Eigen::Index>(curve.parameters.size());
  const CurveFunction function = function_of(model);
  // Derivatives of rounded gradients: the cube root of the rounding is the best step.
  constexpr double kStep = 6e-6;
  constexpr std::size_t kBlockRows = 4096;
  Eigen::MatrixXd bend = Eigen::MatrixXd::Zero(count, count);
  for (std::size_t begin = 0; begin < data.x.size(); begin += kBlockRows) {
    const auto first = data.x.begin() + static_cast<std::ptrdiff_t>(begin);
    const std::size_t rows = std::min(kBlockRows, data.x.size() - begin);
    const std::vector<double> x(first, first + static_cast<std::ptrdiff_t>(rows));
    const Tangents here = function(curve.parameters, x);
    for (Eigen::Index p = 0; p < count; ++p) {
      const auto at = static_cast<std::size_t>(p);
      std::vector<double> moved = curve.parameters;
      const double step = kStep * std::max(std::fabs(moved[at]), std::sqrt(curve.covariance[at][at]));
      moved[at] = curve.parameters[at] + step;
      const auto ahead = function(moved, x).derivatives;
      moved[at] = curve.parameters[at] - step;
      const auto back = function(moved, x).derivatives;
      for (Eigen::Index q = 0; q < count; ++q) {
        const auto other = static_cast<std::size_t>(q);
        for (std::size_t i = 0; i < rows; ++i) {
          const double weight = data.weights.empty() ? 1 : data.weights[begin + i];
          const double curvature = (ahead[other][i] - back[other][i]) / (2 * step);
          bend(p, q) += weight * (here.derivatives[at][i] * here.derivatives[other][i] -
                                  (data.y[begin + i] - here.values[i]) * curvature);
        }
      }
    }
  }
  const Eigen::VectorXd sizes = bend.diagonal().cwiseAbs().cwiseSqrt();
  const Eigen::MatrixXd scaled =
      sizes.cwiseInverse().asDiagonal() * ((bend + bend.transpose()) / 2) * sizes.cwiseInverse().asDiagonal();
  const Eigen::LLT<Eigen::MatrixXd> solver(scaled);
  if (!scaled.allFinite() || solver.info() != Eigen::Success) return curve.unscaled_covariance;
  const Eigen::MatrixXd inverse = sizes.cwiseInverse().asDiagonal() *
                                  solver.solve(Eigen::MatrixXd::Identity(count, count)) *
                                  sizes.cwiseInverse().asDiagonal();
  std::vector<std::vector<double>> result = curve.unscaled_covariance;
  for (Eigen::Index p = 0; p < count; ++p) {
    for (Eigen::Index q = 0; q < count; ++q)
      result[static_cast<std::size_t>(p)][static_cast<std::size_t>(q)] = inverse(p, q);
  }
  return result;
}

}  // namespace

std::vector<double> gradient_at(const CurveModel& model, const Curve& curve, double x) {
  const std::vector<long double> moves = moves_at(model, curve, x);
  return {moves.begin(), moves.end()};
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
  const std::vector<std::vector<double>> inverse_of =
      is_linear(model.kind) ? curve.unscaled_covariance : inverse_bend(model, curve, data);
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
        const double inverse = inverse_of[p][q] * weight;
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
      sizes.asDiagonal() * solver.eigenvectors() * solver.eigenvalues().cwiseMax(0).cwiseSqrt().asDiagonal();
  std::vector<std::vector<double>> scatter(covariance.size(), std::vector<double>(covariance.size(), 0));
  for (Eigen::Index i = 0; i < count; ++i) {
    for (Eigen::Index j = 0; j < count; ++j)
      scatter[static_cast<std::size_t>(i)][static_cast<std::size_t>(j)] = root(i, j);
  }
  return scatter;
}

void scatter_curve(const CurveModel& model, Curve& curve, const std::vector<double>& unknowns) {
  const std::vector<std::vector<double>> scatter = scatter_of(model, curve);
  std::vector<double>& numbers = is_linear(model.kind) ? curve.coefficients : curve.parameters;
  for (std::size_t k = 0; k < numbers.size(); ++k) {
    for (std::size_t q = 0; q < numbers.size(); ++q) numbers[k] += scatter[k][q] * unknowns[q];
  }
  if (!is_linear(model.kind)) return;
  const std::vector<std::vector<double>> by_numbers = parameters_by_numbers(model, curve);
  for (std::size_t p = 0; p < by_numbers.size(); ++p) {
    curve.parameters[p] = 0;
    for (std::size_t k = 0; k < numbers.size(); ++k) curve.parameters[p] += by_numbers[p][k] * numbers[k];
  }
}

}  // namespace opensum
