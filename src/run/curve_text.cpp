// The equation of a fitted curve.
#include "run/curve_text.h"

#include <fmt/format.h>

#include <cmath>

#include "table/number_text.h"

namespace opensum {
namespace {

// A number with its unit, as in the equation of a curve.
std::string with_unit(double value, const Unit& unit, bool bracket) {
  constexpr int kDigits = 4;
  std::string number = number_text(value, kDigits);
  if (unit.is_one()) return number;
  const std::string text = number + " " + unit.typeset();
  return bracket ? "(" + text + ")" : text;
}

}  // namespace

std::string curve_text(const FitPlan& fit, const Curve& curve) {
  const auto value = [&](std::size_t i, bool bracket) {
    return with_unit(std::abs(curve.parameters[i]), fit.types[i].unit, bracket);
  };
  const auto sign = [&](std::size_t i) { return curve.parameters[i] < 0 ? "−" : ""; };
  const auto term = [&](std::size_t i) {
    return fmt::format("{} {}", curve.parameters[i] < 0 ? "−" : "+", value(i, true));
  };
  const std::string first = "y = " + std::string(sign(0));
  // A reading counts from the zero of its scale, so that the equation holds whatever scale an axis has.
  const std::string from_zero = fit.x.unit.is_reading() ? "(x − 0 " + fit.x.unit.typeset() + ")" : "x";
  // Where x stands as a plain number, it is one in the unit of the fit.
  const std::string plain_x =
      fit.x.kind != Kind::number || fit.x.unit.is_one() ? "x" : "(x / " + fit.x.unit.typeset() + ")";
  switch (fit.curve.kind) {
    case CurveKind::line:
      return first + value(0, false) + " " + term(1) + " " + from_zero;
    case CurveKind::proportional:
      return first + value(0, true) + " " + from_zero;
    case CurveKind::power:
      return fmt::format("{}{} {}^{{{}{}}}", first, value(0, false), plain_x, sign(1), value(1, false));
    case CurveKind::exponential:
      return fmt::format("{}{} exp({}{} {})", first, value(0, false), sign(1), value(1, true), from_zero);
    case CurveKind::logarithm:
      return first + value(0, false) + " " + term(1) + " ln " + plain_x;
    case CurveKind::polynomial: {
      std::string sum = first + value(0, false);
      for (std::size_t i = 1; i < curve.parameters.size(); ++i)
        sum += fmt::format(" {} {}{}", term(i), from_zero, i == 1 ? "" : fmt::format("^{{{}}}", i));
      return sum;
    }
    case CurveKind::equation:
      break;
  }
  std::string text = fit.model->model.text();
  for (std::size_t i = 0; i < fit.curve.names.size(); ++i) {
    text += fmt::format("{} {} = {}{}", i == 0 ? ":" : ",", fit.curve.names[i], sign(i), value(i, false));
  }
  return text;
}

}  // namespace opensum
