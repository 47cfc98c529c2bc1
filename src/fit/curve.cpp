// Curves fitted to points.
#include "fit/curve.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <limits>

#include "compute/statistics.h"
#include "fit/least_squares.h"
#include "fit/search.h"

namespace opensum {
namespace {

constexpr double kNoValue = std::numeric_limits<double>::quiet_NaN();

// Whether the model is a combination of functions of x alone.
bool is_linear(CurveKind kind) {
  return kind != CurveKind::power && kind != CurveKind::exponential && kind != CurveKind::equation;
}

// The functions of x that a linear model combines, at all x.
std::vector<std::vector<long double>> basis_of(const CurveModel& model, const std::vector<double>& x) {
  std::vector<std::vector<long double>> basis;
  if (model.kind != CurveKind::proportional) basis.emplace_back(x.size(), 1.0L);
  if (model.kind == CurveKind::logarithm) {
    basis.emplace_back();
    for (const double value : x) basis.back().push_back(std::log(static_cast<long double>(value)));
    return basis;
  }
  for (std::size_t power = 1; power <= model.degree; ++power) {
    std::vector<long double> column(x.begin(), x.end());
    for (std::size_t i = 0; i < x.size() && power > 1; ++i) column[i] *= basis.back()[i];
    basis.push_back(std::move(column));
  }
  return basis;
}

std::vector<double> values_of(const CurveModel& model, const std::vector<double>& parameters,
                              const std::vector<double>& x) {
  if (model.kind == CurveKind::equation) return model.function(parameters, x);
  std::vector<double> y;
  y.reserve(x.size());
  for (const double value : x) y.push_back(curve_at(model, parameters, value));
  return y;
}

// Starting values of a curve that is a line once its y, and for a power its x, are logarithms. Points without
// logarithms are left out, and far smaller ones weigh less, as they do in the fit itself.
std::vector<double> start_of(const CurveModel& model, const CurveData& data) {
  std::vector<double> x;
  std::vector<double> y;
  std::vector<double> weights;
  const bool power = model.kind == CurveKind::power;
  double sign = 0;
  for (const double value : data.y) sign += value;
  sign = sign < 0 ? -1 : 1;
  for (std::size_t i = 0; i < data.x.size(); ++i) {
    if (data.y[i] * sign <= 0 || (power && data.x[i] <= 0)) continue;
    x.push_back(power ? std::log(data.x[i]) : data.x[i]);
    y.push_back(std::log(data.y[i] * sign));
    weights.push_back(data.y[i] * data.y[i]);
  }
  if (x.size() < 2) return {sign, 0};
  const LinearFit line = linear_fit(
      {std::vector<long double>(x.size(), 1), std::vector<long double>(x.begin(), x.end())}, y, weights);
  if (line.singular) return {sign, 0};
  return {sign * std::exp(line.coefficients[0]), line.coefficients[1]};
}

// How much of the scatter of y the curve explains.
void describe(const CurveModel& model, const CurveData& data, double rss, Curve& curve) {
  std::vector<double> weighted;
  std::vector<double> weights = data.weights;
  if (weights.empty()) weights.assign(data.y.size(), 1);
  for (std::size_t i = 0; i < data.y.size(); ++i) weighted.push_back(weights[i] * data.y[i]);
  const double mean = sum_of(weighted) / sum_of(weights);
  std::vector<double> squares;
  for (std::size_t i = 0; i < data.y.size(); ++i) {
    squares.push_back(weights[i] * (data.y[i] - mean) * (data.y[i] - mean));
  }
  const double total = sum_of(squares);
  if (model.kind == CurveKind::proportional || total == 0) return;
  curve.r2 = 1 - rss / total;
  if (model.kind == CurveKind::line) {
    curve.r = std::copysign(std::sqrt(std::max(0.0, *curve.r2)), curve.parameters[1]);
  }
}

}  // namespace

std::optional<CurveModel> named_model(const std::string& words) {
  CurveModel model;
  const auto named = [&](CurveKind kind, std::vector<std::string> names) {
    model.kind = kind;
    model.names = std::move(names);
    return model;
  };
  if (words == "line") return named(CurveKind::line, {"intercept", "slope"});
  if (words == "proportional") return named(CurveKind::proportional, {"slope"});
  if (words == "power") return named(CurveKind::power, {"a", "b"});
  if (words == "exponential") return named(CurveKind::exponential, {"a", "b"});
  if (words == "logarithm") return named(CurveKind::logarithm, {"a", "b"});
  const std::string polynomial = "polynomial ";
  constexpr std::size_t kGreatestDegree = 20;
  if (!words.starts_with(polynomial)) return std::nullopt;
  const auto [end, error] =
      std::from_chars(words.data() + polynomial.size(), words.data() + words.size(), model.degree);
  if (error != std::errc() || end != words.data() + words.size() || model.degree < 1 ||
      model.degree > kGreatestDegree) {
    return std::nullopt;
  }
  std::vector<std::string> names;
  for (std::size_t i = 0; i <= model.degree; ++i) names.push_back("c" + std::to_string(i));
  return named(CurveKind::polynomial, std::move(names));
}

Curve fit_curve(const CurveModel& model, const CurveData& data) {
  Curve curve;
  curve.points = data.x.size();
  const std::size_t count = model.names.size();
  if (curve.points <= count) return curve;
  curve.degrees_of_freedom = curve.points - count;
  curve.x_least = *std::min_element(data.x.begin(), data.x.end());
  curve.x_greatest = *std::max_element(data.x.begin(), data.x.end());
  const bool positive = model.kind == CurveKind::logarithm || model.kind == CurveKind::power;
  if (positive && curve.x_least <= 0) {
    curve.state = CurveState::no_value;
    return curve;
  }
  std::vector<std::vector<double>> covariance;
  double rss = 0;
  if (is_linear(model.kind)) {
    LinearFit fit = linear_fit(basis_of(model, data.x), data.y, data.weights);
    curve.state = fit.singular ? CurveState::undetermined : CurveState::fitted;
    curve.parameters = std::move(fit.coefficients);
    covariance = std::move(fit.unscaled_covariance);
    rss = fit.sum_of_squares;
  } else {
    const CurveFunction function = [&](const std::vector<double>& parameters, const std::vector<double>& x) {
      return values_of(model, parameters, x);
    };
    SearchResult found =
        search_parameters(function, model.kind == CurveKind::equation ? model.start : start_of(model, data),
                          data.x, data.y, data.weights);
    curve.state = !found.has_values  ? CurveState::no_value
                  : !found.converged ? CurveState::not_converged
                  : found.singular   ? CurveState::undetermined
                                     : CurveState::fitted;
    curve.parameters = std::move(found.parameters);
    covariance = std::move(found.unscaled_covariance);
    rss = found.sum_of_squares;
  }
  if (curve.state != CurveState::fitted) return curve;
  const double variance = rss / static_cast<double>(curve.degrees_of_freedom);
  curve.residual_sd = std::sqrt(variance);
  const double scale = data.absolute ? 1 : variance;
  for (std::size_t i = 0; i < count; ++i) {
    for (double& value : covariance[i]) value *= scale;
    curve.standard_errors.push_back(std::sqrt(covariance[i][i]));
  }
  curve.covariance = std::move(covariance);
  describe(model, data, rss, curve);
  return curve;
}

double curve_at(const CurveModel& model, const std::vector<double>& p, double x) {
  switch (model.kind) {
    case CurveKind::line:
      return p[0] + p[1] * x;
    case CurveKind::proportional:
      return p[0] * x;
    case CurveKind::polynomial: {
      double value = 0;
      for (std::size_t i = p.size(); i-- > 0;) value = value * x + p[i];
      return value;
    }
    case CurveKind::power:
      return x > 0 ? p[0] * std::pow(x, p[1]) : kNoValue;
    case CurveKind::exponential:
      return p[0] * std::exp(p[1] * x);
    case CurveKind::logarithm:
      return x > 0 ? p[0] + p[1] * std::log(x) : kNoValue;
    case CurveKind::equation:
      return model.function(p, {x}).front();
  }
  return kNoValue;
}

double curve_error_at(const CurveModel& model, const Curve& curve, double x) {
  const std::vector<double> gradient =
      gradient_at([&](const std::vector<double>& parameters) { return curve_at(model, parameters, x); },
                  curve.parameters, curve.standard_errors);
  double variance = 0;
  for (std::size_t i = 0; i < gradient.size(); ++i) {
    for (std::size_t j = 0; j < gradient.size(); ++j) {
      variance += gradient[i] * curve.covariance[i][j] * gradient[j];
    }
  }
  return std::sqrt(std::max(0.0, variance));
}

}  // namespace opensum
