// Second step of a run: the fills, derived columns and claims of every sheet.
#pragma once

#include "message/diagnostic.h"
#include "run/prepare.h"

namespace opensum {

/// What stays in memory after computing: everything, or what is written. Values that links and groups looked
/// up on the way are let go as soon as nothing reads them any more.
enum class Memory : std::uint8_t { all, needed };

/// Computes all fills and derived columns and tests the claims. Where the study takes a division by zero or a
/// left domain for an error, the rows are reported.
void compute(PreparedStudy& prepared, Memory memory, Diagnostics& diagnostics);

/// Reports the claims that are broken or undecided, with their rows.
void report_claims(const PreparedStudy& prepared, Diagnostics& diagnostics);

}  // namespace opensum
