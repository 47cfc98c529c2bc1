// Linear least squares by orthogonal decomposition, with standard errors.
#pragma once

#include <cstddef>
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

/// Fits y as a combination of the columns of `basis`, each as long as y. `weights` are in proportion to
/// 1/variance; none where it is empty. Householder QR of the columns, each scaled to length 1, in extended
/// precision: never the normal equations. Columns depend on one another where, at length 1, a combination of
/// them is shorter than `threshold`.
LinearFit linear_fit(const std::vector<std::vector<long double>>& basis, const std::vector<double>& y,
                     const std::vector<double>& weights, long double threshold = 1e-17L);

}  // namespace opensum
