// What the report page shows of a computed study.
#pragma once

#include "report/page.h"
#include "run/figures.h"

namespace opensum {

/// The head of the table of a sheet's first rows.
ReportTable table_head(const RunSheet& sheet);

/// Adds the first rows of a table, as long as there are only a few.
void append_first_rows(ReportTable& shown, const Table& table);

/// Gathers the first rows of each sheet, the equations as mathematics and as written, and the figures.
ReportContent report_content(const PreparedStudy& prepared, const RunFacts& facts,
                             const std::vector<BuiltFigure>& figures);

}  // namespace opensum
