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

/// Whether an operation calculates a number from numbers: null where one of these is, or where it is
/// undefined or infinite.
bool calculates(Op op);

/// Applies such an operation where no operand is null; false where a result is undefined or infinite.
bool calculate_known(const Instruction& instruction, std::span<const View> in, Register& out,
                     std::size_t rows);

/// As `apply`, for the reductions along a row.
void apply_row_reduction(const Instruction& instruction, std::span<const View> in, Register& out,
                         std::size_t rows, OriginId own);

/// As `apply`, for functions of dates and text; `out` holds the nulls passed on from the operands already.
void apply_date_or_text(const Instruction& instruction, std::span<const View> in, Register& out,
                        std::size_t rows, OriginId own);

}  // namespace opensum
