// Sheets that are computed in their database: what comes back of them.
#pragma once

#include <string>
#include <vector>

#include "files/database_tables.h"
#include "message/diagnostic.h"
#include "study/prepared_study.h"

namespace opensum {

/// Reports that a sheet of a name cannot be computed there, and why.
void refuse_in_database(const SheetModel& sheet, const std::string& name, const std::string& reason,
                        const Place& place, Diagnostics& diagnostics);

/// Computes all such sheets: what is counted of them stands in them afterwards, with the columns that
/// figures, fits and other sheets look at and all of those that come here; points of figures may be thinned.
/// Tables of the same server that they are written to are filled there. False after a reported error.
bool compute_in_database(PreparedStudy& prepared, DatabaseTables& tables, Diagnostics& diagnostics);

/// The SQL that does it, to be read. Empty after a reported error.
std::string sql_of_study(PreparedStudy& prepared, Diagnostics& diagnostics);

}  // namespace opensum
