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

/// The same for functions of dates and text; `out` holds the nulls passed on from the operands already.
void apply_date_or_text(const Instruction& instruction, std::span<const View> in, Register& out,
                        std::size_t rows, OriginId own);

}  // namespace opensum
