// Which columns of a study something uses: an equation, a rule for gaps, a condition, a link, a fit, a
// figure, the order of rows, or a sheet that takes them over and uses them there.
#pragma once

#include <vector>

#include "engine/study_run.h"

namespace opensum {

/// By sheet and column; `of_figures` are those that figures use. What is only read and written again is used
/// by nothing.
using UsedColumns = std::vector<std::vector<bool>>;
UsedColumns used_columns(const StudyRun& run, UsedColumns of_figures);
/// The same where figures do not count.
UsedColumns used_columns(const StudyRun& run);

}  // namespace opensum
