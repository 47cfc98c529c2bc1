// The names of the files that a run writes, and whether two of them would be the same.
#pragma once

#include <string>

#include "message/diagnostic.h"
#include "model/study.h"

namespace opensum {

constexpr const char* kNullsFile = "nulls.csv";
constexpr const char* kFitsFile = "fits.csv";
constexpr const char* kSamplingFile = "monte-carlo.csv";
constexpr const char* kRecordFile = "record.json";
constexpr const char* kReportFile = "report.html";
constexpr const char* kMethodsFile = "methods.tex";

/// The formats a sheet is written in: its own or those of the study.
const std::vector<std::string>& formats_of(const SheetModel& sheet, const Study& study);

/// Whether a path depends on the folder from which it is seen: not that of standard input, an absolute one or
/// the address of a database.
bool is_relative_path(const std::string& path);

/// Reports sheets whose file would take the name of one that a run writes itself.
void check_file_names(const Study& study, Diagnostics& diagnostics);

}  // namespace opensum
