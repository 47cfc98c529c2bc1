// The names of the files that a run writes.
#include "files/file_names.h"

#include <fmt/format.h>

#include <map>
#include <set>

#include "files/database_address.h"
#include "files/formats.h"
#include "files/text_file.h"

namespace opensum {

const std::vector<std::string>& formats_of(const SheetModel& sheet, const Study& study) {
  return sheet.write ? *sheet.write : study.write;
}

bool is_relative_path(const std::string& path) {
  return path != "-" && path != kStandardInput && !path.starts_with('/') && !is_database_address(path);
}

void check_file_names(const Study& study, Diagnostics& diagnostics) {
  std::set<std::string> taken{kNullsFile, kRecordFile, kReportFile, kMethodsFile};
  if (!study.fits.empty()) taken.insert(kFitsFile);
  std::map<std::string, std::vector<std::string>> tables;
  for (const SheetModel& sheet : study.sheets) {
    if (sheet.hidden) continue;
    for (const std::string& format : formats_of(sheet, study)) {
      if (is_database_address(format)) {
        tables[table_for_sheet(format, sheet.name)].push_back(sheet.name);
        continue;
      }
      const std::string file = sheet.name + "." + format;
      const WrittenFormat* known = format_named(format);
      const bool of_one_sheet = known != nullptr && known->holds != FileHolds::sheets;
      if (of_one_sheet && taken.contains(file))
        diagnostics.add(Code::file_name_taken, sheet.place, {sheet.name, file});
    }
  }
  for (const auto& [table, sheets] : tables) {
    if (sheets.size() > 1)
      diagnostics.add(Code::database_table_shared,
                      {fmt::format("{}", fmt::join(sheets, ", ")), without_password(table)});
  }
}

}  // namespace opensum
