// The equation of a fitted curve.
#include "plot/curve_text.h"

#include <fmt/format.h>

#include <cmath>

#include "table/number_text.h"
#include "table/value_with_error.h"

namespace opensum {
namespace {

class CurveText {
 public:
  CurveText(const FitPlan& fit, const Curve& curve, const Unit& x, const Unit& y) : fit_(fit), curve_(curve) {
    const bool dated = fit.x.kind == Kind::date;
    symbol_ = fit.model->x.text();
    // Of a date the time since the first point enters, of a reading the steps from the zero of its scale.
    run_ = dated                     ? "(" + symbol_ + " − first)"
           : fit.x.unit.is_reading() ? "(" + symbol_ + " − 0 " + fit.x.unit.typeset() + ")"
                                     : symbol_;
    x_ = dated ? second() : step_unit(x);
    y_ = y;
  }

  std::string run() const {
    const Unit rise = step_unit(y_);
    switch (fit_.curve.kind) {
      case CurveKind::line:
        return first(y_) + term(1, quotient(rise, x_)) + " · " + run_;
      case CurveKind::proportional:
        return sign(0) + value(0, quotient(rise, x_), true) + " · " + run_;
      case CurveKind::power:
        return fmt::format("{} · {}^{{{}{}}}", first(y_), plain_x(), sign(1), value(1, Unit(), false));
      case CurveKind::exponential:
        return fmt::format("{} · exp({}{} · {})", first(y_), sign(1), value(1, quotient(Unit(), x_), true),
                           run_);
      case CurveKind::logarithm:
        return first(y_) + term(1, rise) + " · ln" + (plain_x().front() == '(' ? "" : " ") + plain_x();
      case CurveKind::polynomial: {
        std::string sum = first(y_);
        Unit unit = rise;
        for (std::size_t i = 1; i < curve_.parameters.size(); ++i) {
          unit = quotient(unit, x_);
          sum += term(i, unit) + " · " + run_ + (i == 1 ? "" : fmt::format("^{{{}}}", i));
        }
        return sum;
      }
      case CurveKind::equation:
        break;
    }
    std::string text = fit_.model->model.text();
    for (std::size_t i = 0; i < fit_.curve.names.size(); ++i)
      text += fmt::format(", {} = {}{}", fit_.curve.names[i], sign(i), value(i, fit_.types[i].unit, false));
    return text;
  }

 private:
  std::string sign(std::size_t i) const { return curve_.parameters[i] < 0 ? "−" : ""; }

  // The size of a parameter in a unit, with its standard error.
  std::string value(std::size_t i, const Unit& unit, bool bracket) const {
    const Conversion to = conversion(fit_.types[i].unit, unit);
    const double error =
        i < curve_.standard_errors.size() ? curve_.standard_errors[i] * to.multiply / to.divide : 0;
    std::string number = value_with_error(std::abs(to(curve_.parameters[i])), error);
    if (unit.is_one()) return number;
    const std::string text = number + " " + unit.typeset();
    return bracket ? "(" + text + ")" : text;
  }

  std::string first(const Unit& unit) const { return sign(0) + value(0, unit, false); }
  std::string term(std::size_t i, const Unit& unit) const {
    return fmt::format(" {} {}", curve_.parameters[i] < 0 ? "−" : "+", value(i, unit, true));
  }

  // Where x stands as a plain number, it is one in the unit of the fit.
  std::string plain_x() const {
    if (fit_.x.kind == Kind::date) return "(" + symbol_ + " − first) / (1 s)";
    if (fit_.x.unit.is_one()) return symbol_;
    return fmt::format("({} / (1 {}))", symbol_, fit_.x.unit.typeset());
  }

  const FitPlan& fit_;
  const Curve& curve_;
  std::string symbol_;
  std::string run_;
  Unit x_;
  Unit y_;
};

}  // namespace

std::string curve_text(const FitPlan& fit, const Curve& curve, const Unit& x, const Unit& y) {
  return CurveText(fit, curve, x, y).run();
}

}  // namespace opensum
