// Which columns of a study something uses: an equation, a rule for gaps, a condition, a link, a fit, a
// figure, the order of rows, or a sheet that takes them over and uses them there.
#pragma once

#include <vector>

#include "engine/executor.h"

namespace opensum {

/// Marks them in each sheet. What is only read and written again is used by nothing.
void find_used_columns(StudyRun& run, const std::vector<LastWishes>& of_figures);

}  // namespace opensum
