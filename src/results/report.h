// What the report page shows of a computed study.
#pragma once

#include "plot/figures.h"
#include "report/page.h"

namespace opensum {

/// Gathers the first rows of each sheet, the equations as mathematics and as written, and the figures.
ReportContent report_content(const PreparedStudy& prepared, const RunFacts& facts,
                             const std::vector<BuiltFigure>& figures);

}  // namespace opensum
