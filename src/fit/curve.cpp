// Curves fitted to points.
#include "fit/curve.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <limits>
#include <span>

#include "compute/statistics.h"
#include "fit/curve_form.h"
#include "fit/least_squares.h"
#include "fit/search.h"
#include "message/nearest.h"
#include "message/other_words.h"

namespace opensum {
namespace {

// Fits a linear model; gives the weighted sum of squares that is left.
double fit_linear(const CurveModel& model, const CurveData& data, Curve& curve) {
  if (model.kind == CurveKind::line || model.kind == CurveKind::polynomial) {
    curve.centre = curve.x_least / 2 + curve.x_greatest / 2;
    curve.width = curve.x_greatest / 2 - curve.x_least / 2;
    if (curve.width == 0) {
      // At a single x any of them can stand for all.
      curve.state = CurveState::undetermined;
      for (std::size_t k = 0; k < model.names.size(); ++k) curve.at_fault.push_back(k);
      return 0;
    }
  }
  const Design design{model.names.size(), [&](std::size_t row, std::span<long double> values) {
                        basis_at(model, curve, data.x[row], values);
                      }};
  LinearFit fit = linear_fit(design, data.y, data.weights, 1e-15L);
  if (fit.singular()) {
    curve.state = CurveState::undetermined;
    curve.at_fault = std::move(fit.dependent);
    return 0;
  }
  curve.state = CurveState::fitted;
  curve.coefficients = std::move(fit.coefficients);
  curve.coefficient_covariance = std::move(fit.unscaled_covariance);
  const auto combinations = powers_of_x(model, curve);
  const std::size_t count = combinations.size();
  curve.covariance.assign(count, std::vector<double>(count, 0));
  for (std::size_t i = 0; i < count; ++i) {
    long double parameter = 0;
    for (std::size_t k = 0; k < count; ++k) parameter += combinations[i][k] * curve.coefficients[k];
    curve.parameters.push_back(static_cast<double>(parameter));
    for (std::size_t j = 0; j < count; ++j) {
      long double sum = 0;
      for (std::size_t k = 0; k < count; ++k) {
        for (std::size_t l = 0; l < count; ++l)
          sum += combinations[i][k] * curve.coefficient_covariance[k][l] * combinations[j][l];
      }
      curve.covariance[i][j] = static_cast<double>(sum);
    }
  }
  return fit.sum_of_squares;
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
  const Design design{2, [&](std::size_t row, std::span<long double> values) {
                        values[0] = 1;
                        values[1] = x[row];
                      }};
  const LinearFit line = linear_fit(design, y, weights);
  if (line.singular()) return {sign, 0};
  return {sign * std::exp(line.coefficients[0]), line.coefficients[1]};
}

// How much of the scatter of y the curve explains.
void describe(const CurveModel& model, const CurveData& data, double rss, Curve& curve) {
  const auto weight = [&](std::size_t i) { return data.weights.empty() ? 1.0 : data.weights[i]; };
  const auto sum = [&](const auto& value) {
    CompensatedSum all;
    for (std::size_t i = 0; i < data.y.size(); ++i) all.add(value(i));
    return all.value();
  };
  const double mean = sum([&](std::size_t i) { return weight(i) * data.y[i]; }) / sum(weight);
  const double total =
      sum([&](std::size_t i) { return weight(i) * (data.y[i] - mean) * (data.y[i] - mean); });
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

std::string models_in_words(const std::string& word) {
  std::string meant = word_here(WordFor::model, word);
  if (meant.empty())
    meant = nearest_name(word, {"line", "proportional", "polynomial 2", "power", "exponential", "logarithm"});
  const std::string all =
      "the models are line, proportional, polynomial 2 (or any up to 20), power, exponential, logarithm, or "
      "an "
      "equation in x such as a * exp(-x / tau)";
  return meant.empty() ? all : "did you mean " + meant + "? T" + all.substr(1);
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
  double rss = 0;
  if (is_linear(model.kind)) {
    rss = fit_linear(model, data, curve);
  } else {
    const bool own = model.kind == CurveKind::equation;
    if (model.guess) curve.guessed_start = model.guess(data);
    const std::vector<double> start = model.guess ? curve.guessed_start
                                      : own       ? model.start
                                                  : start_of(model, data);
    SearchResult found =
        search_parameters(function_of(model), start, data.x, data.y, data.weights, own && !model.guess);
    curve.state = !found.has_values             ? CurveState::no_value
                  : !found.converged            ? CurveState::not_converged
                  : !found.unmoved.empty()      ? CurveState::unmoved
                  : !found.undetermined.empty() ? CurveState::undetermined
                                                : CurveState::fitted;
    curve.at_fault = found.unmoved.empty() ? std::move(found.undetermined) : std::move(found.unmoved);
    curve.better_elsewhere = found.better_elsewhere;
    curve.parameters = std::move(found.parameters);
    curve.covariance = std::move(found.unscaled_covariance);
    rss = found.sum_of_squares;
  }
  if (curve.state != CurveState::fitted) return curve;
  const double variance = rss / static_cast<double>(curve.degrees_of_freedom);
  curve.residual_sd = std::sqrt(variance);
  CompensatedSum weights;
  for (std::size_t i = 0; i < data.x.size(); ++i) weights.add(data.weights.empty() ? 1 : data.weights[i]);
  curve.scatter = curve.residual_sd / std::sqrt(weights.over(static_cast<double>(data.x.size())));
  curve.chi = data.absolute;
  const double scale = data.absolute ? 1 : variance;
  curve.unscaled_covariance = is_linear(model.kind) ? curve.coefficient_covariance : curve.covariance;
  for (auto* covariance : {&curve.covariance, &curve.coefficient_covariance}) {
    for (std::vector<double>& line : *covariance) {
      for (double& value : line) value *= scale;
    }
  }
  for (std::size_t i = 0; i < count; ++i) curve.standard_errors.push_back(std::sqrt(curve.covariance[i][i]));
  describe(model, data, rss, curve);
  return curve;
}

double curve_at(const CurveModel& model, const Curve& curve, double x) {
  if (model.kind == CurveKind::logarithm && !(x > 0)) return kNoValue;
  if (!is_linear(model.kind)) return function_of(model)(curve.parameters, {x}).values.front();
  if (model.kind == CurveKind::proportional) return curve.coefficients[0] * x;
  const long double place = model.kind == CurveKind::logarithm
                                ? std::log(static_cast<long double>(x))
                                : (static_cast<long double>(x) - curve.centre) / curve.width;
  long double value = 0;
  for (std::size_t k = curve.coefficients.size(); k-- > 0;) value = value * place + curve.coefficients[k];
  return static_cast<double>(value);
}

double curve_error_at(const CurveModel& model, const Curve& curve, double x) {
  const std::vector<long double> moves = moves_at(model, curve, x);
  const auto& covariance = is_linear(model.kind) ? curve.coefficient_covariance : curve.covariance;
  long double variance = 0;
  for (std::size_t i = 0; i < moves.size(); ++i) {
    for (std::size_t j = 0; j < moves.size(); ++j) variance += moves[i] * covariance[i][j] * moves[j];
  }
  return std::sqrt(std::max(0.0, static_cast<double>(variance)));
}

}  // namespace opensum
