// The form in which models are fitted.
#include "fit/curve_form.h"

#include <cmath>
#include <limits>

namespace opensum {
namespace {

// The models that have a name and are no combinations, with their derivatives.
Tangents named_tangents(CurveKind kind, const std::vector<double>& p, const std::vector<double>& x) {
  Tangents tangents;
  tangents.values.reserve(x.size());
  tangents.derivatives.resize(2);
  for (std::vector<double>& derivatives : tangents.derivatives) derivatives.reserve(x.size());
  for (const double value : x) {
    const bool power = kind == CurveKind::power;
    const double shape = power ? std::pow(value, p[1]) : std::exp(p[1] * value);
    const bool good = !power || value > 0;
    tangents.values.push_back(good ? p[0] * shape : kNoValue);
    tangents.derivatives[0].push_back(good ? shape : kNoValue);
    tangents.derivatives[1].push_back(good ? p[0] * shape * (power ? std::log(value) : value) : kNoValue);
  }
  return tangents;
}

}  // namespace

bool is_linear(CurveKind kind) {
  return kind != CurveKind::power && kind != CurveKind::exponential && kind != CurveKind::equation;
}

void basis_at(const CurveModel& model, const Curve& curve, double x, std::span<long double> values) {
  if (model.kind == CurveKind::proportional) {
    values[0] = x;
    return;
  }
  values[0] = 1;
  if (model.kind == CurveKind::logarithm) {
    values[1] = std::log(static_cast<long double>(x));
    return;
  }
  const long double place = (static_cast<long double>(x) - curve.centre) / curve.width;
  for (std::size_t power = 1; power < values.size(); ++power) values[power] = values[power - 1] * place;
}

std::vector<std::vector<long double>> powers_of_x(const CurveModel& model, const Curve& curve) {
  const std::size_t count = model.names.size();
  std::vector<std::vector<long double>> combinations(count, std::vector<long double>(count, 0));
  const bool powers = model.kind == CurveKind::line || model.kind == CurveKind::polynomial;
  for (std::size_t k = 0; k < count; ++k) {
    if (!powers) {
      combinations[k][k] = 1;
      continue;
    }
    // ((x - centre) / width)^k
    long double binomial = 1;
    for (std::size_t j = k + 1; j-- > 0;) {
      const long double rest =
          std::pow(-static_cast<long double>(curve.centre), static_cast<long double>(k - j));
      combinations[j][k] =
          binomial * rest / std::pow(static_cast<long double>(curve.width), static_cast<long double>(k));
      binomial = binomial * static_cast<long double>(j) / static_cast<long double>(k - j + 1);
    }
  }
  return combinations;
}

CurveFunction function_of(const CurveModel& model) {
  if (model.kind == CurveKind::equation) return model.function;
  const CurveKind kind = model.kind;
  return [kind](const std::vector<double>& parameters, const std::vector<double>& x) {
    return named_tangents(kind, parameters, x);
  };
}

std::vector<long double> moves_at(const CurveModel& model, const Curve& curve, double x) {
  std::vector<long double> moves;
  if (is_linear(model.kind)) {
    moves.resize(model.names.size());
    basis_at(model, curve, x, moves);
  } else {
    for (const std::vector<double>& derivative : function_of(model)(curve.parameters, {x}).derivatives)
      moves.push_back(derivative.front());
  }
  return moves;
}

}  // namespace opensum
