// The tables of text that a sheet is made of: from files, from the study itself, or only planned rows.
#pragma once

#include <string>
#include <vector>

#include "files/csv_reader.h"
#include "files/text_file.h"
#include "message/diagnostic.h"
#include "model/study.h"
#include "table/raw_table.h"

namespace opensum {

/// A path as the study at `folder` (with its last solidus; empty for the current one) means it.
std::string resolved(const std::string& folder, const std::string& path);

/// Reads what the sheet names, one table per file; empty after a reported error.
std::vector<RawTable> read_sources(const SheetModel& sheet, const std::string& folder, Inputs& inputs,
                                   Diagnostics& diagnostics, Rows rows = Rows::read);

}  // namespace opensum
