// Sheets that have the rows of another sheet: which rows, and the columns taken over.
#pragma once

#include "engine/study_run.h"
#include "message/diagnostic.h"

namespace opensum {

/// Finds the rows that a sheet takes from its source, in the order in which the source is written, or one for
/// each group of them. The columns that decide on it have their values.
void take_rows(RunSheet& sheet, const RunSheet& source, Origins& origins, Diagnostics& diagnostics);

/// Gives a column that is taken over its values.
void take_column(RunSheet& sheet, const RunSheet& source, const TakenColumn& taken, Origins& origins);

}  // namespace opensum
