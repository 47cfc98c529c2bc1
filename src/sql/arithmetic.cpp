// Arithmetic and functions of one number as SQL.
#include <algorithm>
#include <cmath>
#include <limits>

#include "sql/translator.h"
#include "table/decimal.h"

namespace opensum {

namespace {

constexpr const char* kMostText = "1.7976931348623157e308";
// Beyond this e^x overflows or is nothing.
constexpr double kMostExponential = 709.782712893384;
constexpr double kLeastExponential = -745.13321910194122;

}  // namespace

SqlValue Translator::multiply(const SqlValue& a, const SqlValue& b) const {
  SqlValue out = from({a, b}, Kind::number);
  const std::string x = a.constant && !b.constant ? a.value : number(a);
  const std::string y = b.constant && !a.constant ? b.value : number(b);
  out.bounds = product_of(a.bounds, b.bounds);
  std::string over;
  std::string nothing;
  if (a.bounds.size() * b.bounds.size() > 1e300)
    over = fmt::format("abs({}) > 1 AND abs({}) > {} / abs({})", x, y, kMostText, x);
  // A product that rounds to zero is at most 2^-1075; the first factor is taken 2^540 times to tell.
  if (a.bounds.tiny * b.bounds.tiny < 1e-300)
    nothing = fmt::format(
        "abs({0}) < 1 AND abs({1}) < 1 AND (abs({0}) < {2} AND abs({1}) < {2} OR abs({0}) * {3} * abs({1}) "
        "<= {4})",
        x, y, sql_number(std::ldexp(1.0, -538)), sql_number(std::ldexp(1.0, 540)),
        sql_number(std::ldexp(1.0, -535)));
  out.value = guarded(over, nothing, x + " * " + y);
  null_where(out, over, Reason::overflow);
  return out;
}

SqlValue Translator::divide(const SqlValue& a, const SqlValue& b) const {
  SqlValue out = from({a, b}, Kind::number);
  const std::string x = a.constant && !b.constant ? a.value : number(a);
  const std::string y = b.constant && !a.constant ? b.value : number(b);
  out.bounds = quotient_of(a.bounds, b.bounds);
  const bool zero = b.bounds.holds_zero();
  std::string over;
  std::string nothing;
  if (!(a.bounds.size() / b.bounds.tiny < 1e300))
    over = fmt::format("abs({}) < 1 AND abs({}) > {} * abs({})", y, x, kMostText, y);
  if (!(a.bounds.tiny / std::max(b.bounds.size(), 1e-300) > 1e-300))
    nothing = fmt::format("abs({0}) < 1 AND abs({1}) > 1 AND abs({0}) * {2} <= abs({1}) * {3}", x, y,
                          sql_number(std::ldexp(1.0, 540)), sql_number(std::ldexp(1.0, -535)));
  // Servers of parts are not given what is said by nullif.
  if (zero && over.empty() && nothing.empty()) {
    out.value = fmt::format("CASE WHEN {} <> 0 THEN {} / {} END", y, x, y);
  } else {
    out.value = guarded(joined_by({zero ? y + " = 0" : "", over}, " OR "), nothing, x + " / " + y);
  }
  if (zero) null_where(out, y + " = 0", Reason::divide_by_zero);
  null_where(out, over, Reason::overflow);
  return out;
}

SqlValue Translator::add(const SqlValue& a, const SqlValue& b, int sign) const {
  SqlValue out = from({a, b}, Kind::number);
  const std::string x = a.constant && !b.constant ? a.value : number(a);
  const std::string y = b.constant && !a.constant ? b.value : number(b);
  out.bounds = sign > 0 ? sum_of(a.bounds, b.bounds) : difference_of(a.bounds, b.bounds);
  std::string over;
  if (!(a.bounds.size() / 2 + b.bounds.size() / 2 < 0.8e308)) {
    const std::string second = sign > 0 ? y : "(- " + y + ")";
    over =
        fmt::format("({0} > 0 AND {1} > 0 AND {0} > {2} - {1} OR {0} < 0 AND {1} < 0 AND {0} < - {2} - {1})",
                    x, second, kMostText);
  }
  out.value = guarded(over, "", x + (sign > 0 ? " + " : " - ") + y);
  null_where(out, over, Reason::overflow);
  return out;
}

SqlValue Translator::raise(const SqlValue& a, const SqlValue& b) const {
  const bool known = b.constant;
  if (known && b.bounds.least == 2) return multiply(a, a);
  if (known && b.bounds.least == 0.5) return root(a);
  if (a.bounds.size() > 1e300 || b.bounds.size() > 1e6)
    throw NotInSql{"a power of numbers so large overflows in ways that are not told apart there"};
  SqlValue out = from({a, b}, Kind::number);
  const std::string x = number(a);
  const std::string y = number(b);
  const bool whole = b.bounds.whole;
  const std::string zero =
      a.bounds.holds_zero() && b.bounds.least < 0 ? fmt::format("{} = 0 AND {} < 0", x, y) : "";
  const std::string outside =
      a.bounds.least < 0 && !whole ? fmt::format("{} < 0 AND {} <> floor({})", x, y, y) : "";
  const double most_log =
      std::max(std::fabs(std::log(std::max(a.bounds.size(), 1e-308))), std::fabs(std::log(a.bounds.tiny)));
  std::string over;
  std::string nothing;
  if (most_log * b.bounds.size() > 690) {
    over = fmt::format("{1} * ln(abs(nullif({0}, 0))) > {2}", x, y, kMostExponential);
    nothing = fmt::format("{1} * ln(abs(nullif({0}, 0))) < {2}", x, y, kLeastExponential);
    out.bounds = Bounds::any();
  } else {
    const double most = std::exp(most_log * b.bounds.size()) * 1.0001;
    out.bounds = {a.bounds.least < 0 ? -most : 0, most, 1 / most, false};
  }
  out.value = guarded(joined_by({zero, outside, over}, " OR "), nothing, fmt::format("power({}, {})", x, y));
  null_where(out, zero, Reason::divide_by_zero);
  null_where(out, outside, Reason::domain);
  null_where(out, over, Reason::overflow);
  return out;
}

SqlValue Translator::root(const SqlValue& a) const {
  SqlValue out = from({a}, Kind::number);
  const std::string x = number(a);
  const std::string outside = a.bounds.least < 0 ? x + " < 0" : "";
  out.value = guarded(outside, "", fmt::format("sqrt({})", x));
  null_where(out, outside, Reason::domain);
  out.bounds = {0, std::sqrt(a.bounds.size()) * 1.0001, std::sqrt(a.bounds.tiny) / 1.0001, false};
  return out;
}

SqlValue Translator::logarithm(const SqlValue& a, const char* form) const {
  SqlValue out = from({a}, Kind::number);
  const std::string x = number(a);
  const std::string outside = a.bounds.least <= 0 ? x + " <= 0" : "";
  out.value = guarded(outside, "", fmt::format(fmt::runtime(form), x));
  null_where(out, outside, Reason::domain);
  // ln(1 + 2^-52) is the nearest to nothing but nothing.
  out.bounds = {-1100, 1100, 1e-17, false};
  return out;
}

SqlValue Translator::exponential(const SqlValue& a) const {
  SqlValue out = from({a}, Kind::number);
  const std::string x = number(a);
  const bool far = a.bounds.greatest > 690;
  const bool near = a.bounds.least < -690;
  const std::string over = far ? fmt::format("{} > {}", x, kMostExponential) : "";
  const std::string nothing = near ? fmt::format("{} < {}", x, kLeastExponential) : "";
  out.value = guarded(over, nothing, fmt::format("exp({})", x));
  null_where(out, over, Reason::overflow);
  out.bounds = {0, far ? kMostNumber : std::exp(a.bounds.greatest) * 1.0001,
                near ? std::numeric_limits<double>::denorm_min() : std::exp(a.bounds.least) / 1.0001, false};
  return out;
}

SqlValue Translator::hyperbolic(const SqlValue& a, const char* name) const {
  SqlValue out = from({a}, Kind::number);
  const std::string x = number(a);
  const bool far = a.bounds.size() > 690;
  const std::string over = far ? fmt::format("abs({}) > 710.4758600739439", x) : "";
  out.value = guarded(over, "", fmt::format("{}({})", name, x));
  null_where(out, over, Reason::overflow);
  const double most = far ? kMostNumber : std::exp(a.bounds.size());
  out.bounds = {-most, most, std::min(a.bounds.tiny, 1.0) / 2, false};
  return out;
}

SqlValue Translator::simple(const SqlValue& a, const char* name, double least, double greatest,
                            double shrinks) const {
  SqlValue out = from({a}, Kind::number);
  out.value = fmt::format("{}({})", name, number(a));
  out.bounds = {least, greatest, std::min(a.bounds.tiny, 1.0) * shrinks, false};
  return out;
}

SqlValue Translator::arc(const SqlValue& a, const char* name) const {
  SqlValue out = from({a}, Kind::number);
  const std::string x = number(a);
  const bool outside = a.bounds.least < -1 || a.bounds.greatest > 1;
  const std::string condition = outside ? fmt::format("abs({}) > 1", x) : "";
  out.value = guarded(condition, "", fmt::format("{}({})", name, x));
  null_where(out, condition, Reason::domain);
  out.bounds = {-4, 4, std::min(a.bounds.tiny, 1.0) * 1e-17, false};
  return out;
}

SqlValue Translator::near_zero(const SqlValue& a, bool logarithm_of) const {
  SqlValue out = from({a}, Kind::number);
  const std::string x = number(a);
  if (a.bounds.tiny < 1e-290) throw NotInSql{"it goes over numbers that are next to nothing"};
  if (logarithm_of) {
    const std::string outside = a.bounds.least <= -1 ? x + " <= -1" : "";
    out.value = guarded(
        outside, "",
        fmt::format("CASE WHEN abs({0}) < 0.5 THEN 2 * atanh({0} / (2 + {0})) ELSE ln(1 + {0}) END", x));
    null_where(out, outside, Reason::domain);
    out.bounds = {-1100, 1100, std::min(a.bounds.tiny, 1.0) / 4, false};
    return out;
  }
  const std::string over = a.bounds.greatest > 690 ? fmt::format("{} > {}", x, kMostExponential) : "";
  // Far below zero nothing is left of e^x.
  out.value = guarded(
      over, a.bounds.least < -690 ? x + " < -50" : "",
      fmt::format("CASE WHEN abs({0}) < 0.5 THEN 2 * sinh({0} / 2) * exp({0} / 2) ELSE exp({0}) - 1 END", x));
  if (a.bounds.least < -690) {
    const std::size_t nothing = out.value.find("< -50 THEN 0");
    out.value.replace(nothing, 12, "< -50 THEN -1");
  }
  null_where(out, over, Reason::overflow);
  out.bounds = {-1, over.empty() ? std::exp(a.bounds.greatest) : kMostNumber,
                std::min(a.bounds.tiny, 1.0) / 4, false};
  return out;
}

SqlValue Translator::modulo(const SqlValue& a, const SqlValue& b) const {
  if (std::max(a.bounds.size(), b.bounds.size()) >= kDigitsHold)
    throw NotInSql{"it goes over numbers of more than 15 digits"};
  SqlValue out = from({a, b}, Kind::number);
  const std::string x = number(a) + "::numeric";
  const std::string y =
      (b.bounds.holds_zero() ? fmt::format("nullif({}, 0)", number(b)) : number(b)) + "::numeric";
  out.value = fmt::format(
      "(CASE WHEN sign(mod({0}, {1})) * sign({1}) < 0 THEN mod({0}, {1}) + {1} ELSE mod({0}, {1}) "
      "END)::float8",
      x, y);
  if (b.bounds.holds_zero()) null_where(out, number(b) + " = 0", Reason::divide_by_zero);
  out.bounds = {-b.bounds.size(), b.bounds.size(), std::min(a.bounds.tiny, b.bounds.tiny) * 1e-16, false};
  return out;
}

std::string Translator::rounded_to_step(Op op, const std::string& x, const std::string& step) {
  const std::string left =
      fmt::format("(mod({0}, {1}) + CASE WHEN mod({0}, {1}) < 0 THEN {1} ELSE 0 END)", x, step);
  std::string below = fmt::format("({} - {})", x, left);
  if (op == Op::floor_to) return below;
  if (op == Op::ceil_to) return fmt::format("{} + CASE WHEN {} > 0 THEN {} ELSE 0 END", below, left, step);
  if (op == Op::trunc_to) return fmt::format("{} - mod({}, {})", x, x, step);
  return fmt::format(
      "{0} + CASE WHEN 2 * {1} > {2} OR 2 * {1} = {2} AND mod(div({0}, {2}), 2) <> 0 THEN {2} ELSE 0 END",
      below, left, step);
}

SqlValue Translator::rounded(const Instruction& instruction, const SqlValue& a) const {
  const double step = std::get<RoundingStep>(instruction.setting).size;
  const double digits = std::round(-std::log10(step));
  if (a.bounds.size() >= kDigitsHold) throw NotInSql{"it rounds numbers of more than 15 digits"};
  if (std::fabs(digits) > 15 || as_typed(std::pow(10, -digits)) != as_typed(step)) {
    SqlValue out = from({a}, Kind::number);
    out.value = fmt::format("({})::float8", rounded_to_step(instruction.op, number(a) + "::numeric",
                                                            sql_number(step) + "::numeric"));
    out.bounds = {a.bounds.least - step, a.bounds.greatest + step, step / 2, false};
    return out;
  }
  // The server's decimals are those of 15 digits.
  const std::string scale = digits == 0 ? "" : fmt::format(" * 1e{}", static_cast<int>(digits));
  const std::string x = number(a) + "::numeric" + scale;
  const std::string back = digits == 0 ? "" : fmt::format(" * 1e{}", -static_cast<int>(digits));
  std::string whole;
  switch (instruction.op) {
    case Op::floor_to:
      whole = fmt::format("floor({})", x);
      break;
    case Op::ceil_to:
      whole = fmt::format("ceil({})", x);
      break;
    case Op::trunc_to:
      whole = fmt::format("trunc({})", x);
      break;
    default:
      whole =
          fmt::format("CASE WHEN abs({0} - trunc({0})) = 0.5 THEN 2 * round({0} / 2) ELSE round({0}) END", x);
  }
  SqlValue out = from({a}, Kind::number);
  out.value = fmt::format("({}{})::float8", back.empty() ? whole : in_brackets(whole), back);
  out.bounds = {a.bounds.least - step, a.bounds.greatest + step, step / 2, digits <= 0};
  return out;
}

}  // namespace opensum
