// Fits to points with a standard uncertainty in x as well as in y.
#include "fit/effective_variance.h"

#include <algorithm>
#include <cmath>

#include "fit/curve_sensitivity.h"

namespace opensum {

Curve fit_by_effective_variance(const CurveModel& model, CurveData& data) {
  if (data.x_errors.empty()) return fit_curve(model, data);
  constexpr int kRounds = 100;
  constexpr double kSettled = 1e-10;
  const std::vector<double> by_y = data.weights;
  Curve curve = fit_curve(model, data);
  for (int round = 0; round < kRounds && curve.state == CurveState::fitted; ++round) {
    double change = 0;
    for (std::size_t i = 0; i < data.x.size(); ++i) {
      const double by_x = slope_at(model, curve, data.x[i]) * data.x_errors[i];
      // Where the curve has no slope, as at the end of where it has values, y alone counts.
      const double weight = std::isfinite(by_x) ? 1 / (1 / by_y[i] + by_x * by_x) : by_y[i];
      change = std::max(change, std::fabs(weight / data.weights[i] - 1));
      data.weights[i] = weight;
    }
    if (change < kSettled) break;
    curve = fit_curve(model, data);
  }
  return curve;
}

}  // namespace opensum
