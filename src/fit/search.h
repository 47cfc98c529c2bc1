// The search for the parameters of a model that is no linear combination.
#pragma once

#include <optional>
#include <vector>

#include "fit/curve_function.h"

namespace opensum {

struct SearchResult {
  std::vector<double> parameters;
  std::vector<std::vector<double>> unscaled_covariance;
  double sum_of_squares = 0;
  bool converged = false;
  bool has_values = false;  ///< the model has a value at all x where the search begins
  /// Parameters, by their places, that the points do not tell apart at the end of the search.
  std::vector<std::size_t> undetermined;
  /// Those with which the model does not change there.
  std::vector<std::size_t> unmoved;
  /// How many times less is left over at the end than where the given start alone leads to.
  std::optional<double> better_elsewhere;
};

/// Searches for the least sum of squares by the method of Levenberg and Marquardt, first as MINPACK steps and
/// then, where that finds no end, with shorter first steps; then by Gauss and Newton to the minimum. With
/// `other_starts` it also begins at parameters of other size and sign, and takes what holds much better.
SearchResult search_parameters(const CurveFunction& function, const std::vector<double>& start,
                               const std::vector<double>& x, const std::vector<double>& y,
                               const std::vector<double>& weights, bool other_starts);

}  // namespace opensum
