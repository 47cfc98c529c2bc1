// What each operation does to a batch of rows.
#include "compute/kernels.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <limits>
#include <optional>

#include "compute/functions_of_one.h"
#include "compute/quantiles.h"
#include "equation/operation.h"
#include "table/decimal.h"

namespace opensum {
namespace {

// Loops go over so many rows at a time with a sum for each, which the compiler turns into vector code.
constexpr std::size_t kLanes = 8;
using Lanes = std::array<double, kLanes>;

// Calls `step(row, lane)` for all rows, those of a lane always with the same sum.
template <typename Step>
void for_each_row(std::size_t rows, Step step) {
  std::size_t i = 0;
  for (; i + kLanes <= rows; i += kLanes) {
    for (std::size_t lane = 0; lane < kLanes; ++lane) step(i + lane, lane);
  }
  for (; i < rows; ++i) step(i, 0);
}

// Marks rows that have no finite value as overflow. The values of null rows are set to zero, so that they
// cannot trouble later steps.
void mark_infinite(Register& out, std::size_t rows, OriginId own) {
  double* values = out.numbers.data();
  for (std::size_t i = 0; i < rows; ++i) {
    if (std::isfinite(values[i])) continue;
    if (!out.has_nulls || !out.nulls[i]) {
      values[i] = 0;
      out.mark(i, Null(Reason::overflow, own));
    } else {
      // The limit of a null stays one that no number is beyond.
      values[i] =
          is_limit(out.nulls[i].reason()) ? std::copysign(std::numeric_limits<double>::max(), values[i]) : 0;
    }
  }
}

// Passes on the leftmost null of each row.
void pass_nulls(std::span<const View> in, Register& out, std::size_t rows) {
  out.clear();
  for (const View& view : in) {
    if (view.nulls == nullptr) continue;
    if (!out.has_nulls) {
      out.nulls.assign(view.nulls, view.nulls + rows);
      out.nulls.resize(kBatchRows);
      out.has_nulls = true;
      continue;
    }
    for (std::size_t i = 0; i < rows; ++i) {
      if (!out.nulls[i]) out.nulls[i] = view.nulls[i];
    }
  }
}

bool is_null(const Register& out, std::size_t i) { return out.has_nulls && static_cast<bool>(out.nulls[i]); }

// Whether nothing was summed up. x - x is zero for finite x only, and any NaN makes a sum NaN.
bool all_zero(const Lanes& lanes) {
  return std::all_of(lanes.begin(), lanes.end(), [](double lane) { return lane == 0; });
}

// Applies a function to each row; whether all results are finite.
template <typename Function>
bool map1(std::span<const View> in, Register& out, std::size_t rows, Function function) {
  const double* a = in[0].numbers;
  double* result = out.numbers.data();
  Lanes sums{};
  for_each_row(rows, [&](std::size_t i, std::size_t lane) {
    const double value = function(a[i]);
    result[i] = value;
    sums[lane] += value - value;
  });
  return all_zero(sums);
}

template <typename Function>
bool map2(std::span<const View> in, Register& out, std::size_t rows, Function function) {
  const double* a = in[0].numbers;
  const double* b = in[1].numbers;
  double* result = out.numbers.data();
  Lanes sums{};
  for_each_row(rows, [&](std::size_t i, std::size_t lane) {
    const double value = function(a[i], b[i]);
    result[i] = value;
    sums[lane] += value - value;
  });
  return all_zero(sums);
}

// Marks the rows for which a condition on the operands holds.
template <typename Condition>
void mark_where(Register& out, std::size_t rows, Null null, Condition condition) {
  for (std::size_t i = 0; i < rows; ++i) {
    if (condition(i) && !is_null(out, i)) out.mark(i, null);
  }
}

bool map_rounding(const Instruction& instruction, std::span<const View> in, Register& out, std::size_t rows,
                  Rounding rounding) {
  const double step = std::get<RoundingStep>(instruction.setting).size;
  return map1(in, out, rows, [=](double x) { return rounded_typed(x, step, rounding); });
}

// Compares numbers as decimals: at once where they are plainly apart, and once more where they are not.
template <typename Compare>
bool map_comparison(const Instruction& instruction, std::span<const View> in, Register& out, std::size_t rows,
                    Compare compare) {
  const auto plainly = [=](double a, double b) { return compare(a, b) ? 1.0 : 0.0; };
  if (instruction.on_instants && in[0].rests == nullptr && in[1].rests == nullptr)
    return map2(in, out, rows, plainly);
  if (instruction.on_instants) {
    for (std::size_t i = 0; i < rows; ++i) {
      const Instant left = in[0].instant(i);
      const Instant right = in[1].instant(i);
      out.numbers[i] = plainly(left < right ? -1 : left > right ? 1 : 0, 0);
    }
    return true;
  }
  const double* a = in[0].numbers;
  const double* b = in[1].numbers;
  double* result = out.numbers.data();
  Lanes near{};
  for_each_row(rows, [&](std::size_t i, std::size_t lane) {
    result[i] = plainly(a[i], b[i]);
    near[lane] += may_be_same(a[i], b[i]) ? 1.0 : 0.0;
  });
  if (all_zero(near)) return true;
  for (std::size_t i = 0; i < rows; ++i) {
    if (a[i] != b[i] && may_be_same(a[i], b[i])) result[i] = plainly(compare_typed(a[i], b[i]), 0);
  }
  return true;
}

// A date and a duration make a date, two dates a duration.
bool map_dates(const Instruction& instruction, std::span<const View> in, Register& out, std::size_t rows) {
  const bool minus = instruction.op == Op::subtract;
  if (instruction.is_instant[0] && instruction.is_instant[1]) {
    if (in[0].rests == nullptr && in[1].rests == nullptr)
      return map2(in, out, rows, [](double a, double b) { return a - b; });
    for (std::size_t i = 0; i < rows; ++i)
      out.numbers[i] = seconds_between(in[1].instant(i), in[0].instant(i));
    return true;
  }
  const View& date = in[instruction.is_instant[0] ? 0 : 1];
  const View& duration = in[instruction.is_instant[0] ? 1 : 0];
  bool finite = true;
  for (std::size_t i = 0; i < rows; ++i) {
    const double seconds = duration.numbers[i];
    out.set_instant(i, later(date.instant(i), minus ? -seconds : seconds));
    finite = finite && std::isfinite(out.numbers[i]);
  }
  return finite;
}

// Decides comparisons of cells such as `<0.5` by their limits, where those are enough. Of a limit itself it
// is not known whether it is reached.
void decide_by_limits(const Instruction& instruction, std::span<const View> in, Register& out,
                      std::size_t rows) {
  struct Bounds {
    double low;
    double high;
  };
  constexpr double kInfinity = std::numeric_limits<double>::infinity();
  const auto bounds = [&](std::size_t side, std::size_t row) -> std::optional<Bounds> {
    const double number = in[side].numbers[row];
    const Null null = in[side].null(row);
    if (!null) return Bounds{number, number};
    if (!instruction.keeps_limit.at(side)) return std::nullopt;
    if (null.reason() == Reason::below_limit) return Bounds{-kInfinity, number};
    if (null.reason() == Reason::above_limit) return Bounds{number, kInfinity};
    return std::nullopt;
  };
  const auto less = [](double a, double b) {
    return std::isinf(a) || std::isinf(b) ? a < b : compare_typed(a, b) < 0;
  };
  // Whether all of `a` is below all of `b`, or none is.
  const auto all_less = [&](const Bounds& a, const Bounds& b) -> std::optional<bool> {
    if (less(a.high, b.low)) return true;
    if (!less(a.low, b.high)) return false;
    return std::nullopt;
  };
  for (std::size_t row = 0; row < rows; ++row) {
    if (!is_null(out, row)) continue;
    const auto a = bounds(0, row);
    const auto b = bounds(1, row);
    if (!a || !b) continue;
    std::optional<bool> decided;
    switch (instruction.op) {
      case Op::less:
        decided = all_less(*a, *b);
        break;
      case Op::greater:
        decided = all_less(*b, *a);
        break;
      case Op::less_equal:
        decided = all_less(*b, *a);
        if (decided) decided = !*decided;
        break;
      case Op::greater_equal:
        decided = all_less(*a, *b);
        if (decided) decided = !*decided;
        break;
      case Op::equal:
      case Op::not_equal:
        if (less(a->high, b->low) || less(b->high, a->low)) decided = instruction.op == Op::not_equal;
        break;
      default:
        not_computed(instruction.op, "decide_by_limits");
    }
    if (!decided) continue;
    out.nulls[row] = Null();
    out.numbers[row] = *decided ? 1 : 0;
  }
}

// True and false with nulls: a side that decides alone decides even beside a null.
void logical(std::span<const View> in, Register& out, std::size_t rows, double deciding) {
  out.clear();
  for (std::size_t i = 0; i < rows; ++i) {
    const Null a = in[0].null(i);
    const Null b = in[1].null(i);
    const bool decided = (!a && in[0].numbers[i] == deciding) || (!b && in[1].numbers[i] == deciding);
    out.numbers[i] = decided ? deciding : 1 - deciding;
    if (!decided && (a || b)) out.mark(i, a ? a : b);
  }
}

// Copies row i of a view into the result, null or not.
void copy_row(const View& from, Register& out, std::size_t i, bool text) {
  if (text) {
    out.texts[i] = from.texts == nullptr ? std::string_view() : from.texts[i];
  } else {
    out.set_instant(i, from.numbers == nullptr ? Instant() : from.instant(i));
  }
  if (const Null null = from.null(i)) out.mark(i, null);
}

void select(const Instruction& instruction, std::span<const View> in, Register& out, std::size_t rows) {
  out.clear();
  for (std::size_t i = 0; i < rows; ++i) {
    if (const Null null = in[0].null(i)) {
      out.mark(i, null);
    } else {
      copy_row(in[in[0].numbers[i] != 0 ? 1 : 2], out, i, instruction.gives_text);
    }
  }
}

void fallback(const Instruction& instruction, std::span<const View> in, Register& out, std::size_t rows) {
  out.clear();
  for (std::size_t i = 0; i < rows; ++i) {
    const auto known = std::find_if(in.begin(), in.end(), [&](const View& v) { return !v.null(i); });
    copy_row(known == in.end() ? in.front() : *known, out, i, instruction.gives_text);
  }
}

void exclude(const Instruction& instruction, std::span<const View> in, Register& out, std::size_t rows,
             OriginId own) {
  out.clear();
  for (std::size_t i = 0; i < rows; ++i) {
    copy_row(in[0], out, i, instruction.gives_text);
    if (in[0].null(i)) continue;
    if (const Null null = in[1].null(i)) {
      out.mark(i, null);
    } else if (in[1].numbers[i] != 0) {
      out.mark(i, Null(Reason::excluded, own));
    }
  }
}

void ratio(std::span<const View> in, Register& out, std::size_t rows) {
  out.clear();
  for (std::size_t i = 0; i < rows; ++i) {
    const Null above = in[0].null(i);
    const Null below = in[1].null(i);
    out.numbers[i] = 0;
    if (above || below) {
      out.mark(i, above ? above : below);
    } else if (in[1].numbers[i] == 0) {
      copy_row(in[2], out, i, false);
    } else {
      out.numbers[i] = in[0].numbers[i] / in[1].numbers[i];
    }
  }
}

void is_any(const Instruction& instruction, std::span<const View> in, Register& out, std::size_t rows) {
  out.clear();
  for (std::size_t i = 0; i < rows; ++i) {
    if (const Null null = in[0].null(i)) {
      out.mark(i, null);
      continue;
    }
    Null unknown;
    bool found = false;
    for (const View& candidate : in.subspan(1)) {
      if (const Null null = candidate.null(i)) {
        if (!unknown) unknown = null;
      } else {
        found = found || (instruction.on_text       ? candidate.texts[i] == in[0].texts[i]
                          : instruction.on_instants ? candidate.instant(i) == in[0].instant(i)
                                                    : same_typed(candidate.numbers[i], in[0].numbers[i]));
      }
    }
    out.numbers[i] = found ? 1 : 0;
    if (!found && unknown) out.mark(i, unknown);
  }
}

void text_comparison(std::span<const View> in, Register& out, std::size_t rows, bool wanted) {
  for (std::size_t i = 0; i < rows; ++i) {
    out.numbers[i] = !is_null(out, i) && (in[0].texts[i] == in[1].texts[i]) == wanted ? 1 : 0;
  }
}

double modulo(double a, double b) { return b == 0 ? std::nan("") : modulo_typed(a, b); }

bool power(std::span<const View> in, Register& out, std::size_t rows) {
  const double* exponent = in[1].numbers;
  Lanes others{};
  for_each_row(rows, [&](std::size_t i, std::size_t lane) { others[lane] += exponent[i] == 2 ? 0.0 : 1.0; });
  if (all_zero(others)) return map1(in, out, rows, [](double a) { return a * a; });
  return map2(in, out, rows, [](double a, double b) {
    // Squares and roots are correctly rounded this way, whatever the mathematics library does.
    if (b == 2) return a * a;
    if (b == 0.5) return std::sqrt(a);
    return std::pow(a, b);
  });
}

bool convert(const Conversion& change, std::span<const View> in, Register& out, std::size_t rows) {
  if (change.divide == 1 && change.add == 0)
    return map1(in, out, rows, [=](double x) { return x * change.multiply; });
  if (change.add == 0)
    return map1(in, out, rows, [=](double x) { return x * change.multiply / change.divide; });
  return map1(in, out, rows, [=](double x) { return x * change.multiply / change.divide + change.add; });
}

double sign_of(double x) { return x > 0 ? 1 : x < 0 ? -1 : 0; }

// Operations whose result is null exactly where an operand is, or where it is undefined or infinite; whether
// all results are finite.
bool map(const Instruction& instruction, std::span<const View> in, Register& out, std::size_t rows) {
  if (instruction.on_instants && (instruction.op == Op::add || instruction.op == Op::subtract))
    return map_dates(instruction, in, out, rows);
  switch (instruction.op) {
    case Op::convert:
      return convert(instruction.conversion, in, out, rows);
    case Op::negate:
      return map1(in, out, rows, [](double x) { return -x; });
    case Op::add:
      return map2(in, out, rows, [](double a, double b) { return a + b; });
    case Op::subtract:
      return map2(in, out, rows, [](double a, double b) { return a - b; });
    case Op::multiply:
      return map2(in, out, rows, [](double a, double b) { return a * b; });
    case Op::divide:
      return map2(in, out, rows, [](double a, double b) { return a / b; });
    case Op::power:
      return power(in, out, rows);
    case Op::modulo:
      return map2(in, out, rows, modulo);
    case Op::equal:
      return map_comparison(instruction, in, out, rows, [](double a, double b) { return a == b; });
    case Op::not_equal:
      return map_comparison(instruction, in, out, rows, [](double a, double b) { return a != b; });
    case Op::less:
      return map_comparison(instruction, in, out, rows, [](double a, double b) { return a < b; });
    case Op::less_equal:
      return map_comparison(instruction, in, out, rows, [](double a, double b) { return a <= b; });
    case Op::greater:
      return map_comparison(instruction, in, out, rows, [](double a, double b) { return a > b; });
    case Op::greater_equal:
      return map_comparison(instruction, in, out, rows, [](double a, double b) { return a >= b; });
    case Op::logical_not:
      return map1(in, out, rows, [](double x) { return 1 - x; });
    case Op::arc_tangent2:
      return map2(in, out, rows, [](double y, double x) { return std::atan2(y, x); });
    case Op::hypotenuse:
      return map2(in, out, rows, [](double a, double b) { return std::hypot(a, b); });
    case Op::sign:
      return map1(in, out, rows, sign_of);
    case Op::round_to:
      return map_rounding(instruction, in, out, rows, Rounding::half_even);
    case Op::floor_to:
      return map_rounding(instruction, in, out, rows, Rounding::down);
    case Op::ceil_to:
      return map_rounding(instruction, in, out, rows, Rounding::up);
    case Op::trunc_to:
      return map_rounding(instruction, in, out, rows, Rounding::toward_zero);
    default:
      break;
  }
  bool finite = false;
  const bool known = with_function_of_one(
      instruction.op, [&](const auto& value, const auto& /*slope*/) { finite = map1(in, out, rows, value); });
  if (!known) not_computed(instruction.op, "map");
  return finite;
}

// Marks the rows in which an operation is undefined. Its results there are not finite.
void mark_undefined(Op op, std::span<const View> in, Register& out, std::size_t rows, OriginId own) {
  const Null by_zero(Reason::divide_by_zero, own);
  const Null outside(Reason::domain, own);
  const double* a = in[0].numbers;
  switch (op) {
    case Op::divide:
    case Op::modulo:
      return mark_where(out, rows, by_zero, [&](std::size_t i) { return in[1].numbers[i] == 0; });
    case Op::power: {
      const double* exponent = in[1].numbers;
      mark_where(out, rows, by_zero, [&](std::size_t i) { return a[i] == 0 && exponent[i] < 0; });
      return mark_where(out, rows, outside,
                        [&](std::size_t i) { return a[i] < 0 && exponent[i] != std::floor(exponent[i]); });
    }
    case Op::square_root:
      return mark_where(out, rows, outside, [&](std::size_t i) { return a[i] < 0; });
    case Op::natural_log:
    case Op::decimal_log:
    case Op::binary_log:
      return mark_where(out, rows, outside, [&](std::size_t i) { return a[i] <= 0; });
    case Op::log_of_1_more:
      return mark_where(out, rows, outside, [&](std::size_t i) { return a[i] <= -1; });
    case Op::arc_sine:
    case Op::arc_cosine:
      return mark_where(out, rows, outside, [&](std::size_t i) { return a[i] < -1 || a[i] > 1; });
    default:
      return;
  }
}

// Nothing is known in any row.
void all_null(Register& out, std::size_t rows, OriginId own) {
  out.clear();
  std::fill_n(out.numbers.begin(), rows, 0.0);
  for (std::size_t i = 0; i < rows; ++i) out.mark(i, Null(Reason::excluded, own));
}

void are_null(std::span<const View> in, Register& out, std::size_t rows) {
  out.clear();
  for (std::size_t i = 0; i < rows; ++i) out.numbers[i] = in[0].null(i) ? 1 : 0;
}

void complete(std::span<const View> in, Register& out, std::size_t rows) {
  out.clear();
  for (std::size_t i = 0; i < rows; ++i) {
    const bool any = std::any_of(in.begin(), in.end(), [&](const View& v) { return bool(v.null(i)); });
    out.numbers[i] = any ? 0 : 1;
  }
}

void limits(std::span<const View> in, Register& out, std::size_t rows, OriginId own) {
  out.clear();
  for (std::size_t i = 0; i < rows; ++i) {
    const Null null = in[0].null(i);
    const bool kept = is_limit(null.reason());
    out.numbers[i] = kept ? in[0].numbers[i] : 0;
    if (!kept) out.mark(i, null ? null : Null(Reason::excluded, own));
  }
}

// These treat nulls in their own way.
void choose(const Instruction& instruction, std::span<const View> in, Register& out, std::size_t rows,
            OriginId own) {
  switch (instruction.op) {
    case Op::select:
      return select(instruction, in, out, rows);
    case Op::fallback:
      return fallback(instruction, in, out, rows);
    case Op::exclude:
      return exclude(instruction, in, out, rows, own);
    case Op::ratio:
      ratio(in, out, rows);
      return mark_infinite(out, rows, own);
    case Op::is_any:
      return is_any(instruction, in, out, rows);
    case Op::is_null:
      return are_null(in, out, rows);
    case Op::complete:
      return complete(in, out, rows);
    case Op::limit:
      return limits(in, out, rows, own);
    default:
      not_computed(instruction.op, "choose");
  }
}

void clamp(std::span<const View> in, Register& out, std::size_t rows, OriginId own) {
  for (std::size_t i = 0; i < rows; ++i)
    out.set_instant(i, std::min(std::max(in[0].instant(i), in[1].instant(i)), in[2].instant(i)));
  mark_where(out, rows, Null(Reason::domain, own),
             [&](std::size_t i) { return in[1].instant(i) > in[2].instant(i); });
}

void agree(const Instruction& instruction, std::span<const View> in, Register& out, std::size_t rows,
           OriginId own) {
  for (std::size_t i = 0; i < rows; ++i) {
    const bool near =
        instruction.on_instants
            ? within_typed(seconds_between(in[0].instant(i), in[1].instant(i)), 0, in[2].numbers[i])
            : within_typed(in[0].numbers[i], in[1].numbers[i], in[2].numbers[i]);
    out.numbers[i] = near ? 1 : 0;
  }
  mark_where(out, rows, Null(Reason::domain, own), [&](std::size_t i) { return in[2].numbers[i] < 0; });
}

void quantiles(const Instruction& instruction, std::span<const View> in, Register& out, std::size_t rows,
               OriginId own) {
  for (std::size_t i = 0; i < rows; ++i) {
    if (!out.has_nulls || !out.nulls[i])
      out.numbers[i] = quantile(instruction.op, in[0].numbers[i], in.size() > 1 ? in[1].numbers[i] : 1);
  }
  mark_where(out, rows, Null(Reason::domain, own), [&](std::size_t i) { return std::isnan(out.numbers[i]); });
  mark_infinite(out, rows, own);
}

void calculate(const Instruction& instruction, std::span<const View> in, Register& out, std::size_t rows,
               OriginId own) {
  pass_nulls(in, out, rows);
  if (instruction.op == Op::clamp) return clamp(in, out, rows, own);
  if (instruction.op == Op::agrees) return agree(instruction, in, out, rows, own);
  if (is_quantile(instruction.op)) return quantiles(instruction, in, out, rows, own);
  if (map(instruction, in, out, rows)) return;
  mark_undefined(instruction.op, in, out, rows, own);
  mark_infinite(out, rows, own);
}

void compare(const Instruction& instruction, std::span<const View> in, Register& out, std::size_t rows) {
  pass_nulls(in, out, rows);
  map(instruction, in, out, rows);
  if (out.has_nulls && (instruction.keeps_limit[0] || instruction.keeps_limit[1]))
    decide_by_limits(instruction, in, out, rows);
}

}  // namespace

bool calculates(Op op) {
  const OpFamily family = family_of(op);
  return (family == OpFamily::arithmetic || family == OpFamily::of_numbers) && op != Op::clamp &&
         op != Op::agrees && !is_quantile(op);
}

bool calculate_known(const Instruction& instruction, std::span<const View> in, Register& out,
                     std::size_t rows) {
  return map(instruction, in, out, rows);
}

void apply(const Instruction& instruction, std::span<const View> in, Register& out, std::size_t rows,
           OriginId own) {
  if (instruction.gives_text) out.texts.resize(kBatchRows);
  switch (family_of(instruction.op)) {
    case OpFamily::leaf:
      if (instruction.op != Op::null_constant) not_computed(instruction.op, "apply");
      return all_null(out, rows, own);
    case OpFamily::arithmetic:
    case OpFamily::of_numbers:
      return calculate(instruction, in, out, rows, own);
    case OpFamily::comparison:
      return compare(instruction, in, out, rows);
    case OpFamily::comparison_of_texts:
      pass_nulls(in, out, rows);
      return text_comparison(in, out, rows, instruction.op == Op::text_equal);
    case OpFamily::logic:
      if (instruction.op == Op::logical_not) return calculate(instruction, in, out, rows, own);
      return logical(in, out, rows, instruction.op == Op::logical_or ? 1 : 0);
    case OpFamily::choice:
      return choose(instruction, in, out, rows, own);
    case OpFamily::of_dates:
    case OpFamily::of_texts:
      pass_nulls(in, out, rows);
      return apply_date_or_text(instruction, in, out, rows, own);
    case OpFamily::along_row:
      return apply_row_reduction(instruction, in, out, rows, own);
    case OpFamily::down_column:
    case OpFamily::cell_of_column:
    case OpFamily::neighbour:
    case OpFamily::so_far:
    case OpFamily::moving:
    case OpFamily::along_column:
    case OpFamily::ranking:
    case OpFamily::of_fit:
      // Stages have computed these before.
      not_computed(instruction.op, "apply");
  }
}

}  // namespace opensum
