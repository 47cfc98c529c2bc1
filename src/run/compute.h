// Second step of a run without files: everything computed, and what commands look at held in memory.
#pragma once

#include "engine/executor.h"
#include "message/diagnostic.h"
#include "study/prepared_study.h"

namespace opensum {

/// Computes all sheets and fits. What is wished for is held in their tables afterwards; it goes by sheet.
void compute(PreparedStudy& prepared, const std::vector<LastWishes>& wishes, Diagnostics& diagnostics);

/// Reports the claims that are broken or undecided, with their rows.
void report_claims(const PreparedStudy& prepared, Diagnostics& diagnostics);

}  // namespace opensum
