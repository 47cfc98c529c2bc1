// Programs of the equation language as SQL.
#include "sql/expression.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "sql/name.h"
#include "sql/translator.h"

namespace opensum {
namespace {

SqlValue text_constant(const std::string& text) {
  SqlValue value;
  value.kind = Kind::text;
  value.value = sql_text(text);
  value.constant = true;
  return value;
}

}  // namespace

std::string joined_by(std::initializer_list<std::string> conditions, const char* word) {
  std::vector<std::string> some;
  for (const std::string& condition : conditions) {
    if (!condition.empty()) some.push_back(condition);
  }
  return fmt::format("{}", fmt::join(some, word));
}

SqlValue sql_constant(double number) {
  SqlValue value;
  value.value = sql_number(number);
  value.bounds = Bounds::of(number);
  value.constant = true;
  return value;
}

SqlValue Translator::run() {
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

SqlValue Translator::value_of(const Operand& operand) const {
  switch (operand.source) {
    case Operand::Source::result:
      return registers_.at(operand.index);
    case Operand::Source::input:
      return operands_.column(program_.inputs[operand.index]);
    case Operand::Source::number:
      return sql_constant(program_.numbers[operand.index]);
    case Operand::Source::text:
      return text_constant(program_.texts[operand.index]);
    case Operand::Source::stage:
      return operands_.stages.at(operand.index);
  }
  return {};
}

SqlValue Translator::from(const std::vector<SqlValue>& in, Kind kind) {
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

void Translator::null_where(SqlValue& out, const std::string& condition, Reason reason) const {
  if (condition.empty()) return;
  out.why = first_known({out.why, fmt::format("CASE WHEN {} THEN {} END", condition, null(reason))});
  out.reasons.insert(reason);
}

std::string Translator::guarded(const std::string& undefined, const std::string& vanishing,
                                const std::string& value) {
  if (undefined.empty() && vanishing.empty()) return value;
  std::string text = "CASE";
  if (!undefined.empty()) text += " WHEN " + undefined + " THEN NULL";
  if (!vanishing.empty()) text += " WHEN " + vanishing + " THEN 0";
  return text + " ELSE " + value + " END";
}

SqlValue Translator::apply(const Instruction& instruction, const std::vector<SqlValue>& in) const {
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
      out.value = guarded(joined_by({known, outside}, " OR "), "", value);
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
SqlValue converted(const SqlValue& value, const Conversion& conversion, OriginId own) {
  const Program none;
  SqlOperands operands;
  operands.own = own;
  const Translator arithmetic(none, operands, nullptr);
  SqlValue out = value;
  if (conversion.multiply != 1) out = arithmetic.multiply(out, sql_constant(conversion.multiply));
  if (conversion.divide != 1) out = arithmetic.divide(out, sql_constant(conversion.divide));
  if (conversion.add != 0) out = arithmetic.add(out, sql_constant(conversion.add), 1);
  return out;
}

SqlValue sql_value(const Program& program, const SqlOperands& operands, std::vector<SqlLeftOut>* left_out) {
  return Translator(program, operands, left_out).run();
}

}  // namespace opensum
