// Second step of a run: the fills, derived columns and claims of every sheet.
#pragma once

#include "message/diagnostic.h"
#include "run/prepare.h"

namespace opensum {

/// Computes all fills and derived columns and tests the claims. Where the study takes a division by zero or a
/// left domain for an error, the rows are reported.
void compute(PreparedStudy& prepared, Diagnostics& diagnostics);

/// Reports the claims that are broken or undecided, with their rows.
void report_claims(const PreparedStudy& prepared, Diagnostics& diagnostics);

}  // namespace opensum
