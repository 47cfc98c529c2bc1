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
  /// The columns do not determine the coefficients.
  bool singular = false;
};

/// Fits y as a combination of the columns of `basis`, each as long as y. `weights` are in proportion to
/// 1/variance; none where it is empty. Householder QR of the columns, each scaled to length 1, in extended
/// precision: never the normal equations.
LinearFit linear_fit(const std::vector<std::vector<long double>>& basis, const std::vector<double>& y,
                     const std::vector<double>& weights);

}  // namespace opensum
