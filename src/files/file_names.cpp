// The names of the files that a run writes.
#include "files/file_names.h"

#include <set>

#include "files/formats.h"

namespace opensum {

const std::vector<std::string>& formats_of(const SheetModel& sheet, const Study& study) {
  return sheet.write ? *sheet.write : study.write;
}

void check_file_names(const Study& study, Diagnostics& diagnostics) {
  std::set<std::string> taken{kNullsFile, kRecordFile, kReportFile, kMethodsFile};
  if (!study.fits.empty()) taken.insert(kFitsFile);
  for (const SheetModel& sheet : study.sheets) {
    if (sheet.hidden) continue;
    for (const std::string& format : formats_of(sheet, study)) {
      const std::string file = sheet.name + "." + format;
      const WrittenFormat* known = format_named(format);
      const bool of_one_sheet = known != nullptr && known->holds != FileHolds::sheets;
      if (of_one_sheet && taken.contains(file))
        diagnostics.add(Code::file_name_taken, sheet.place, {sheet.name, file});
    }
  }
}

}  // namespace opensum
