// Comparisons, choices and nulls as SQL.
#include <algorithm>
#include <cmath>

#include "sql/translator.h"
#include "table/decimal.h"

namespace opensum {

namespace {

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

}  // namespace

std::string Translator::comparison(const SqlValue& a, const SqlValue& b, const char* sign,
                                   bool instants) const {
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

const char* Translator::sign_of(Op op) {
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

SqlValue Translator::compare(const Instruction& instruction, const std::vector<SqlValue>& in) const {
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

std::string Translator::truth(const SqlValue& value) {
  if (value.kind == Kind::truth) return value.value;
  return value.bounds.least != 0 ? "true" : "false";
}

SqlValue Translator::logic(const std::vector<SqlValue>& in, const char* word) const {
  SqlValue out = from(in, Kind::truth);
  out.value = fmt::format("{} {} {}", in_brackets(truth(in[0])), word, in_brackets(truth(in[1])));
  if (!out.why.empty()) out.why = fmt::format("CASE WHEN ({}) IS NULL THEN {} END", out.value, out.why);
  return out;
}

Kind Translator::kind_of_branches(const SqlValue& a, const SqlValue& b) {
  return a.value == "NULL" ? b.kind : a.kind;
}

std::string Translator::branch(const SqlValue& value, Kind kind) {
  if (value.value == "NULL") return value.value;
  return kind == Kind::truth ? truth(value) : value.value;
}

Bounds Translator::bounds_of_branches(const SqlValue& a, const SqlValue& b) {
  if (a.value == "NULL") return b.bounds;
  return b.value == "NULL" ? a.bounds : either(a.bounds, b.bounds);
}

SqlValue Translator::choose(const std::vector<SqlValue>& in) const {
  SqlValue out;
  out.kind = kind_of_branches(in[1], in[2]);
  if (in[1].kind == Kind::truth || in[2].kind == Kind::truth) out.kind = Kind::truth;
  out.bounds = bounds_of_branches(in[1], in[2]);
  const std::string condition = truth(in[0]);
  const std::string otherwise =
      in[0].may_be_null() ? fmt::format(" WHEN NOT {} THEN ", in_brackets(condition)) : std::string(" ELSE ");
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

SqlValue Translator::first_of(const std::vector<SqlValue>& in) const {
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

SqlValue Translator::excluded(const std::vector<SqlValue>& in) const {
  SqlValue out = in[0];
  out.constant = false;
  out.reasons.insert(in[1].reasons.begin(), in[1].reasons.end());
  const std::string condition = truth(in[1]);
  out.value = fmt::format("CASE WHEN NOT {} THEN {} END", in_brackets(condition), in[0].value);
  out.why = first_known({in[0].why, in[1].why});
  null_where(out, condition, Reason::excluded);
  return out;
}

SqlValue Translator::quotient_or(const std::vector<SqlValue>& in) const {
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

SqlValue Translator::one_of(const Instruction& instruction, const std::vector<SqlValue>& in) const {
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

}  // namespace opensum
