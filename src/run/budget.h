// The budget of an uncertainty: what each unknown contributes to it.
#pragma once

#include <string>

#include "engine/study_run.h"

namespace opensum {

/// The budget of a cell of a column that has an uncertainty, a line for each source, the largest first; empty
/// for any other. What the sources contribute must have been kept for the column. `shown` gives the value of
/// a column in the row, with its unit.
std::string budget_text(const RunSheet& sheet, std::size_t column, std::size_t row);

}  // namespace opensum
