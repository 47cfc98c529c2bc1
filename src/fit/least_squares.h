// Linear least squares by orthogonal decomposition, with standard errors.
#pragma once

#include <cstddef>
#include <cstdint>
#include <functional>
#include <span>
#include <vector>

namespace opensum {

/// What a linear combination of columns comes to.
struct LinearFit {
  std::vector<double> coefficients;
  /// The inverse of the normal matrix, without the variance of the residuals.
  std::vector<std::vector<double>> unscaled_covariance;
  double sum_of_squares = 0;  ///< of the residuals, weighted; 0 where it is not asked for
  /// The length of the part of y that lies along the columns, over that of y.
  double explained = 0;
  /// Columns, by their places, that depend on one another or are all zero: they determine no coefficients.
  std::vector<std::size_t> dependent;

  bool singular() const { return !dependent.empty(); }
};

/// What y is a combination of.
struct Design {
  std::size_t columns = 0;
  /// Puts down the value of each column in a row.
  std::function<void(std::size_t row, std::span<long double> values)> row;
};

/// Whether the residuals of a fit are summed, for which all rows are gone over again.
enum class Residues : std::uint8_t { summed, not_asked };

/// Fits y as a combination of the columns of a design. `weights` are in proportion to 1/variance; none where
/// it is empty. Householder QR in extended precision, a block of rows after the other, each below the
/// triangle of those before it (as in Golub and Van Loan, Matrix Computations, 4th ed., 5.2 and 12.5): never
/// the normal equations, and no more is held than a block. Columns depend on one another where, at length 1,
/// a combination of them is shorter than `threshold`.
LinearFit linear_fit(const Design& design, const std::vector<double>& y, const std::vector<double>& weights,
                     long double threshold = 1e-17L, Residues residues = Residues::summed);

}  // namespace opensum
