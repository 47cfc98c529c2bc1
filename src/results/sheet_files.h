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

/// Says what came of a file of sheets; false after a reported error.
bool report_tables(const WrittenTables& written, const std::string& path, Diagnostics& diagnostics);

/// Stages a file of computed sheets in a format that holds several; false after a reported error.
bool write_tables(const std::string& path, const WrittenFormat& format,
                  const std::vector<WrittenSheet>& sheets, OutputFiles& files, Diagnostics& diagnostics);

}  // namespace opensum
