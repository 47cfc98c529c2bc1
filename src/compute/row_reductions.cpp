// The reductions along a row: row_sum, row_mean, … over the operands of one row.
#include <algorithm>
#include <array>
#include <cmath>

#include "compute/kernels.h"
#include "compute/statistics.h"
#include "equation/operation.h"
#include "table/decimal.h"

namespace opensum {
namespace {

double reduced(Op op, std::vector<double>& values) {
  switch (op) {
    case Op::row_sum:
      return sum_of(values);
    case Op::row_product: {
      double product = 1;
      for (const double value : values) product *= value;
      return product;
    }
    case Op::row_mean:
      return mean_of(values);
    case Op::row_median:
      return median_of(values);
    case Op::row_min:
      return *std::min_element(values.begin(), values.end());
    case Op::row_max:
      return *std::max_element(values.begin(), values.end());
    case Op::row_range:
      return *std::max_element(values.begin(), values.end()) -
             *std::min_element(values.begin(), values.end());
    case Op::row_sd:
      return deviation_of(values);
    default:
      not_computed(op, "reduced");
  }
}

// The same of dates.
void reduce_dates(Op op, std::vector<Instant>& known, Register& out, std::size_t row) {
  const auto [least, greatest] = std::minmax_element(known.begin(), known.end());
  switch (op) {
    case Op::row_min:
      return out.set_instant(row, *least);
    case Op::row_max:
      return out.set_instant(row, *greatest);
    case Op::row_range:
      return out.set_instant(row, {seconds_between(*least, *greatest), 0});
    case Op::row_mean:
      return out.set_instant(row, mean_of(known));
    case Op::row_median:
      return out.set_instant(row, median_of(known));
    case Op::row_sd: {
      std::vector<double> distances;
      distances.reserve(known.size());
      for (const Instant& instant : known) distances.push_back(seconds_between(known.front(), instant));
      return out.set_instant(row, {deviation_of(distances), 0});
    }
    default:
      not_computed(op, "reduce_dates");
  }
}

// Index of the least or greatest known operand, the first listed on a tie.
std::size_t extreme(const Instruction& instruction, std::span<const View> in, std::size_t row) {
  const int wanted = instruction.op == Op::row_min_name ? -1 : 1;
  const auto compared = [&](const View& a, const View& b) {
    if (!instruction.on_instants) return compare_typed(a.numbers[row], b.numbers[row]);
    return a.instant(row) < b.instant(row) ? -1 : a.instant(row) > b.instant(row) ? 1 : 0;
  };
  std::size_t best = in.size();
  for (std::size_t k = 0; k < in.size(); ++k) {
    if (in[k].null(row)) continue;
    if (best == in.size() || compared(in[k], in[best]) == wanted) best = k;
  }
  return best;
}

// Whether sums go over one operand after the other: where all operands are known in all rows.
bool are_all_known(const Instruction& instruction, std::span<const View> in, std::size_t least) {
  if (instruction.on_instants || (instruction.op != Op::row_sum && instruction.op != Op::row_mean))
    return false;
  return in.size() >= least && std::all_of(in.begin(), in.end(), [](const View& view) {
           return view.nulls == nullptr && view.numbers != nullptr;
         });
}

// Sums or means of rows without nulls, by the steps of CompensatedSum, which the compiler takes for several
// rows at once. Rows whose sum grows beyond the largest double on its way are left to that.
void add_operands(Op op, std::span<const View> in, Register& out, std::size_t rows, OriginId own) {
  std::array<double, kBatchRows> sums{};
  std::array<double, kBatchRows> corrections{};
  for (const View& view : in) {
    for (std::size_t i = 0; i < rows; ++i) {
      const double value = view.numbers[i];
      const double before = sums[i];
      const double sum = before + value;
      const bool is_larger = std::fabs(before) >= std::fabs(value);
      corrections[i] += ((is_larger ? before : value) - sum) + (is_larger ? value : before);
      sums[i] = sum;
    }
  }
  const auto count = static_cast<double>(in.size());
  std::vector<double> values;
  for (std::size_t i = 0; i < rows; ++i) {
    const double sum = sums[i] + corrections[i];
    out.numbers[i] = op == Op::row_sum ? sum : sum / count;
    if (std::isfinite(sums[i]) && std::isfinite(out.numbers[i])) continue;
    values.clear();
    for (const View& view : in) values.push_back(view.numbers[i]);
    out.numbers[i] = reduced(op, values);
    if (std::isfinite(out.numbers[i])) continue;
    out.numbers[i] = 0;
    out.mark(i, Null(Reason::overflow, own));
  }
}

}  // namespace

void apply_row_reduction(const Instruction& instruction, std::span<const View> in, Register& out,
                         std::size_t rows, OriginId own) {
  out.clear();
  const Op op = instruction.op;
  const bool names = op == Op::row_min_name || op == Op::row_max_name;
  const std::size_t least =
      std::max<std::size_t>(static_cast<std::size_t>(instruction.nulls.at_least), op == Op::row_sd ? 2 : 1);
  if (are_all_known(instruction, in, least)) return add_operands(op, in, out, rows, own);
  std::vector<double> known;
  std::vector<Instant> dates;
  known.reserve(in.size());
  for (std::size_t i = 0; i < rows; ++i) {
    known.clear();
    dates.clear();
    Null first_null;
    for (const View& view : in) {
      if (const Null null = view.null(i)) {
        if (!first_null) first_null = null;
      } else if (view.numbers != nullptr) {
        known.push_back(view.numbers[i]);
        if (instruction.on_instants) dates.push_back(view.instant(i));
      } else {
        known.push_back(0);
      }
    }
    if (names) {
      out.texts[i] = {};
    } else {
      out.numbers[i] = 0;
    }
    if (op == Op::row_count) {
      out.numbers[i] = static_cast<double>(known.size());
    } else if (first_null && !instruction.nulls.skip) {
      out.mark(i, first_null);
    } else if (known.size() < least) {
      out.mark(i, Null(Reason::too_few, own));
    } else {
      out.left_out += in.size() - known.size();
      if (known.size() < in.size() && out.rows_left_out != nullptr) (*out.rows_left_out)[i] = true;
      if (!names && instruction.on_instants) {
        reduce_dates(op, dates, out, i);
      } else if (!names) {
        out.numbers[i] = reduced(op, known);
        if (!std::isfinite(out.numbers[i])) {
          out.numbers[i] = 0;
          out.mark(i, Null(Reason::overflow, own));
        }
      } else {
        out.texts[i] = instruction.names[extreme(instruction, in, i)];
      }
    }
  }
}

}  // namespace opensum
