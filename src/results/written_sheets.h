// The sheets of a study as they are written.
#pragma once

#include <string>
#include <vector>

#include "engine/executor.h"
#include "files/table_writer.h"
#include "study/prepared_study.h"

namespace opensum {

/// All columns of a sheet as they are written.
std::vector<Held> all_written(const RunSheet& sheet);

/// What is said of the columns of a sheet that were not measured.
std::vector<DerivedNote> derived_notes(const PreparedStudy& prepared, const RunSheet& sheet);

/// The sheets that are to be written in a format.
std::vector<WrittenSheet> sheets_in(const PreparedStudy& prepared, const std::string& format);

}  // namespace opensum
