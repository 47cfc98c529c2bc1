// Linear least squares by orthogonal decomposition.
#include "fit/least_squares.h"

#include <Eigen/Dense>
#include <cmath>

namespace opensum {
namespace {

using Matrix = Eigen::Matrix<long double, Eigen::Dynamic, Eigen::Dynamic>;
using Vector = Eigen::Matrix<long double, Eigen::Dynamic, 1>;

}  // namespace

LinearFit linear_fit(const std::vector<std::vector<long double>>& basis, const std::vector<double>& y,
                     const std::vector<double>& weights) {
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
  Vector lengths(columns);
  for (Eigen::Index j = 0; j < columns; ++j) {
    lengths(j) = design.col(j).stableNorm();
    if (lengths(j) > 0) design.col(j) /= lengths(j);
  }
  Eigen::ColPivHouseholderQR<Matrix> qr(design);
  // What doubles cannot tell from zero in the data is none of their information.
  constexpr long double kRankThreshold = 1e-17L;
  qr.setThreshold(kRankThreshold);
  if (rows < columns || qr.rank() < columns) {
    fit.singular = true;
    return fit;
  }
  const Vector scaled = qr.solve(target);
  fit.sum_of_squares = static_cast<double>((target - design * scaled).squaredNorm());
  const Matrix upper = qr.matrixR().topLeftCorner(columns, columns).triangularView<Eigen::Upper>();
  const Matrix inverse = upper.triangularView<Eigen::Upper>().solve(Matrix::Identity(columns, columns));
  const Matrix turned = qr.colsPermutation() * inverse;
  const Matrix covariance = turned * turned.transpose();
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
