// Uncertainties by sampling: the whole study computed many times, each with what is uncertain drawn at
// random.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

#include "base/result.h"
#include "message/diagnostic.h"
#include "model/study_changes.h"
#include "report/summary.h"

namespace opensum {

struct SamplingOptions {
  std::size_t trials = 10'000;
  std::uint64_t seed = 1;
};

/// Propagates distributions by JCGM 101:2008, clause 7: of every derived value with an uncertainty the mean,
/// the standard deviation and the shortest interval of 95 %, and by clause 8 whether the interval of the
/// linear propagation agrees with the symmetric one found here, to two digits of the uncertainty and what so
/// few trials leave open. The same for the same seed on any number of threads. Nothing after a reported
/// error, as where nothing is stated, or where so many values of so many trials are more than memory should
/// hold.
Result<SamplingFacts> sample_study(const std::string& path, const SamplingOptions& options,
                                   const StudyChanges& changes, Diagnostics& diagnostics);

}  // namespace opensum
