// A pass over the rows of one sheet, block after block.
#pragma once

#include "engine/pass_work.h"
#include "message/diagnostic.h"

namespace opensum {

/// Goes over the rows of the sheet. Columns that are held have their values in its table afterwards; of the
/// last pass the facts, claims, fills and remarks stand in the sheet, and rows that are errors are reported.
void run_pass(StudyRun& run, const Known& known, BlockSource& source, const PassWork& work,
              Diagnostics& diagnostics);

}  // namespace opensum
