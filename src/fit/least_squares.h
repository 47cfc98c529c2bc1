// Linear least squares by orthogonal decomposition, with standard errors.
#pragma once

#include <cstddef>
#include <functional>
#include <vector>

namespace opensum {

/// What a linear combination of columns comes to.
struct LinearFit {
  std::vector<double> coefficients;
  /// The inverse of the normal matrix, without the variance of the residuals.
  std::vector<std::vector<double>> unscaled_covariance;
  double sum_of_squares = 0;  ///< of the residuals, weighted
  /// The length of the part of y that lies along the columns, over that of y.
  double explained = 0;
  /// Columns, by their places, that depend on one another or are all zero: they determine no coefficients.
  std::vector<std::size_t> dependent;

  bool singular() const { return !dependent.empty(); }
};

/// What y is a combination of: the values of each column in a row.
struct Design {
  std::size_t columns = 0;
  std::function<std::vector<long double>(std::size_t row)> row;
};

/// Fits y as a combination of the columns of a design. `weights` are in proportion to 1/variance; none where
/// it is empty. Householder QR in extended precision, a block of rows after the other, each below the
/// triangle of those before it (as in Golub and Van Loan, Matrix Computations, 4th ed., 5.2 and 12.5): never
/// the normal equations, and no more is held than a block. Columns depend on one another where, at length 1,
/// a combination of them is shorter than `threshold`.
LinearFit linear_fit(const Design& design, const std::vector<double>& y, const std::vector<double>& weights,
                     long double threshold = 1e-17L);

}  // namespace opensum
