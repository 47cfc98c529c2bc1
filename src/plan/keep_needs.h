// What the condition for the rows of a sheet needs, before it is checked.
#pragma once

#include <string>
#include <vector>

#include "equation/names_used.h"
#include "model/study.h"
#include "table/column.h"

namespace opensum {

/// The names in a condition and in the equations that it needs, and the columns of other sheets in these.
struct KeepNeeds {
  std::vector<std::string> names;
  std::vector<MemberUse> members;
};

/// Of the `keep` of a sheet with these measured columns; nothing of one that cannot be read, which is
/// reported elsewhere.
KeepNeeds needs_of_keep(const SheetModel& sheet, const Table& table);

/// Whether they name a column that a link of the sheet leads to. The rows of such a sheet are known only
/// while the study is computed.
bool keep_looks_through_links(const SheetModel& sheet, const Table& table);

}  // namespace opensum
