// The search for the parameters of a model that is no linear combination.
#include "fit/search.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <limits>
#include <unsupported/Eigen/NonLinearOptimization>

#include "fit/least_squares.h"

namespace opensum {
namespace {

// Columns of derivatives whose shortest combination is shorter than this are the same to a double's digits.
constexpr long double kSame = 1e-12L;

// Points that the search looks at, with the roots of their weights, which are none where all are 1. They are
// held elsewhere.
struct Points {
  const std::vector<double>& x;
  const std::vector<double>& y;
  std::vector<double> roots;

  double root(std::size_t i) const { return roots.empty() ? 1 : roots[i]; }
};

// The residuals of a model as the library wants them.
class Residuals {
 public:
  Residuals(const CurveFunction& function, const Points& points) : function_(function), points_(points) {}

  int inputs() const { return static_cast<int>(points_.x.size()); }
  int values() const { return static_cast<int>(points_.x.size()); }

  // Large numbers in place of none make a step there a bad one.
  int operator()(const Eigen::VectorXd& parameters, Eigen::VectorXd& out) const {
    constexpr double kFarOff = 1e150;
    const Tangents& model = at(parameters);
    for (std::size_t i = 0; i < points_.x.size(); ++i) {
      const double residual = (model.values[i] - points_.y[i]) * points_.root(i);
      out(static_cast<Eigen::Index>(i)) = std::isfinite(residual) ? residual : kFarOff;
    }
    return 0;
  }

  int df(const Eigen::VectorXd& parameters, Eigen::MatrixXd& jacobian) const {
    const Tangents& model = at(parameters);
    for (Eigen::Index j = 0; j < parameters.size(); ++j) {
      const std::vector<double>& column = model.derivatives[static_cast<std::size_t>(j)];
      for (std::size_t i = 0; i < column.size(); ++i) {
        const double derivative = column[i] * points_.root(i);
        jacobian(static_cast<Eigen::Index>(i), j) = std::isfinite(derivative) ? derivative : 0;
      }
    }
    return 0;
  }

  // Values and derivatives at parameters; asked for twice in a row they are calculated once.
  const Tangents& at(const Eigen::VectorXd& parameters) const {
    std::vector<double> wanted(parameters.data(), parameters.data() + parameters.size());
    if (wanted != parameters_) {
      tangents_ = function_(wanted, points_.x);
      parameters_ = std::move(wanted);
    }
    return tangents_;
  }

  double sum_of_squares(const Eigen::VectorXd& parameters) const {
    Eigen::VectorXd residuals(values());
    (*this)(parameters, residuals);
    return residuals.squaredNorm();
  }

  const Points& points() const { return points_; }

 private:
  const CurveFunction& function_;
  const Points& points_;
  mutable std::vector<double> parameters_ = {std::nan("")};
  mutable Tangents tangents_;
};

// One search; gives whether it came to an end, and leaves the parameters there.
bool search(const Residuals& residuals, double first_step, Eigen::VectorXd& parameters) {
  constexpr int kMostEvaluations = 4000;
  const double tolerance = std::sqrt(std::numeric_limits<double>::epsilon()) * 1e-5;
  Eigen::LevenbergMarquardt<const Residuals> method(residuals);
  method.parameters.factor = first_step;
  method.parameters.maxfev = kMostEvaluations;
  method.parameters.ftol = tolerance;
  method.parameters.xtol = tolerance;
  const auto status = method.minimize(parameters);
  using Status = Eigen::LevenbergMarquardtSpace::Status;
  return parameters.allFinite() && status != Status::TooManyFunctionEvaluation &&
         status != Status::ImproperInputParameters && status != Status::UserAsked;
}

// Where searches from one start end; an empty vector where none does.
Eigen::VectorXd best_end(const Residuals& residuals, const Eigen::VectorXd& start) {
  Eigen::VectorXd best;
  double least = std::numeric_limits<double>::infinity();
  // The first step as a multiple of the parameters' size; shorter ones keep to the valley of the start.
  for (const double first_step : {100.0, 1.0, 0.1}) {
    Eigen::VectorXd parameters = start;
    if (!search(residuals, first_step, parameters)) continue;
    const double sum = residuals.sum_of_squares(parameters);
    if (sum < least) {
      least = sum;
      best = parameters;
    }
  }
  return best;
}

// What is left of y, and the derivatives of the model, at parameters. It stands until the model is looked at
// elsewhere.
struct Tangent {
  const Points* points = nullptr;
  const std::vector<std::vector<double>>* derivatives = nullptr;
  std::vector<double> residuals;
  bool finite = true;

  long double derivative(std::size_t column, std::size_t row) const {
    return static_cast<long double>((*derivatives)[column][row]) * points->root(row);
  }
  Design design() const {
    return {derivatives->size(), [this](std::size_t row) {
              std::vector<long double> values;
              for (std::size_t column = 0; column < derivatives->size(); ++column)
                values.push_back(derivative(column, row));
              return values;
            }};
  }
};

Tangent tangent_at(const Residuals& residuals, const Eigen::VectorXd& parameters) {
  const Points& points = residuals.points();
  const Tangents& model = residuals.at(parameters);
  Tangent tangent{&points, &model.derivatives, {}};
  tangent.residuals.reserve(points.x.size());
  for (std::size_t i = 0; i < points.x.size(); ++i) {
    tangent.residuals.push_back((points.y[i] - model.values[i]) * points.root(i));
    tangent.finite = tangent.finite && std::isfinite(tangent.residuals.back());
    for (std::size_t j = 0; j < model.derivatives.size(); ++j)
      tangent.finite = tangent.finite && std::isfinite(tangent.derivative(j, i));
  }
  return tangent;
}

// Steps of Gauss and Newton, as long as less and less of the residuals lies along the derivatives (the
// relative offset of Bates and Watts), which is nothing at the minimum. The sum of squares itself is too flat
// there to tell.
Eigen::VectorXd to_minimum(const Residuals& residuals, const Eigen::VectorXd& from) {
  constexpr int kMostSteps = 100;
  Eigen::VectorXd best = from;
  double least = std::numeric_limits<double>::infinity();
  Eigen::VectorXd parameters = from;
  int without_gain = 0;
  for (int i = 0; i < kMostSteps && without_gain < 5; ++i) {
    const Tangent tangent = tangent_at(residuals, parameters);
    if (!tangent.finite) break;
    const LinearFit fit = linear_fit(tangent.design(), tangent.residuals, {}, kSame);
    if (fit.singular()) break;
    if (fit.explained < least) {
      least = fit.explained;
      best = parameters;
      without_gain = 0;
    } else {
      ++without_gain;
    }
    for (Eigen::Index j = 0; j < parameters.size(); ++j)
      parameters(j) += fit.coefficients[static_cast<std::size_t>(j)];
  }
  // Never away from the valley.
  const double before = residuals.sum_of_squares(from);
  return residuals.sum_of_squares(best) <= before * (1 + 1e-9) ? best : from;
}

// Starts of other size and sign, one parameter at a time.
std::vector<Eigen::VectorXd> other_starts_of(const Eigen::VectorXd& start) {
  std::vector<Eigen::VectorXd> starts;
  for (Eigen::Index j = 0; j < start.size(); ++j) {
    for (const double factor : {-1.0, 0.1, 10.0}) {
      if (start(j) == 0) continue;
      Eigen::VectorXd other = start;
      other(j) *= factor;
      starts.push_back(std::move(other));
    }
  }
  return starts;
}

// Some of many values, evenly spaced: so many show where a search leads.
std::vector<double> thinned(const std::vector<double>& values) {
  constexpr std::size_t kMost = 1000;
  const std::size_t every = (values.size() + kMost - 1) / kMost;
  if (every <= 1) return values;
  std::vector<double> some;
  for (std::size_t i = 0; i < values.size(); i += every) some.push_back(values[i]);
  return some;
}

// A place that holds much better than the one the start led to; an empty vector where there is none.
Eigen::VectorXd better_place(const CurveFunction& function, const Residuals& residuals,
                             const Eigen::VectorXd& start, double least) {
  // Less than this is chance, and a place of the same sum is the same model in another order.
  constexpr double kMuchBetter = 0.9;
  double size = 0;
  for (std::size_t i = 0; i < residuals.points().y.size(); ++i) {
    const double y = residuals.points().y[i] * residuals.points().root(i);
    size += y * y;
  }
  constexpr double kExact = 1e-20;
  if (least <= kExact * size) return {};
  const std::vector<double> some_x = thinned(residuals.points().x);
  const std::vector<double> some_y = thinned(residuals.points().y);
  const Points some{some_x, some_y, thinned(residuals.points().roots)};
  const Residuals of_some(function, some);
  Eigen::VectorXd best;
  for (const Eigen::VectorXd& other : other_starts_of(start)) {
    Eigen::VectorXd parameters = other;
    if (!search(of_some, 1, parameters)) continue;
    if (some.x.size() < residuals.points().x.size() && !search(residuals, 1, parameters)) continue;
    const double sum = residuals.sum_of_squares(parameters);
    if (!(sum < kMuchBetter * least)) continue;
    least = sum;
    best = parameters;
  }
  return best;
}

}  // namespace

SearchResult search_parameters(const CurveFunction& function, const std::vector<double>& start,
                               const std::vector<double>& x, const std::vector<double>& y,
                               const std::vector<double>& weights, bool other_starts) {
  SearchResult result;
  Points points{x, y, {}};
  for (const double weight : weights) points.roots.push_back(std::sqrt(weight));
  const Residuals residuals(function, points);
  const Eigen::VectorXd first =
      Eigen::Map<const Eigen::VectorXd>(start.data(), static_cast<Eigen::Index>(start.size()));
  const std::vector<double>& at_start = residuals.at(first).values;
  result.has_values =
      std::all_of(at_start.begin(), at_start.end(), [](double v) { return std::isfinite(v); });
  if (!result.has_values) return result;
  Eigen::VectorXd best = best_end(residuals, first);
  if (other_starts) {
    const double least =
        best.size() == 0 ? std::numeric_limits<double>::infinity() : residuals.sum_of_squares(best);
    const Eigen::VectorXd better = better_place(function, residuals, first, least);
    if (better.size() > 0) {
      if (std::isfinite(least)) result.better_elsewhere = least / residuals.sum_of_squares(better);
      best = better;
    }
  }
  if (best.size() == 0) return result;
  best = to_minimum(residuals, best);
  result.converged = true;
  result.sum_of_squares = residuals.sum_of_squares(best);
  result.parameters.assign(best.data(), best.data() + best.size());
  const Tangent tangent = tangent_at(residuals, best);
  for (std::size_t j = 0; j < tangent.derivatives->size(); ++j) {
    bool moves = false;
    bool finite = true;
    for (std::size_t i = 0; i < x.size(); ++i) {
      const long double derivative = tangent.derivative(j, i);
      moves = moves || derivative != 0;
      finite = finite && std::isfinite(derivative);
    }
    if (!moves || !finite) result.unmoved.push_back(j);
  }
  if (!result.unmoved.empty()) return result;
  LinearFit fit = linear_fit(tangent.design(), tangent.residuals, {}, kSame);
  result.undetermined = std::move(fit.dependent);
  result.unscaled_covariance = std::move(fit.unscaled_covariance);
  return result;
}

}  // namespace opensum
