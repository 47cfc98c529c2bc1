// The search for the parameters of a model that is no linear combination.
#pragma once

#include <functional>
#include <vector>

#include "fit/curve.h"

namespace opensum {

struct SearchResult {
  std::vector<double> parameters;
  std::vector<std::vector<double>> unscaled_covariance;
  double sum_of_squares = 0;
  bool converged = false;
  bool singular = false;    ///< the points do not determine all parameters
  bool has_values = false;  ///< the model has a value at all x where the search begins
};

/// Searches for the least sum of squares by the method of Levenberg and Marquardt, first as MINPACK steps and
/// then, where that finds no end, with shorter first steps. Derivatives are central differences.
SearchResult search_parameters(const CurveFunction& function, const std::vector<double>& start,
                               const std::vector<double>& x, const std::vector<double>& y,
                               const std::vector<double>& weights);

/// The derivatives of a function of parameters by central differences; `scales` are lengths over which the
/// parameters are uncertain, where they are known.
std::vector<double> gradient_at(const std::function<double(const std::vector<double>&)>& function,
                                const std::vector<double>& parameters, const std::vector<double>& scales);

}  // namespace opensum
