// Where the sheets of a study are computed.
#include "study/where_computed.h"

#include <algorithm>

#include "files/database_address.h"
#include "files/file_names.h"

namespace opensum {

bool computes_in_database(const PreparedStudy& prepared) {
  return std::any_of(prepared.sheets.begin(), prepared.sheets.end(),
                     [](const auto& sheet) { return sheet->in_database; });
}

bool comes_here(const PreparedStudy& prepared, const RunSheet& sheet) {
  if (sheet.model->hidden) return false;
  // As many rows as there are there come only where that is asked for.
  if (!sheet.plan.grouped && !sheet.model->write) return false;
  const std::vector<std::string>& formats = formats_of(*sheet.model, prepared.study);
  return sheet.plan.grouped || std::any_of(formats.begin(), formats.end(),
                                           [](const std::string& f) { return !is_database_address(f); });
}

}  // namespace opensum
