// Functions of whole columns as aggregates of SQL.
#include "sql/aggregate.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "equation/operation.h"
#include "sql/name.h"
#include "sql/sums.h"

namespace opensum {
namespace {

class Aggregator {
 public:
  Aggregator(const Stage& stage, const SqlOperands& operands, std::string name, double rows,
             std::string place)
      : stage_(stage), own_(operands.own), name_(std::move(name)), rows_(rows), place_(std::move(place)) {
    value_ = sql_value(stage.value, operands);
    if (!stage.where.empty()) where_ = sql_value(stage.where.front(), operands).value;
    if (!stage.beside.empty()) beside_ = sql_value(stage.beside.front(), operands);
  }

  SqlAggregate run() {
    const std::string x = in_brackets(value_.value);
    const bool pair = !stage_.beside.empty();
    const std::string both = pair ? fmt::format("({} + {})", x, in_brackets(beside_.value)) : x;
    out_.known = add("known", "count(" + both + ")");
    out_.met = add("met", "count(*)");
    out_.leaves_out = stage_.nulls.skip && stage_.op != Op::col_count;
    const bool nulls = value_.may_be_null() || (pair && beside_.may_be_null());
    if (stage_.op == Op::col_count) {
      out_.value.value = out_.known + "::float8";
      out_.value.bounds = {0, rows_, 1, true};
      return std::move(out_);
    }
    define(x);
    if (nulls && !stage_.nulls.skip) null_by_first(pair);
    const bool spread =
        stage_.op == Op::col_sd || stage_.op == Op::col_sem || stage_.op == Op::col_correlation;
    null_where(fmt::format("{} < {}", out_.known, std::max(stage_.nulls.at_least, spread ? 2 : 1)),
               Reason::too_few);
    if (!outside_.empty()) null_where(outside_, Reason::domain);
    if (!by_zero_.empty()) null_where(by_zero_, Reason::divide_by_zero);
    return std::move(out_);
  }

 private:
  std::string add(const std::string& what, std::string aggregate) {
    std::string name = sql_quoted(name_ + ' ' + what);
    if (!where_.empty()) aggregate += fmt::format(" FILTER (WHERE {})", where_);
    out_.columns.emplace_back(name, std::move(aggregate));
    return name;
  }

  // A number near which the values lie, if they are far from zero: sums of what is left of them lose no
  // digits.
  std::string centre() const {
    const double middle = value_.bounds.least / 2 + value_.bounds.greatest / 2;
    const double width = value_.bounds.greatest - value_.bounds.least;
    if (!(std::fabs(middle) > 4 * width) || !std::isfinite(width) || width == 0) return "";
    return sql_number(std::round(middle * 1e3 / width) / 1e3 * width);
  }

  void check_sum(double largest) const {
    if (largest * rows_ > 1e300) throw NotInSql{fmt::format("{} may overflow", stage_.name)};
  }

  // A sum by whole numbers, of two aggregates.
  std::string add_sum(const std::string& what, const std::string& x, const Bounds& bounds) {
    const ExactSum sum = exact_sum(x, bounds, rows_, stage_.name);
    const std::string high = add(what, sum.high);
    const std::string low = add(what + " rest", sum.low);
    return fmt::format("({}::float8 / {} + {}::float8 / {})", high, sum.high_unit, low, sum.low_unit);
  }

  // Values that are all the same have no spread, whatever rounding leaves of it.
  std::string is_constant(const std::string& what, const std::string& x) {
    return fmt::format("{} = {}", add("least " + what, fmt::format("min({})", x)),
                       add("greatest " + what, fmt::format("max({})", x)));
  }

  void define(const std::string& x) {
    const Bounds& bounds = value_.bounds;
    SqlValue& out = out_.value;
    out.kind = stage_.kind;
    out.bounds = bounds;
    out.bounds.tiny = bounds.tiny * 0x1p-53 / std::max(rows_, 1.0);
    out.bounds.whole = false;
    const std::string shift = centre();
    const std::string near = shift.empty() ? x : fmt::format("({} - {})", x, shift);
    switch (stage_.op) {
      case Op::col_sum:
        out.value = add_sum("sum", x, bounds);
        out.bounds = {std::min(0.0, bounds.least * rows_), std::max(0.0, bounds.greatest * rows_),
                      bounds.tiny * 0x1p-53, false};
        return;
      case Op::col_mean:
        out.value = fmt::format("{} / nullif({}, 0)", add_sum("sum", x, bounds), out_.known);
        return;
      case Op::col_min:
        out.value = add("least", fmt::format("min({})", x));
        out.bounds = bounds;
        return;
      case Op::col_max:
        out.value = add("greatest", fmt::format("max({})", x));
        out.bounds = bounds;
        return;
      case Op::col_range:
        if (bounds.size() > 1e300) throw NotInSql{"col_range may overflow"};
        out.value =
            add("greatest", fmt::format("max({})", x)) + " - " + add("least", fmt::format("min({})", x));
        out.bounds = difference_of(bounds, bounds);
        return;
      case Op::col_sd:
      case Op::col_sem:
        check_sum(bounds.size() * bounds.size());
        out.value = add("sd", fmt::format("stddev_samp({})", near));
        out.value = fmt::format("CASE WHEN {} THEN 0 ELSE {} END", is_constant("value", x), out.value);
        if (stage_.op == Op::col_sem) out.value += fmt::format(" / sqrt({})", out_.known);
        out.bounds = {0, 2 * bounds.size(), bounds.tiny * 1e-20 / std::max(rows_, 1.0), false};
        return;
      case Op::col_rms:
        check_sum(bounds.size() * bounds.size());
        if (bounds.tiny < 1e-150)
          throw NotInSql{"col_rms goes over numbers whose squares are not told from zero"};
        out.value = "sqrt(" + add("squares", fmt::format("avg({0} * {0})", x)) + ")";
        out.bounds.least = 0;
        out.bounds.tiny = bounds.tiny / std::sqrt(std::max(rows_, 1.0)) / 2;
        return;
      case Op::col_geometric_mean:
        out.value = fmt::format("exp({} / nullif({}, 0))",
                                add_sum("logs", fmt::format("ln(CASE WHEN {0} > 0 THEN {0} END)", x),
                                        Bounds{-1100, 1100, 1e-17, false}),
                                out_.known);
        if (bounds.least <= 0) outside_ = add("least", fmt::format("min({})", x)) + " <= 0";
        out.bounds.least = bounds.tiny;
        return;
      case Op::col_median:
      case Op::col_quantile: {
        const double share =
            stage_.op == Op::col_median ? 0.5 : std::get<QuantileFraction>(stage_.setting).share;
        out.value = add("quantile",
                        fmt::format("percentile_cont({}) WITHIN GROUP (ORDER BY {})", sql_number(share), x));
        return;
      }
      case Op::col_weighted_mean: {
        check_sum(bounds.size() * std::max(1.0, beside_.bounds.size()));
        const std::string w = in_brackets(beside_.value);
        const Bounds of_products = product_of(bounds, beside_.bounds);
        if (!is_moderate(of_products))
          throw NotInSql{"col_mean has weights whose products are beyond what a number holds"};
        const std::string products = add_sum("products", fmt::format("({} * {})", w, x), of_products);
        const std::string weights =
            add("weights", fmt::format("sum(CASE WHEN {} IS NOT NULL THEN {} END)", x, w));
        out.value = fmt::format("{} / nullif({}, 0)", products, weights);
        by_zero_ = weights + " = 0";
        if (beside_.bounds.least < 0)
          outside_ = add("lightest", fmt::format("min(CASE WHEN {} IS NOT NULL THEN {} END)", x, w)) + " < 0";
        return;
      }
      case Op::col_correlation:
        check_sum(bounds.size() * bounds.size());
        check_sum(beside_.bounds.size() * beside_.bounds.size());
        out.value = add("correlation", fmt::format("corr({}, {})", x, in_brackets(beside_.value)));
        by_zero_ = fmt::format("{} OR {} OR {} IS NULL",
                               is_constant("value", fmt::format("CASE WHEN {} IS NOT NULL THEN {} END",
                                                                in_brackets(beside_.value), x)),
                               is_constant("other", fmt::format("CASE WHEN {} IS NOT NULL THEN {} END", x,
                                                                in_brackets(beside_.value))),
                               out.value);
        out.bounds = {-1, 1, 1e-300, false};
        return;
      default:
        throw NotInSql{fmt::format("{} has no counterpart there", stage_.name)};
    }
  }

  void null_where(const std::string& condition, Reason reason) {
    SqlValue& out = out_.value;
    out.why =
        first_known({out.why, fmt::format("CASE WHEN {} THEN {} END", condition, sql_null(reason, own_))});
    out.value = fmt::format("CASE WHEN NOT ({}) THEN {} END", condition, out.value);
    out.reasons.insert(reason);
  }

  // What is null in one row makes all null: by the reason of the first row.
  void null_by_first(bool pair) {
    const std::string why = first_known({value_.why, pair ? beside_.why : ""});
    std::set<Reason> reasons = value_.reasons;
    if (pair) reasons.insert(beside_.reasons.begin(), beside_.reasons.end());
    if (place_.empty() && reasons.size() > 1)
      throw NotInSql{fmt::format("{} passes on the null of the first row, and the rows have no order there",
                                 stage_.name)};
    const std::string first =
        place_.empty()
            ? add("why", fmt::format("min({})", why))
            : add("why", fmt::format("(array_agg({0} ORDER BY {1}) FILTER (WHERE {0} IS NOT NULL))[1]",
                                     in_brackets(why), place_));
    if (!place_.empty() && !where_.empty())
      throw NotInSql{fmt::format("{} has a condition and passes nulls on", stage_.name)};
    out_.value.why = first;
    out_.value.value = fmt::format("CASE WHEN {} IS NULL THEN {} END", first, out_.value.value);
    out_.value.reasons = reasons;
  }

  const Stage& stage_;
  OriginId own_;
  std::string name_;
  double rows_;
  std::string place_;
  SqlValue value_;
  SqlValue beside_;
  std::string where_;
  std::string outside_;
  std::string by_zero_;
  SqlAggregate out_;
};

}  // namespace

SqlAggregate sql_aggregate(const Stage& stage, const SqlOperands& operands, const std::string& name,
                           double rows, const std::string& place) {
  return Aggregator(stage, operands, name, rows, place).run();
}

}  // namespace opensum
