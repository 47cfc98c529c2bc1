// What the report page shows of a computed study.
#pragma once

#include "report/page.h"
#include "run/figures.h"

namespace opensum {

/// Gathers the first rows of each sheet, the equations as mathematics and as written, and the figures.
ReportContent report_content(const PreparedStudy& prepared, const RunFacts& facts,
                             const std::vector<BuiltFigure>& figures);

}  // namespace opensum
