// Functions of the sequence of rows as windows of SQL.
#include "sql/sequence.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "equation/operation.h"
#include "sql/expression.h"
#include "sql/sums.h"

namespace opensum {
namespace {

class Window {
 public:
  Window(const Stage& stage, SqlValue value, OriginId own, const std::vector<std::string>& keys,
         const std::string& place, double rows)
      : stage_(stage),
        value_(std::move(value)),
        own_(own),
        keys_(keys),
        place_(place),
        rows_(rows),
        count_(std::max<std::size_t>(rows_of_setting(stage.setting), 1)) {}

  SqlValue run() {
    switch (stage_.op) {
      case Op::row_number:
        out_.value = fmt::format("(row_number() {})::float8", over(""));
        out_.bounds = {1, rows_, 1, true};
        break;
      case Op::previous:
      case Op::next:
        neighbour();
        break;
      case Op::change:
        change();
        break;
      case Op::sum_so_far:
      case Op::mean_so_far:
      case Op::min_so_far:
      case Op::max_so_far:
        so_far();
        break;
      case Op::moving_mean:
      case Op::moving_sd:
        moving();
        break;
      case Op::rank:
        rank();
        break;
      default:
        throw NotInSql{fmt::format("{} has no counterpart there", stage_.name)};
    }
    return std::move(out_);
  }

 private:
  std::string over(const std::string& frame) const {
    const std::string partition =
        keys_.empty() ? "" : fmt::format("PARTITION BY {} ", fmt::join(keys_, ", "));
    return fmt::format("OVER ({}ORDER BY {}{})", partition, place_, frame);
  }

  void null_where(const std::string& condition, Reason reason) {
    out_.why =
        first_known({out_.why, fmt::format("CASE WHEN {} THEN {} END", condition, sql_null(reason, own_))});
    out_.reasons.insert(reason);
  }

  void neighbour() {
    const char* const function = stage_.op == Op::previous ? "lag" : "lead";
    const std::string window = over("");
    out_ = value_;
    out_.value = fmt::format("{}({}, {}) {}", function, value_.value, count_, window);
    if (value_.may_be_null()) out_.why = fmt::format("{}({}, {}) {}", function, value_.why, count_, window);
    null_where(fmt::format("{}(1, {}) {} IS NULL", function, count_, window), Reason::no_neighbour);
  }

  void change() {
    if (value_.bounds.size() > 1e300)
      throw NotInSql{"change goes over numbers so large that it may overflow"};
    const std::string window = over("");
    const std::string x = in_brackets(value_.value);
    out_ = value_;
    out_.value = fmt::format("{} - lag({}) {}", x, value_.value, window);
    out_.bounds = difference_of(value_.bounds, value_.bounds);
    null_where(fmt::format("lag(1) {} IS NULL", window), Reason::no_neighbour);
    if (value_.may_be_null())
      out_.why = first_known({out_.why, fmt::format("lag({}) {}", value_.why, window)});
  }

  // Why there is a null in a frame: all are for the same reason.
  std::string first_why(const std::string& frame) const {
    return fmt::format("min({}) {}", value_.why, over(frame));
  }

  void check_reasons() const {
    if (!stage_.nulls.skip && value_.reasons.size() > 1)
      throw NotInSql{fmt::format("{} passes on the first of nulls of several reasons", stage_.name)};
  }

  // The sum of a frame, by whole numbers.
  std::string sum(const std::string& frame) const {
    const ExactSum parts = exact_sum(in_brackets(value_.value), value_.bounds, rows_, stage_.name);
    return fmt::format("(({} {})::float8 / {} + ({} {})::float8 / {})", parts.high, over(frame),
                       parts.high_unit, parts.low, over(frame), parts.low_unit);
  }

  void so_far() {
    check_reasons();
    const std::string frame = " ROWS BETWEEN UNBOUNDED PRECEDING AND CURRENT ROW";
    const std::string count = fmt::format("count({}) {}", value_.value, over(frame));
    SqlValue& out = out_;
    out.bounds = value_.bounds;
    switch (stage_.op) {
      case Op::sum_so_far:
        out.value = sum(frame);
        out.bounds.least = std::min(0.0, value_.bounds.least * rows_);
        out.bounds.greatest = std::max(0.0, value_.bounds.greatest * rows_);
        out.bounds.tiny *= 0x1p-53;
        break;
      case Op::mean_so_far:
        out.value = fmt::format("{} / nullif({}, 0)", sum(frame), count);
        out.bounds.tiny *= 0x1p-53 / std::max(rows_, 1.0);
        break;
      default:
        out.value =
            fmt::format("{}({}) {}", stage_.op == Op::min_so_far ? "min" : "max", value_.value, over(frame));
    }
    out.bounds.whole = false;
    if (!value_.may_be_null()) return;
    if (stage_.nulls.skip) {
      null_where(count + " = 0", Reason::too_few);
      out.value = fmt::format("CASE WHEN {} > 0 THEN {} END", count, out.value);
    } else {
      out.why = first_why(frame);
      out.reasons = value_.reasons;
      out.value = fmt::format("CASE WHEN {} IS NULL THEN {} END", out.why, out.value);
    }
  }

  void moving() {
    check_reasons();
    const std::size_t half = count_ / 2;
    const std::string frame = fmt::format(" ROWS BETWEEN {0} PRECEDING AND {0} FOLLOWING", half);
    const std::string all = fmt::format("count(*) {}", over(frame));
    const std::string known = fmt::format("count({}) {}", value_.value, over(frame));
    const bool is_sd = stage_.op == Op::moving_sd;
    SqlValue& out = out_;
    out.bounds =
        is_sd ? Bounds{0, 2 * value_.bounds.size(), value_.bounds.tiny * 1e-20, false} : value_.bounds;
    out.bounds.whole = false;
    out.bounds.tiny *= 0x1p-53;
    if (is_sd && value_.bounds.size() > 1e150) throw NotInSql{"moving_sd may overflow"};
    out.value =
        is_sd ? fmt::format("CASE WHEN min({0}) {1} = max({0}) {1} THEN 0 ELSE stddev_samp({0}) {1} END",
                            value_.value, over(frame))
              : fmt::format("{} / nullif({}, 0)", sum(frame), known);
    const std::string outside = fmt::format("{} < {}", all, 2 * half + 1);
    null_where(outside, Reason::no_neighbour);
    std::string undefined = outside;
    if (value_.may_be_null() && !stage_.nulls.skip) {
      const std::string why = first_why(frame);
      out.why = first_known({out.why, why});
      out.reasons.insert(value_.reasons.begin(), value_.reasons.end());
      undefined += fmt::format(" OR {} IS NOT NULL", why);
    }
    if (value_.may_be_null() || is_sd) {
      const std::string few = fmt::format("{} < {}", known, is_sd ? 2 : 1);
      null_where(few, Reason::too_few);
      undefined += " OR " + few;
    }
    out.value = fmt::format("CASE WHEN NOT ({}) THEN {} END", undefined, out.value);
  }

  // From 1; the same decimals share the mean of their ranks.
  void rank() {
    const bool decimal = value_.kind == Kind::number && !value_.bounds.whole;
    if (decimal && value_.bounds.size() >= 1e15)
      throw NotInSql{"rank goes over numbers of more than 15 digits"};
    const std::string x = in_brackets(value_.value) + (decimal ? "::numeric" : "");
    const std::string keys = keys_.empty() ? "" : fmt::format("{}, ", fmt::join(keys_, ", "));
    out_ = value_;
    out_.kind = Kind::number;
    out_.value = fmt::format(
        "CASE WHEN {0} IS NOT NULL THEN (rank() OVER (PARTITION BY {1}{0} IS NULL ORDER BY {2}) + (count(*) "
        "OVER (PARTITION "
        "BY {1}{2}) - 1) / 2.0)::float8 END",
        in_brackets(value_.value), keys, x);
    out_.bounds = {1, std::max(rows_, 1.0), 1, false};
  }

  const Stage& stage_;
  SqlValue value_;
  OriginId own_;
  const std::vector<std::string>& keys_;
  const std::string& place_;
  double rows_;
  std::size_t count_;
  SqlValue out_;
};

}  // namespace

SqlValue sql_sequence(const Stage& stage, const SqlValue& value, OriginId own,
                      const std::vector<std::string>& keys, const std::string& place, double rows) {
  return Window(stage, value, own, keys, place, rows).run();
}

}  // namespace opensum
