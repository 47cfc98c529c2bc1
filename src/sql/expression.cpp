// Programs of the equation language as SQL.
#include "sql/expression.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>

#include "equation/operation.h"
#include "sql/name.h"
#include "table/decimal.h"

namespace opensum {
namespace {

constexpr const char* kMostText = "1.7976931348623157e308";
// Beyond this e^x overflows or is nothing.
constexpr double kMostExponential = 709.782712893384;
constexpr double kLeastExponential = -745.13321910194122;
// Numbers of 15 digits are told apart as they stand there.
constexpr double kDigitsHold = 1e15;

// Conditions joined by a word; empty ones are left out.
std::string joined(std::initializer_list<std::string> conditions, const char* word) {
  std::vector<std::string> some;
  for (const std::string& condition : conditions) {
    if (!condition.empty()) some.push_back(condition);
  }
  return fmt::format("{}", fmt::join(some, word));
}

SqlValue constant(double number) {
  SqlValue value;
  value.value = sql_number(number);
  value.bounds = Bounds::of(number);
  value.constant = true;
  return value;
}

SqlValue text_constant(const std::string& text) {
  SqlValue value;
  value.kind = Kind::text;
  value.value = sql_text(text);
  value.constant = true;
  return value;
}

// The least and the greatest number that are the same decimal as one.
std::pair<double, double> same_decimals(double number) {
  double least = number;
  double greatest = number;
  const auto go = [&](double& end, double towards) {
    for (double next = std::nextafter(end, towards); same_typed(next, number);
         next = std::nextafter(end, towards))
      end = next;
  };
  go(least, -HUGE_VAL);
  go(greatest, HUGE_VAL);
  return {least, greatest};
}

class Translator {
 public:
  Translator(const Program& program, const SqlOperands& operands, std::vector<SqlLeftOut>* left_out)
      : program_(program), operands_(operands), left_out_(left_out) {}

  SqlValue run() {
    for (const Instruction& instruction : program_.instructions) {
      std::vector<SqlValue> in;
      for (const Operand& operand : instruction.in) in.push_back(value_of(operand));
      SqlValue out = apply(instruction, in);
      constexpr std::size_t kLongest = 200'000;
      if (out.value.size() + out.why.size() > kLongest) throw NotInSql{"an equation is too long"};
      registers_[instruction.out] = std::move(out);
    }
    return value_of(program_.result);
  }

 private:
  SqlValue value_of(const Operand& operand) const {
    switch (operand.source) {
      case Operand::Source::result:
        return registers_.at(operand.index);
      case Operand::Source::input:
        return operands_.column(program_.inputs[operand.index]);
      case Operand::Source::number:
        return constant(program_.numbers[operand.index]);
      case Operand::Source::text:
        return text_constant(program_.texts[operand.index]);
      case Operand::Source::stage:
        return operands_.stages.at(operand.index);
    }
    return {};
  }

  std::string null(Reason reason) const { return sql_null(reason, operands_.own); }

  [[noreturn]] static void refuse(Op op) {
    throw NotInSql{fmt::format("`{}` has no counterpart there", name_of(op))};
  }

  // A number in a place where it is one: a single constant is no operand of the server's integer arithmetic.
  static std::string number(const SqlValue& value) {
    return value.constant ? value.value + "::float8" : in_brackets(value.value);
  }

  // Nothing is known of the result but what its operands tell.
  static SqlValue from(const std::vector<SqlValue>& in, Kind kind) {
    SqlValue out;
    out.kind = kind;
    std::string list;
    int count = 0;
    for (const SqlValue& value : in) {
      out.reasons.insert(value.reasons.begin(), value.reasons.end());
      if (value.why.empty()) continue;
      list += (count++ == 0 ? "" : ", ") + value.why;
    }
    out.why = count > 1 ? "coalesce(" + list + ')' : list;
    return out;
  }

  // Makes a value null where a condition holds.
  void null_where(SqlValue& out, const std::string& condition, Reason reason) const {
    if (condition.empty()) return;
    out.why = first_known({out.why, fmt::format("CASE WHEN {} THEN {} END", condition, null(reason))});
    out.reasons.insert(reason);
  }

  // A value that is null where conditions hold, and zero where it would be too near to it.
  static std::string guarded(const std::string& undefined, const std::string& vanishing,
                             const std::string& value) {
    if (undefined.empty() && vanishing.empty()) return value;
    std::string text = "CASE";
    if (!undefined.empty()) text += " WHEN " + undefined + " THEN NULL";
    if (!vanishing.empty()) text += " WHEN " + vanishing + " THEN 0";
    return text + " ELSE " + value + " END";
  }

  SqlValue multiply(const SqlValue& a, const SqlValue& b) const {
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

  SqlValue divide(const SqlValue& a, const SqlValue& b) const {
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
      out.value = guarded(joined({zero ? y + " = 0" : "", over}, " OR "), nothing, x + " / " + y);
    }
    if (zero) null_where(out, y + " = 0", Reason::divide_by_zero);
    null_where(out, over, Reason::overflow);
    return out;
  }

  SqlValue add(const SqlValue& a, const SqlValue& b, int sign) const {
    SqlValue out = from({a, b}, Kind::number);
    const std::string x = a.constant && !b.constant ? a.value : number(a);
    const std::string y = b.constant && !a.constant ? b.value : number(b);
    out.bounds = sign > 0 ? sum_of(a.bounds, b.bounds) : difference_of(a.bounds, b.bounds);
    std::string over;
    if (!(a.bounds.size() / 2 + b.bounds.size() / 2 < 0.8e308)) {
      const std::string second = sign > 0 ? y : "(- " + y + ")";
      over = fmt::format(
          "({0} > 0 AND {1} > 0 AND {0} > {2} - {1} OR {0} < 0 AND {1} < 0 AND {0} < - {2} - {1})", x, second,
          kMostText);
    }
    out.value = guarded(over, "", x + (sign > 0 ? " + " : " - ") + y);
    null_where(out, over, Reason::overflow);
    return out;
  }

  SqlValue raise(const SqlValue& a, const SqlValue& b) const {
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
    out.value = guarded(joined({zero, outside, over}, " OR "), nothing, fmt::format("power({}, {})", x, y));
    null_where(out, zero, Reason::divide_by_zero);
    null_where(out, outside, Reason::domain);
    null_where(out, over, Reason::overflow);
    return out;
  }

  SqlValue root(const SqlValue& a) const {
    SqlValue out = from({a}, Kind::number);
    const std::string x = number(a);
    const std::string outside = a.bounds.least < 0 ? x + " < 0" : "";
    out.value = guarded(outside, "", fmt::format("sqrt({})", x));
    null_where(out, outside, Reason::domain);
    out.bounds = {0, std::sqrt(a.bounds.size()) * 1.0001, std::sqrt(a.bounds.tiny) / 1.0001, false};
    return out;
  }

  SqlValue logarithm(const SqlValue& a, const char* form) const {
    SqlValue out = from({a}, Kind::number);
    const std::string x = number(a);
    const std::string outside = a.bounds.least <= 0 ? x + " <= 0" : "";
    out.value = guarded(outside, "", fmt::format(fmt::runtime(form), x));
    null_where(out, outside, Reason::domain);
    // ln(1 + 2^-52) is the nearest to nothing but nothing.
    out.bounds = {-1100, 1100, 1e-17, false};
    return out;
  }

  SqlValue exponential(const SqlValue& a) const {
    SqlValue out = from({a}, Kind::number);
    const std::string x = number(a);
    const bool far = a.bounds.greatest > 690;
    const bool near = a.bounds.least < -690;
    const std::string over = far ? fmt::format("{} > {}", x, kMostExponential) : "";
    const std::string nothing = near ? fmt::format("{} < {}", x, kLeastExponential) : "";
    out.value = guarded(over, nothing, fmt::format("exp({})", x));
    null_where(out, over, Reason::overflow);
    out.bounds = {0, far ? kMostNumber : std::exp(a.bounds.greatest) * 1.0001,
                  near ? std::numeric_limits<double>::denorm_min() : std::exp(a.bounds.least) / 1.0001,
                  false};
    return out;
  }

  SqlValue hyperbolic(const SqlValue& a, const char* name) const {
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

  // A function that is defined everywhere and bounded.
  SqlValue simple(const SqlValue& a, const char* name, double least, double greatest,
                  double shrinks = 1) const {
    SqlValue out = from({a}, Kind::number);
    out.value = fmt::format("{}({})", name, number(a));
    out.bounds = {least, greatest, std::min(a.bounds.tiny, 1.0) * shrinks, false};
    return out;
  }

  SqlValue arc(const SqlValue& a, const char* name) const {
    SqlValue out = from({a}, Kind::number);
    const std::string x = number(a);
    const bool outside = a.bounds.least < -1 || a.bounds.greatest > 1;
    const std::string condition = outside ? fmt::format("abs({}) > 1", x) : "";
    out.value = guarded(condition, "", fmt::format("{}({})", name, x));
    null_where(out, condition, Reason::domain);
    out.bounds = {-4, 4, std::min(a.bounds.tiny, 1.0) * 1e-17, false};
    return out;
  }

  // Compares numbers as the decimals that they are.
  std::string comparison(const SqlValue& a, const SqlValue& b, const char* sign, bool instants) const {
    const std::string x = a.constant && !b.constant ? a.value : number(a);
    const std::string y = b.constant && !a.constant ? b.value : number(b);
    std::string plain = fmt::format("{} {} {}", x, sign, y);
    if (instants || (a.bounds.whole && b.bounds.whole)) return plain;
    if (a.constant && !b.constant) {
      static const std::map<std::string, const char*> turned = {{"<", ">"},   {"<=", ">="}, {">", "<"},
                                                                {">=", "<="}, {"=", "="},   {"<>", "<>"}};
      return comparison(b, a, turned.at(sign), instants);
    }
    if (b.constant) {
      const auto [least, greatest] = same_decimals(b.bounds.least);
      if (least == greatest) return plain;
      const std::string word = sign;
      if (word == "<" || word == ">=") return fmt::format("{} {} {}", x, sign, sql_number(least));
      if (word == "<=" || word == ">") return fmt::format("{} {} {}", x, sign, sql_number(greatest));
      return fmt::format("{} {}BETWEEN {} AND {}", x, word == "=" ? "" : "NOT ", sql_number(least),
                         sql_number(greatest));
    }
    if (!is_moderate(a.bounds) || !is_moderate(b.bounds) || a.bounds.size() >= kDigitsHold ||
        b.bounds.size() >= kDigitsHold)
      throw NotInSql{"it compares columns with numbers of more than 15 digits"};
    return fmt::format(
        "CASE WHEN abs({0} - {1}) > 1e-14 * (abs({0}) + abs({1})) THEN {2} ELSE {0}::numeric {3} "
        "{1}::numeric END",
        x, y, plain, sign);
  }

  static const char* sign_of(Op op) {
    switch (op) {
      case Op::equal:
      case Op::text_equal:
        return "=";
      case Op::not_equal:
      case Op::text_not_equal:
        return "<>";
      case Op::less:
        return "<";
      case Op::less_equal:
        return "<=";
      case Op::greater:
        return ">";
      case Op::greater_equal:
        return ">=";
      default:
        refuse(op);
    }
  }

  SqlValue compare(const Instruction& instruction, const std::vector<SqlValue>& in) const {
    SqlValue out = from(in, Kind::truth);
    const char* const sign = sign_of(instruction.op);
    if (in[0].kind == Kind::truth || in[1].kind == Kind::truth) {
      out.value = fmt::format("{} {} {}", in_brackets(truth(in[0])), sign, in_brackets(truth(in[1])));
    } else if (in[0].kind == Kind::text || in[1].kind == Kind::text) {
      out.value = fmt::format("{} {} {}", in_brackets(in[0].value), sign, in_brackets(in[1].value));
    } else {
      const bool instants = instruction.on_instants || in[0].kind == Kind::date || in[1].kind == Kind::date;
      out.value = comparison(in[0], in[1], sign, instants);
    }
    return out;
  }

  // Constants of truth are numbers in a program.
  static std::string truth(const SqlValue& value) {
    if (value.kind == Kind::truth) return value.value;
    return value.bounds.least != 0 ? "true" : "false";
  }

  SqlValue logic(const std::vector<SqlValue>& in, const char* word) const {
    SqlValue out = from(in, Kind::truth);
    out.value = fmt::format("{} {} {}", in_brackets(truth(in[0])), word, in_brackets(truth(in[1])));
    if (!out.why.empty()) out.why = fmt::format("CASE WHEN ({}) IS NULL THEN {} END", out.value, out.why);
    return out;
  }

  static Kind kind_of_branches(const SqlValue& a, const SqlValue& b) {
    return a.value == "NULL" ? b.kind : a.kind;
  }

  static std::string branch(const SqlValue& value, Kind kind) {
    if (value.value == "NULL") return value.value;
    return kind == Kind::truth ? truth(value) : value.value;
  }

  static Bounds bounds_of_branches(const SqlValue& a, const SqlValue& b) {
    if (a.value == "NULL") return b.bounds;
    return b.value == "NULL" ? a.bounds : either(a.bounds, b.bounds);
  }

  SqlValue choose(const std::vector<SqlValue>& in) const {
    SqlValue out;
    out.kind = kind_of_branches(in[1], in[2]);
    if (in[1].kind == Kind::truth || in[2].kind == Kind::truth) out.kind = Kind::truth;
    out.bounds = bounds_of_branches(in[1], in[2]);
    const std::string condition = truth(in[0]);
    const std::string otherwise = in[0].may_be_null()
                                      ? fmt::format(" WHEN NOT {} THEN ", in_brackets(condition))
                                      : std::string(" ELSE ");
    const std::string type = out.kind == Kind::number && in[1].constant && in[2].constant ? "::float8" : "";
    out.value = fmt::format("CASE WHEN {} THEN {}{}{}{} END", condition, branch(in[1], out.kind), type,
                            otherwise, branch(in[2], out.kind));
    if (in[1].may_be_null() || in[2].may_be_null()) {
      out.why = fmt::format("CASE WHEN {} THEN {}{}{} END", condition, in[1].why.empty() ? "NULL" : in[1].why,
                            otherwise, in[2].why.empty() ? "NULL" : in[2].why);
    }
    out.why = first_known({in[0].why, out.why});
    for (const SqlValue& value : in) out.reasons.insert(value.reasons.begin(), value.reasons.end());
    return out;
  }

  SqlValue first_of(const std::vector<SqlValue>& in) const {
    SqlValue out = in.front();
    std::string list;
    std::string all_null;
    bool ends = false;
    for (const SqlValue& value : in) {
      if (ends) break;
      if (value.value == "NULL" && in.size() > 1) continue;
      list += (list.empty() ? "" : ", ") + branch(value, out.kind);
      all_null += (all_null.empty() ? "" : " AND ") + in_brackets(value.value) + " IS NULL";
      out.bounds = bounds_of_branches(out, value);
      out.constant = false;
      ends = !value.may_be_null();
    }
    out.value = "coalesce(" + list + ")";
    out.why = ends ? "" : fmt::format("CASE WHEN {} THEN {} END", all_null, in.front().why);
    if (ends) out.reasons.clear();
    return out;
  }

  SqlValue excluded(const std::vector<SqlValue>& in) const {
    SqlValue out = in[0];
    out.constant = false;
    out.reasons.insert(in[1].reasons.begin(), in[1].reasons.end());
    const std::string condition = truth(in[1]);
    out.value = fmt::format("CASE WHEN NOT {} THEN {} END", in_brackets(condition), in[0].value);
    out.why = first_known({in[0].why, in[1].why});
    null_where(out, condition, Reason::excluded);
    return out;
  }

  SqlValue quotient_or(const std::vector<SqlValue>& in) const {
    SqlValue out = divide(in[0], in[1]);
    if (!in[1].bounds.holds_zero()) return out;
    const std::string y = number(in[1]);
    const std::string known =
        in[0].may_be_null() ? fmt::format(" AND {} IS NOT NULL", in_brackets(in[0].value)) : "";
    out.value = fmt::format("CASE WHEN {} = 0{} THEN {} ELSE {} END", y, known, in[2].value, out.value);
    out.why = first_known({in[0].why, in[1].why});
    if (in[2].may_be_null())
      out.why = first_known({out.why, fmt::format("CASE WHEN {} = 0 THEN {} END", y, in[2].why)});
    out.reasons.erase(Reason::divide_by_zero);
    for (const SqlValue& value : in) out.reasons.insert(value.reasons.begin(), value.reasons.end());
    out.bounds = bounds_of_branches(out, in[2]);
    return out;
  }

  SqlValue one_of(const Instruction& instruction, const std::vector<SqlValue>& in) const {
    SqlValue out = from({in.begin() + 1, in.end()}, Kind::truth);
    std::string any;
    for (std::size_t i = 1; i < in.size(); ++i) {
      const std::string same =
          in[0].kind == Kind::text || instruction.on_text
              ? fmt::format("{} = {}", in_brackets(in[0].value), in_brackets(in[i].value))
              : comparison(in[0], in[i], "=", instruction.on_instants || in[0].kind == Kind::date);
      any += (any.empty() ? "" : " OR ") + same;
    }
    out.value = any;
    if (!out.why.empty()) out.why = fmt::format("CASE WHEN ({}) IS NULL THEN {} END", any, out.why);
    out.why = first_known({in[0].why, out.why});
    out.reasons.insert(in[0].reasons.begin(), in[0].reasons.end());
    return out;
  }

  SqlValue along_row(const Instruction& instruction, const std::vector<SqlValue>& in) const {
    const Op op = instruction.op;
    const bool gaps = std::any_of(in.begin(), in.end(), [](const SqlValue& v) { return v.may_be_null(); });
    SqlValue out = from(in, Kind::number);
    std::string known;
    for (const SqlValue& value : in) {
      known += known.empty() ? "" : " + ";
      known += value.may_be_null() ? fmt::format("({} IS NOT NULL)::int", in_brackets(value.value))
                                   : std::string("1");
    }
    if (op == Op::row_count) {
      out.value = "(" + known + ")::float8";
      out.why.clear();
      out.reasons.clear();
      out.bounds = {0, static_cast<double>(in.size()), 1, true};
      return out;
    }
    const bool skip = instruction.nulls.skip && gaps;
    std::vector<std::string> all;
    all.reserve(in.size());
    for (const SqlValue& value : in) all.push_back(number(value));
    const auto total = [&] {
      SqlValue sum = in.front();
      if (skip && sum.may_be_null()) sum.value = "coalesce(" + sum.value + ", 0)";
      for (std::size_t i = 1; i < in.size(); ++i) {
        SqlValue next = in[i];
        if (skip && next.may_be_null()) next.value = "coalesce(" + next.value + ", 0)";
        if (skip) next.bounds = either(next.bounds, Bounds::of(0));
        sum = add(sum, next, 1);
      }
      return sum;
    };
    const std::string least = fmt::format("least({})", fmt::join(all, ", "));
    const std::string greatest = fmt::format("greatest({})", fmt::join(all, ", "));
    Bounds bounds = in.front().bounds;
    for (const SqlValue& value : in) bounds = either(bounds, value.bounds);
    switch (op) {
      case Op::row_sum:
      case Op::row_mean: {
        const SqlValue sum = total();
        if (sum.bounds.size() > 1e300) throw NotInSql{"a sum along the row may overflow"};
        out.bounds = sum.bounds;
        out.value = sum.value;
        if (op == Op::row_mean) {
          out.value = skip ? fmt::format("{} / nullif({}, 0)", in_brackets(sum.value), in_brackets(known))
                           : fmt::format("{} / {}", in_brackets(sum.value), in.size());
          out.bounds.tiny /= static_cast<double>(in.size());
          out.bounds.whole = false;
        }
        break;
      }
      case Op::row_min:
        out.value = least;
        out.bounds = bounds;
        break;
      case Op::row_max:
        out.value = greatest;
        out.bounds = bounds;
        break;
      case Op::row_product: {
        SqlValue product = in.front();
        for (std::size_t i = 0; i < in.size(); ++i) {
          SqlValue next = in[i];
          if (skip && next.may_be_null()) next.value = "coalesce(" + next.value + ", 1)";
          if (skip) next.bounds = either(next.bounds, Bounds::of(1));
          product = i == 0 ? next : multiply(product, next);
        }
        if (product.bounds.size() > 1e300 || product.bounds.tiny < 1e-300)
          throw NotInSql{"a product along the row may overflow"};
        out.value = product.value;
        out.bounds = product.bounds;
        break;
      }
      case Op::row_median:
      case Op::row_sd: {
        std::vector<std::string> values;
        values.reserve(all.size());
        for (const std::string& each : all) values.push_back("(" + each + ")");
        const bool median = op == Op::row_median;
        out.value = fmt::format(
            "(SELECT {} FROM (VALUES {}) AS r(v))",
            median
                ? "percentile_cont(0.5) WITHIN GROUP (ORDER BY v)"
                : "CASE WHEN min(v) = max(v) THEN CASE WHEN count(v) > 1 THEN 0 END ELSE stddev_samp(v) END",
            fmt::join(values, ", "));
        out.bounds = median ? bounds : Bounds{0, 2 * bounds.size(), bounds.tiny * 1e-20, false};
        if (median) out.bounds.tiny = bounds.tiny * 0x1p-53;
        if (bounds.size() > 1e150) throw NotInSql{"a spread along the row may overflow"};
        break;
      }
      case Op::row_range:
        out.value = greatest + " - " + least;
        out.bounds = difference_of(bounds, bounds);
        if (out.bounds.size() > 1e300) throw NotInSql{"a range along the row may overflow"};
        break;
      default:
        refuse(op);
    }
    if (!gaps) return out;
    if (skip) {
      const int needed = std::max(instruction.nulls.at_least, op == Op::row_sd ? 2 : 1);
      const std::string enough = fmt::format("{} < {}", in_brackets(known), needed);
      out.why = fmt::format("CASE WHEN {} THEN {} END", enough, null(Reason::too_few));
      out.reasons = {Reason::too_few};
      out.value = fmt::format("CASE WHEN NOT {} THEN {} END", in_brackets(enough), out.value);
      if (left_out_ != nullptr)
        left_out_->push_back({fmt::format("CASE WHEN NOT {} THEN {} - {} ELSE 0 END", in_brackets(enough),
                                          in.size(), in_brackets(known))});
    } else {
      // The server's least and greatest pass over nulls.
      std::string none;
      for (const SqlValue& value : in) {
        if (value.may_be_null())
          none += (none.empty() ? "" : " AND ") + in_brackets(value.value) + " IS NOT NULL";
      }
      if (op == Op::row_min || op == Op::row_max || op == Op::row_range || op == Op::row_median ||
          op == Op::row_sd)
        out.value = fmt::format("CASE WHEN {} THEN {} END", none, out.value);
    }
    return out;
  }

  // ln(1 + x) and e^x - 1 by functions that lose nothing near zero.
  SqlValue near_zero(const SqlValue& a, bool logarithm_of) const {
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
        fmt::format("CASE WHEN abs({0}) < 0.5 THEN 2 * sinh({0} / 2) * exp({0} / 2) ELSE exp({0}) - 1 END",
                    x));
    if (a.bounds.least < -690) {
      const std::size_t nothing = out.value.find("< -50 THEN 0");
      out.value.replace(nothing, 12, "< -50 THEN -1");
    }
    null_where(out, over, Reason::overflow);
    out.bounds = {-1, over.empty() ? std::exp(a.bounds.greatest) : kMostNumber,
                  std::min(a.bounds.tiny, 1.0) / 4, false};
    return out;
  }

  SqlValue modulo(const SqlValue& a, const SqlValue& b) const {
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

  // Of a step that is no power of ten: by what is left of whole steps, exactly.
  static std::string rounded_to_step(Op op, const std::string& x, const std::string& step) {
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

  SqlValue end_of(const Instruction& instruction, const SqlValue& a) const {
    const std::string period = period_name(std::get<Period>(instruction.setting));
    const std::string clock = fmt::format("to_timestamp({}) AT TIME ZONE 'UTC'", a.value);
    std::string last = fmt::format("date_trunc('{}', {})", period, clock);
    if (period == "hour") {
      last += " + interval '3599 seconds'";
    } else if (period != "day") {
      last += fmt::format(" + interval '{}' - interval '1 day'",
                          period == "quarter" ? "3 months" : "1 " + period);
    }
    SqlValue out = from({a}, Kind::date);
    out.value = fmt::format("extract(epoch FROM {})::float8", last);
    out.bounds = {a.bounds.least, a.bounds.greatest + 4e7, 1e-6, false};
    return out;
  }

  SqlValue within_calendar(const SqlValue& seconds) const {
    constexpr double kFirstYear = -62135596800;
    constexpr double kAfterLastYear = 253402300800;
    if (seconds.bounds.least < kFirstYear) throw NotInSql{"it may come to dates before the year 1"};
    SqlValue out = from({seconds}, Kind::date);
    const std::string after = seconds.bounds.greatest < kAfterLastYear
                                  ? ""
                                  : fmt::format("{} >= {}", number(seconds), sql_number(kAfterLastYear));
    const std::string known = out.why.empty() ? "" : fmt::format("({}) IS NOT NULL", out.why);
    out.value = guarded(joined({known, after}, " OR "), "", number(seconds));
    null_where(out, after, Reason::overflow);
    out.bounds = seconds.bounds;
    out.bounds.greatest = std::min(out.bounds.greatest, kAfterLastYear);
    out.bounds.whole = false;
    return out;
  }

  SqlValue part_of_date(const SqlValue& a, const char* field, double most) const {
    SqlValue out = from({a}, Kind::number);
    out.value = fmt::format("extract({} FROM to_timestamp({}) AT TIME ZONE 'UTC')::float8", field, a.value);
    out.bounds = {0, most, 1e-6, true};
    return out;
  }

  SqlValue of_text(const std::vector<SqlValue>& in, Kind kind, const std::string& value) const {
    SqlValue out = from(in, kind);
    out.value = value;
    return out;
  }

  SqlValue rounded(const Instruction& instruction, const SqlValue& a) const {
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
        whole = fmt::format(
            "CASE WHEN abs({0} - trunc({0})) = 0.5 THEN 2 * round({0} / 2) ELSE round({0}) END", x);
    }
    SqlValue out = from({a}, Kind::number);
    out.value = fmt::format("({}{})::float8", back.empty() ? whole : in_brackets(whole), back);
    out.bounds = {a.bounds.least - step, a.bounds.greatest + step, step / 2, digits <= 0};
    return out;
  }

  SqlValue apply(const Instruction& instruction, const std::vector<SqlValue>& in) const {
    switch (instruction.op) {
      case Op::null_constant: {
        SqlValue out;
        out.value = "NULL";
        out.why = null(Reason::excluded);
        out.reasons = {Reason::excluded};
        return out;
      }
      case Op::convert:
        return converted(in[0], instruction.conversion, operands_.own);
      case Op::negate: {
        SqlValue out = from(in, Kind::number);
        out.value = "- " + number(in[0]);
        out.bounds = difference_of(Bounds::of(0), in[0].bounds);
        out.bounds.tiny = in[0].bounds.tiny;
        return out;
      }
      case Op::add:
        return add(in[0], in[1], 1);
      case Op::subtract:
        return add(in[0], in[1], -1);
      case Op::multiply:
        return multiply(in[0], in[1]);
      case Op::divide:
        return divide(in[0], in[1]);
      case Op::power:
        return raise(in[0], in[1]);
      case Op::equal:
      case Op::not_equal:
      case Op::less:
      case Op::less_equal:
      case Op::greater:
      case Op::greater_equal:
      case Op::text_equal:
      case Op::text_not_equal:
        return compare(instruction, in);
      case Op::logical_and:
        return logic(in, "AND");
      case Op::logical_or:
        return logic(in, "OR");
      case Op::logical_not:
        return of_text(in, Kind::truth, "NOT " + in_brackets(truth(in[0])));
      case Op::absolute: {
        SqlValue out = simple(in[0], "abs", 0, in[0].bounds.size());
        out.bounds.tiny = in[0].bounds.tiny;
        out.bounds.whole = in[0].bounds.whole;
        return out;
      }
      case Op::exponential_less_1:
        return near_zero(in[0], false);
      case Op::log_of_1_more:
        return near_zero(in[0], true);
      case Op::modulo:
        return modulo(in[0], in[1]);
      case Op::hypotenuse: {
        const double most = std::max(in[0].bounds.size(), in[1].bounds.size());
        const double least = std::min(in[0].bounds.tiny, in[1].bounds.tiny);
        if (most > 1e150 || least < 1e-150)
          throw NotInSql{"squares of its numbers are beyond what a number holds"};
        SqlValue out = from(in, Kind::number);
        out.value = fmt::format("sqrt({0} * {0} + {1} * {1})", number(in[0]), number(in[1]));
        out.bounds = {0, 2 * most, least, false};
        return out;
      }
      case Op::agrees: {
        if (std::max({in[0].bounds.size(), in[1].bounds.size(), in[2].bounds.size()}) >= kDigitsHold)
          throw NotInSql{"it compares numbers of more than 15 digits"};
        SqlValue out = from(in, Kind::truth);
        const std::string outside = in[2].bounds.least < 0 ? number(in[2]) + " < 0" : "";
        out.value = guarded(outside, "",
                            fmt::format("abs({}::numeric - {}::numeric) <= {}::numeric", number(in[0]),
                                        number(in[1]), number(in[2])));
        null_where(out, outside, Reason::domain);
        return out;
      }
      case Op::sign: {
        SqlValue out = simple(in[0], "sign", -1, 1);
        out.bounds = {-1, 1, 1, true};
        return out;
      }
      case Op::square_root:
        return root(in[0]);
      case Op::cube_root: {
        const double most = std::cbrt(in[0].bounds.size()) * 1.0001;
        SqlValue out = simple(in[0], "cbrt", -most, most);
        out.bounds.tiny = std::min(out.bounds.tiny, std::cbrt(in[0].bounds.tiny) / 1.0001);
        return out;
      }
      case Op::exponential:
        return exponential(in[0]);
      case Op::natural_log:
        return logarithm(in[0], "ln({})");
      case Op::decimal_log:
        return logarithm(in[0], "log({})");
      case Op::binary_log:
        return logarithm(in[0], "ln({}) / 0.6931471805599453");
      // A double is never a multiple of pi: the nearest is some 10^-19 away.
      case Op::sine:
        return simple(in[0], "sin", -1, 1, 1e-20);
      case Op::cosine:
        return simple(in[0], "cos", -1, 1, 1e-20);
      case Op::tangent:
        return simple(in[0], "tan", -1e20, 1e20, 1e-20);
      case Op::arc_sine:
        return arc(in[0], "asin");
      case Op::arc_cosine:
        return arc(in[0], "acos");
      case Op::arc_tangent:
        return simple(in[0], "atan", -2, 2, 0.1);
      case Op::hyperbolic_sine:
        return hyperbolic(in[0], "sinh");
      case Op::hyperbolic_cosine:
        return hyperbolic(in[0], "cosh");
      case Op::hyperbolic_tangent:
        return simple(in[0], "tanh", -1, 1, 0.1);
      case Op::arc_tangent2: {
        SqlValue out = from(in, Kind::number);
        out.value = fmt::format("atan2({}, {})", number(in[0]), number(in[1]));
        out.bounds = {-4, 4, std::numeric_limits<double>::denorm_min(), false};
        return out;
      }
      case Op::round_to:
      case Op::floor_to:
      case Op::ceil_to:
      case Op::trunc_to:
        return rounded(instruction, in[0]);
      case Op::clamp: {
        SqlValue out = from(in, Kind::number);
        const std::string least = number(in[1]);
        const std::string greatest = number(in[2]);
        const bool in_order = in[1].constant && in[2].constant && in[1].bounds.least <= in[2].bounds.least;
        const std::string outside = in_order ? "" : fmt::format("{} > {}", least, greatest);
        const std::string value = fmt::format("least(greatest({}, {}), {})", number(in[0]), least, greatest);
        const std::string known = out.why.empty() ? "" : fmt::format("({}) IS NOT NULL", out.why);
        out.value = guarded(joined({known, outside}, " OR "), "", value);
        null_where(out, outside, Reason::domain);
        out.bounds = either(either(in[0].bounds, in[1].bounds), in[2].bounds);
        return out;
      }
      case Op::select:
        return choose(in);
      case Op::fallback:
        return first_of(in);
      case Op::exclude:
        return excluded(in);
      case Op::ratio:
        return quotient_or(in);
      case Op::is_any:
        return one_of(instruction, in);
      case Op::is_null: {
        SqlValue out;
        out.kind = Kind::truth;
        out.value = in_brackets(in[0].value) + " IS NULL";
        return out;
      }
      case Op::complete: {
        SqlValue out;
        out.kind = Kind::truth;
        for (const SqlValue& value : in)
          out.value += (out.value.empty() ? "" : " AND ") + in_brackets(value.value) + " IS NOT NULL";
        return out;
      }
      case Op::within_calendar:
        return within_calendar(in[0]);
      case Op::year_of:
        return part_of_date(in[0], "year", 1e4);
      case Op::quarter_of:
        return part_of_date(in[0], "quarter", 4);
      case Op::month_of:
        return part_of_date(in[0], "month", 12);
      case Op::week_of:
        return part_of_date(in[0], "week", 53);
      case Op::day_of:
        return part_of_date(in[0], "day", 31);
      case Op::day_of_year:
        return part_of_date(in[0], "doy", 366);
      case Op::weekday_of:
        return part_of_date(in[0], "isodow", 7);
      case Op::hour_of:
        return part_of_date(in[0], "hour", 24);
      case Op::minute_of:
        return part_of_date(in[0], "minute", 60);
      case Op::second_of:
        return part_of_date(in[0], "second", 60);
      case Op::end_of:
        return end_of(instruction, in[0]);
      case Op::start_of: {
        const Period period = std::get<Period>(instruction.setting);
        SqlValue out = from(in, Kind::date);
        out.value =
            fmt::format("extract(epoch FROM date_trunc('{}', to_timestamp({}) AT TIME ZONE 'UTC'))::float8",
                        period_name(period), in[0].value);
        out.bounds = in[0].bounds;
        return out;
      }
      case Op::concat:
        for (const SqlValue& value : in) {
          if (value.kind != Kind::text) throw NotInSql{"it puts numbers or dates into a text"};
        }
        {
          std::vector<std::string> texts;
          texts.reserve(in.size());
          for (const SqlValue& value : in) texts.push_back(in_brackets(value.value));
          return of_text(in, Kind::text, fmt::format("{}", fmt::join(texts, " || ")));
        }
      case Op::contains:
        return of_text(in, Kind::truth, fmt::format("strpos({}, {}) > 0", in[0].value, in[1].value));
      case Op::starts_with:
        return of_text(in, Kind::truth, fmt::format("starts_with({}, {})", in[0].value, in[1].value));
      case Op::ends_with:
        return of_text(in, Kind::truth,
                       fmt::format("right({0}, length({1})) = {1}", in[0].value, in_brackets(in[1].value)));
      case Op::row_sum:
      case Op::row_product:
      case Op::row_mean:
      case Op::row_median:
      case Op::row_min:
      case Op::row_max:
      case Op::row_range:
      case Op::row_sd:
      case Op::row_count:
        return along_row(instruction, in);
      default:
        refuse(instruction.op);
    }
  }

  friend SqlValue opensum::converted(const SqlValue&, const Conversion&, OriginId);

  const Program& program_;
  const SqlOperands& operands_;
  std::vector<SqlLeftOut>* left_out_;
  std::map<std::uint32_t, SqlValue> registers_;
};

}  // namespace

std::string sql_null(Reason reason, OriginId own) {
  return std::to_string((static_cast<std::uint64_t>(own) << 8U) | static_cast<std::uint64_t>(reason));
}

SqlValue converted(const SqlValue& value, const Conversion& conversion, OriginId own) {
  const Program none;
  SqlOperands operands;
  operands.own = own;
  const Translator arithmetic(none, operands, nullptr);
  SqlValue out = value;
  if (conversion.multiply != 1) out = arithmetic.multiply(out, constant(conversion.multiply));
  if (conversion.divide != 1) out = arithmetic.divide(out, constant(conversion.divide));
  if (conversion.add != 0) out = arithmetic.add(out, constant(conversion.add), 1);
  return out;
}

SqlValue sql_value(const Program& program, const SqlOperands& operands, std::vector<SqlLeftOut>* left_out) {
  return Translator(program, operands, left_out).run();
}

}  // namespace opensum
