// The columns that an explanation looks at.
#pragma once

#include "engine/executor.h"

namespace opensum {

/// What must be held to explain a column of a sheet and its cells: the column, everything from which it
/// follows, in whichever sheet, the lines of their rows, which rows links lead to and which gaps were filled.
std::vector<LastWishes> wishes_of_explanation(const StudyRun& run, std::size_t sheet, std::size_t column);

}  // namespace opensum
