// Linear least squares by orthogonal decomposition.
#include "fit/least_squares.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <numeric>

#include "fit/row_triangle.h"

namespace opensum {
namespace {

using Matrix = RowTriangle<long double>::Matrix;
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

// A row of the design and its y, at their weight.
void weighted_row(const Design& design, const std::vector<double>& y, const std::vector<double>& weights,
                  std::size_t row, Vector& out) {
  const long double root = weights.empty() ? 1.0L : std::sqrt(static_cast<long double>(weights[row]));
  design.row(row, {out.data(), design.columns});
  out(static_cast<Eigen::Index>(design.columns)) = y[row];
  out *= root;
}

// The triangle of all rows, y as its last column.
Matrix triangle_of(const Design& design, const std::vector<double>& y, const std::vector<double>& weights) {
  constexpr std::size_t kBlockRows = 1024;
  const auto width = static_cast<Eigen::Index>(design.columns + 1);
  RowTriangle<long double> triangle(width);
  Vector values(width);
  for (std::size_t begin = 0; begin < y.size(); begin += kBlockRows) {
    const std::size_t rows = std::min(kBlockRows, y.size() - begin);
    Matrix block(static_cast<Eigen::Index>(rows), width);
    for (std::size_t i = 0; i < rows; ++i) {
      weighted_row(design, y, weights, begin + i, values);
      block.row(static_cast<Eigen::Index>(i)) = values.transpose();
    }
    triangle.add(block);
  }
  return triangle.upper();
}

// The weighted sum of the squares of what the combination leaves.
long double squares_left(const Design& design, const std::vector<double>& y,
                         const std::vector<double>& weights, const Vector& coefficients) {
  Vector values(coefficients.size() + 1);
  long double sum = 0;
  for (std::size_t row = 0; row < y.size(); ++row) {
    weighted_row(design, y, weights, row, values);
    const long double left = values(coefficients.size()) - values.head(coefficients.size()).dot(coefficients);
    sum += left * left;
  }
  return sum;
}

}  // namespace

LinearFit linear_fit(const Design& design, const std::vector<double>& y, const std::vector<double>& weights,
                     long double threshold, Residues residues) {
  LinearFit fit;
  if (y.size() < design.columns) {
    fit.dependent.resize(design.columns);
    std::iota(fit.dependent.begin(), fit.dependent.end(), std::size_t{0});
    return fit;
  }
  const auto columns = static_cast<Eigen::Index>(design.columns);
  const Matrix triangle = triangle_of(design, y, weights);
  // Each column at length 1: turning columns leaves their lengths as they are.
  Matrix upper = triangle.topLeftCorner(columns, columns);
  Vector lengths(columns);
  for (Eigen::Index j = 0; j < columns; ++j) {
    lengths(j) = upper.col(j).stableNorm();
    if (lengths(j) > 0) {
      upper.col(j) /= lengths(j);
    } else {
      fit.dependent.push_back(static_cast<std::size_t>(j));
    }
  }
  if (fit.singular()) return fit;
  fit.dependent = dependent_columns(upper, threshold);
  if (fit.singular()) return fit;
  const Vector turned = triangle.col(columns);
  const long double length = turned.stableNorm();
  if (length > 0) fit.explained = static_cast<double>(turned.head(columns).stableNorm() / length);
  const Vector scaled = upper.triangularView<Eigen::Upper>().solve(turned.head(columns));
  const Vector coefficients = scaled.cwiseQuotient(lengths);
  if (residues == Residues::summed)
    fit.sum_of_squares = static_cast<double>(squares_left(design, y, weights, coefficients));
  const Matrix inverse = upper.triangularView<Eigen::Upper>().solve(Matrix::Identity(columns, columns));
  const Matrix covariance = inverse * inverse.transpose();
  for (Eigen::Index i = 0; i < columns; ++i) {
    fit.coefficients.push_back(static_cast<double>(coefficients(i)));
    std::vector<double>& line = fit.unscaled_covariance.emplace_back();
    for (Eigen::Index j = 0; j < columns; ++j) {
      line.push_back(static_cast<double>(covariance(i, j) / (lengths(i) * lengths(j))));
    }
  }
  return fit;
}

}  // namespace opensum
