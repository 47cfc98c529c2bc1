// Second step of a run: the derived columns of every sheet.
#pragma once

#include "message/diagnostic.h"
#include "run/prepare.h"

namespace opensum {

/// Computes all derived columns. Where the study takes a division by zero or a left domain for an error, the
/// rows are reported.
void compute(PreparedStudy& prepared, Diagnostics& diagnostics);

}  // namespace opensum
