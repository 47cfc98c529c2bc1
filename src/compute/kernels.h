// What each operation does to a batch of rows.
#pragma once

#include <span>

#include "compute/batch.h"
#include "equation/program.h"

namespace opensum {

/// Applies one instruction to `rows` rows. `own` is the origin of nulls that begin here. Nulls are passed on
/// from the leftmost null operand; no result is infinite or NaN: such rows become nulls of reason overflow.
void apply(const Instruction& instruction, std::span<const View> in, Register& out, std::size_t rows,
           OriginId own);

/// The same for the reductions along a row.
void apply_row_reduction(const Instruction& instruction, std::span<const View> in, Register& out,
                         std::size_t rows, OriginId own);

/// Sums with the correction of Neumaier (1974), which keeps the digits that plain summing of values of
/// unlike size loses.
class CompensatedSum {
 public:
  void add(double value);
  double value() const { return sum_ + correction_; }

 private:
  double sum_ = 0;
  double correction_ = 0;
};

}  // namespace opensum
