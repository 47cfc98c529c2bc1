// The search for the parameters of a model that is no linear combination.
#include "fit/search.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <limits>
#include <span>
#include <unsupported/Eigen/NonLinearOptimization>

#include "fit/least_squares.h"
#include "fit/row_triangle.h"

namespace opensum {
namespace {

// Columns of derivatives whose shortest combination is shorter than this are the same to a double's digits.
constexpr long double kSame = 1e-12L;

// At the end of a search such columns do not tell their parameters apart: with half of a double's digits the
// search cannot, and standard errors are so many times those of each parameter alone. The hardest of the
// certified fits come to about 1e-6.
constexpr long double kUndetermined = 1e-8L;

// Points that the search looks at, with the roots of their weights, which are none where all are 1. They are
// held elsewhere.
struct Points {
  const std::vector<double>& x;
  const std::vector<double>& y;
  std::vector<double> roots;

  std::size_t size() const { return x.size(); }
  double root(std::size_t i) const { return roots.empty() ? 1 : roots[i]; }
};

bool same(const Eigen::VectorXd& a, const Eigen::VectorXd& b) { return a.size() == b.size() && a == b; }

// What a model and its derivatives are at the points, for a block of them at a time.
class Model {
 public:
  Model(const CurveFunction& function, const Points& points) : function_(function), points_(points) {}

  struct Block {
    std::size_t first = 0;
    Tangents tangents;

    std::size_t size() const { return tangents.values.size(); }
    double value(std::size_t row) const { return tangents.values[row - first]; }
    double derivative(std::size_t by, std::size_t row) const { return tangents.derivatives[by][row - first]; }
  };

  // The block in which a row is; it stands until another one is asked for, or other parameters.
  const Block& block(const Eigen::VectorXd& parameters, std::size_t row) {
    const std::size_t first = row - row % kRows;
    if (!same(parameters, parameters_) || first != block_.first) {
      parameters_ = parameters;
      block_.first = first;
      const auto begin = points_.x.begin() + static_cast<std::ptrdiff_t>(first);
      const std::size_t rows = std::min(kRows, points_.size() - first);
      const std::vector<double> some(begin, begin + static_cast<std::ptrdiff_t>(rows));
      block_.tangents = function_({parameters.data(), parameters.data() + parameters.size()}, some);
    }
    return block_;
  }

  // All blocks in their order.
  template <typename Take>
  void for_each_block(const Eigen::VectorXd& parameters, const Take& take) {
    for (std::size_t row = 0; row < points_.size(); row += kRows) take(block(parameters, row));
  }

  const Points& points() const { return points_; }

 private:
  static constexpr std::size_t kRows = 4096;

  const CurveFunction& function_;
  const Points& points_;
  Eigen::VectorXd parameters_;
  Block block_;
};

// The residuals of a model as the library wants them. Of as many as there are points it needs their length,
// and what of it lies along the derivatives: the last column of the triangle of both has no more, and takes
// their place.
class Residuals {
 public:
  Residuals(const CurveFunction& function, const Points& points, std::size_t parameters)
      : model_(function, points), width_(static_cast<Eigen::Index>(parameters) + 1) {}

  int values() const { return static_cast<int>(width_); }

  int operator()(const Eigen::VectorXd& parameters, Eigen::VectorXd& out) const {
    out = triangle(parameters).col(width_ - 1);
    return 0;
  }

  int df(const Eigen::VectorXd& parameters, Eigen::MatrixXd& jacobian) const {
    jacobian = triangle(parameters).leftCols(width_ - 1);
    return 0;
  }

  double sum_of_squares(const Eigen::VectorXd& parameters) const {
    double sum = 0;
    model_.for_each_block(parameters,
                          [&](const Model::Block& block) { sum += rows_of(block).squaredNorm(); });
    return sum;
  }

  // Where there are fewer points than parameters there is nothing to search.
  bool enough_points() const { return points().size() + 1 >= static_cast<std::size_t>(width_); }
  Model& model() const { return model_; }
  const Points& points() const { return model_.points(); }

 private:
  // Large numbers in place of none make a step there a bad one.
  Eigen::VectorXd rows_of(const Model::Block& block) const {
    constexpr double kFarOff = 1e150;
    Eigen::VectorXd residuals(static_cast<Eigen::Index>(block.size()));
    for (std::size_t i = 0; i < block.size(); ++i) {
      const std::size_t row = block.first + i;
      const double residual = (block.value(row) - points().y[row]) * points().root(row);
      residuals(static_cast<Eigen::Index>(i)) = std::isfinite(residual) ? residual : kFarOff;
    }
    return residuals;
  }

  // The triangle of the derivatives and the residuals, those last; asked for twice in a row it is found once.
  const Eigen::MatrixXd& triangle(const Eigen::VectorXd& parameters) const {
    if (same(parameters, triangle_at_)) return triangle_;
    RowTriangle<double> triangle(width_);
    model_.for_each_block(parameters, [&](const Model::Block& block) {
      Eigen::MatrixXd rows(static_cast<Eigen::Index>(block.size()), width_);
      for (Eigen::Index j = 0; j + 1 < width_; ++j) {
        for (Eigen::Index i = 0; i < rows.rows(); ++i) {
          const std::size_t row = block.first + static_cast<std::size_t>(i);
          const double derivative = block.derivative(static_cast<std::size_t>(j), row) * points().root(row);
          rows(i, j) = std::isfinite(derivative) ? derivative : 0;
        }
      }
      rows.col(width_ - 1) = rows_of(block);
      triangle.add(rows);
    });
    triangle_ = triangle.upper();
    triangle_at_ = parameters;
    return triangle_;
  }

  mutable Model model_;
  Eigen::Index width_;
  mutable Eigen::VectorXd triangle_at_;
  mutable Eigen::MatrixXd triangle_;
};

// One search; gives whether it came to an end, and leaves the parameters there.
bool search(const Residuals& residuals, double first_step, Eigen::VectorXd& parameters) {
  if (!residuals.enough_points()) return false;
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

// What is left of y, and the derivatives of the model, at parameters.
struct Tangent {
  Model* model = nullptr;
  Eigen::VectorXd parameters;
  std::vector<double> residuals;
  bool finite = true;

  void derivatives(std::size_t row, std::span<long double> values) const {
    const Model::Block& block = model->block(parameters, row);
    const long double root = model->points().root(row);
    for (std::size_t by = 0; by < values.size(); ++by) values[by] = block.derivative(by, row) * root;
  }
  Design design() const {
    return {static_cast<std::size_t>(parameters.size()),
            [this](std::size_t row, std::span<long double> values) { derivatives(row, values); }};
  }
};

Tangent tangent_at(const Residuals& residuals, const Eigen::VectorXd& parameters) {
  const Points& points = residuals.points();
  Tangent tangent{&residuals.model(), parameters, {}};
  tangent.residuals.reserve(points.size());
  std::vector<long double> derivatives(static_cast<std::size_t>(parameters.size()));
  residuals.model().for_each_block(parameters, [&](const Model::Block& block) {
    for (std::size_t row = block.first; row < block.first + block.size(); ++row) {
      tangent.residuals.push_back((points.y[row] - block.value(row)) * points.root(row));
      tangent.finite = tangent.finite && std::isfinite(tangent.residuals.back());
      tangent.derivatives(row, derivatives);
      for (const long double derivative : derivatives)
        tangent.finite = tangent.finite && std::isfinite(derivative);
    }
  });
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
    const LinearFit fit = linear_fit(tangent.design(), tangent.residuals, {}, kSame, Residues::not_asked);
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
  for (std::size_t i = 0; i < residuals.points().size(); ++i) {
    const double y = residuals.points().y[i] * residuals.points().root(i);
    size += y * y;
  }
  constexpr double kExact = 1e-20;
  if (least <= kExact * size) return {};
  const std::vector<double> some_x = thinned(residuals.points().x);
  const std::vector<double> some_y = thinned(residuals.points().y);
  const Points some{some_x, some_y, thinned(residuals.points().roots)};
  const Residuals of_some(function, some, static_cast<std::size_t>(start.size()));
  Eigen::VectorXd best;
  for (const Eigen::VectorXd& other : other_starts_of(start)) {
    Eigen::VectorXd parameters = other;
    if (!search(of_some, 1, parameters)) continue;
    if (some.size() < residuals.points().size() && !search(residuals, 1, parameters)) continue;
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
  const Residuals residuals(function, points, start.size());
  const Eigen::VectorXd first =
      Eigen::Map<const Eigen::VectorXd>(start.data(), static_cast<Eigen::Index>(start.size()));
  result.has_values = true;
  residuals.model().for_each_block(first, [&](const Model::Block& block) {
    const std::vector<double>& values = block.tangents.values;
    result.has_values = result.has_values &&
                        std::all_of(values.begin(), values.end(), [](double v) { return std::isfinite(v); });
  });
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
  std::vector<bool> moves(start.size(), false);
  std::vector<bool> finite(start.size(), true);
  std::vector<long double> derivatives(start.size());
  for (std::size_t row = 0; row < x.size(); ++row) {
    tangent.derivatives(row, derivatives);
    for (std::size_t by = 0; by < start.size(); ++by) {
      moves[by] = moves[by] || derivatives[by] != 0;
      finite[by] = finite[by] && std::isfinite(derivatives[by]);
    }
  }
  for (std::size_t by = 0; by < start.size(); ++by) {
    if (!moves[by] || !finite[by]) result.unmoved.push_back(by);
  }
  if (!result.unmoved.empty()) return result;
  LinearFit fit = linear_fit(tangent.design(), tangent.residuals, {}, kUndetermined, Residues::not_asked);
  result.undetermined = std::move(fit.dependent);
  result.unscaled_covariance = std::move(fit.unscaled_covariance);
  return result;
}

}  // namespace opensum
