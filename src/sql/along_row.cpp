// Reductions along a row as SQL.
#include <algorithm>
#include <cmath>
#include <limits>

#include "sql/translator.h"

namespace opensum {

SqlValue Translator::along_row(const Instruction& instruction, const std::vector<SqlValue>& in) const {
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
          median ? "percentile_cont(0.5) WITHIN GROUP (ORDER BY v)"
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

}  // namespace opensum
