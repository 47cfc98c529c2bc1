// Sheets that are computed in their database: what comes back of them.
#pragma once

#include <string>
#include <vector>

#include "engine/executor.h"
#include "files/database_tables.h"
#include "message/diagnostic.h"
#include "run/prepared_study.h"

namespace opensum {

/// Whether anything of a study is computed in a database.
bool computes_in_database(const PreparedStudy& prepared);

/// Whether the rows of a sheet are to come here: it is written here, or has one row for each group of others.
bool comes_here(const PreparedStudy& prepared, const RunSheet& sheet);

/// Computes all such sheets: what is counted of them stands in them afterwards, with the columns that
/// figures, fits and other sheets look at and all of those that come here. Tables of the same server that
/// they are written to are filled there. False after a reported error.
bool compute_in_database(PreparedStudy& prepared, const std::vector<LastWishes>& wishes,
                         DatabaseTables& tables, Diagnostics& diagnostics);

/// The SQL that does it, to be read. Empty after a reported error.
std::string sql_of_study(PreparedStudy& prepared, Diagnostics& diagnostics);

}  // namespace opensum
