// Measured values as a trial draws them.
#pragma once

#include "engine/study_run.h"

namespace opensum {

/// In a trial: moves the measured values of all sheets, whose tables are in memory, by what is drawn for
/// them.
void draw_measured(StudyRun& run);

}  // namespace opensum
