// The files of a study's sheets, which are written while these are computed where their format takes up rows
// as they come.
#pragma once

#include "engine/executor.h"
#include "files/database_tables.h"
#include "files/formats.h"
#include "files/output.h"
#include "message/diagnostic.h"
#include "study/prepared_study.h"

namespace opensum {

/// Computes all sheets and writes their files, and nulls.csv; false after a reported error.
bool write_sheets(PreparedStudy& prepared, Executor& executor, OutputFiles& files, DatabaseTables& databases,
                  Diagnostics& diagnostics);

/// Completes a file of computed sheets, and says what came of it; false after a reported error.
bool finish_tables(GrowingTables& tables, const WrittenFormat& format,
                   const std::vector<WrittenSheet>& sheets, const std::string& path,
                   Diagnostics& diagnostics);

}  // namespace opensum
