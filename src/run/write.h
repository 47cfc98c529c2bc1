// Last step of a run: everything that is written, whole or not at all, and the facts for the summary.
#pragma once

#include "files/formats.h"
#include "files/output.h"
#include "message/diagnostic.h"
#include "report/summary.h"
#include "study/prepared_study.h"

namespace opensum {

/// Computes the study and writes the sheets, their metadata, nulls.csv, the figures and record.json into the
/// study's output folder. Gives the facts of the run, with the paths written. On an error nothing is written.
/// What sampling found is written and reported with the rest.
RunFacts write_results(PreparedStudy& prepared, Diagnostics& diagnostics,
                       std::optional<SamplingFacts> sampling = std::nullopt);

/// The facts of a computed study.
RunFacts gather_facts(const PreparedStudy& prepared);

}  // namespace opensum
