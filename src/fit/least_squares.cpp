// Linear least squares by orthogonal decomposition.
#include "fit/least_squares.h"

#include <Eigen/Dense>
#include <cmath>
#include <numeric>

namespace opensum {
namespace {

using Matrix = Eigen::Matrix<long double, Eigen::Dynamic, Eigen::Dynamic>;
using Vector = Eigen::Matrix<long double, Eigen::Dynamic, 1>;

// The columns that the shortest combination of them consists of, if that is shorter than the threshold.
std::vector<std::size_t> dependent_columns(const Matrix& upper, long double threshold) {
  const Eigen::JacobiSVD<Matrix> svd(upper, Eigen::ComputeFullV);
  const Eigen::Index last = upper.cols() - 1;
  std::vector<std::size_t> columns;
  if (svd.singularValues()(last) >= threshold) return columns;
  // Whatever takes part by less than this is only carried along.
  constexpr long double kTakesPart = 0.05L;
  for (Eigen::Index j = 0; j < upper.cols(); ++j) {
    if (std::fabs(svd.matrixV()(j, last)) > kTakesPart) columns.push_back(static_cast<std::size_t>(j));
  }
  return columns;
}

}  // namespace

LinearFit linear_fit(const std::vector<std::vector<long double>>& basis, const std::vector<double>& y,
                     const std::vector<double>& weights, long double threshold) {
  const auto rows = static_cast<Eigen::Index>(y.size());
  const auto columns = static_cast<Eigen::Index>(basis.size());
  Matrix design(rows, columns);
  Vector target(rows);
  for (Eigen::Index i = 0; i < rows; ++i) {
    const auto row = static_cast<std::size_t>(i);
    const long double root = weights.empty() ? 1.0L : std::sqrt(static_cast<long double>(weights[row]));
    for (Eigen::Index j = 0; j < columns; ++j) design(i, j) = basis[static_cast<std::size_t>(j)][row] * root;
    target(i) = y[row] * root;
  }
  LinearFit fit;
  if (rows < columns) {
    fit.dependent.resize(basis.size());
    std::iota(fit.dependent.begin(), fit.dependent.end(), std::size_t{0});
    return fit;
  }
  Vector lengths(columns);
  for (Eigen::Index j = 0; j < columns; ++j) {
    lengths(j) = design.col(j).stableNorm();
    if (lengths(j) > 0) {
      design.col(j) /= lengths(j);
    } else {
      fit.dependent.push_back(static_cast<std::size_t>(j));
    }
  }
  if (fit.singular()) return fit;
  const Eigen::HouseholderQR<Matrix> qr(design);
  const Matrix upper = qr.matrixQR().topLeftCorner(columns, columns).triangularView<Eigen::Upper>();
  fit.dependent = dependent_columns(upper, threshold);
  if (fit.singular()) return fit;
  Vector turned_target = target;
  turned_target.applyOnTheLeft(qr.householderQ().adjoint());
  const long double length = target.stableNorm();
  if (length > 0) fit.explained = static_cast<double>(turned_target.head(columns).stableNorm() / length);
  const Vector scaled = upper.triangularView<Eigen::Upper>().solve(turned_target.head(columns));
  fit.sum_of_squares = static_cast<double>((target - design * scaled).squaredNorm());
  const Matrix inverse = upper.triangularView<Eigen::Upper>().solve(Matrix::Identity(columns, columns));
  const Matrix covariance = inverse * inverse.transpose();
  for (Eigen::Index i = 0; i < columns; ++i) {
    fit.coefficients.push_back(static_cast<double>(scaled(i) / lengths(i)));
    std::vector<double>& line = fit.unscaled_covariance.emplace_back();
    for (Eigen::Index j = 0; j < columns; ++j) {
      line.push_back(static_cast<double>(covariance(i, j) / (lengths(i) * lengths(j))));
    }
  }
  return fit;
}

}  // namespace opensum
