// What a condition for rows looks up in other sheets before anything is computed.
#pragma once

#include <functional>

#include "engine/study_run.h"

namespace opensum {

/// Adds to the table of a condition the columns of other sheets that it names by way of links, row by row:
/// measured ones found by measured keys, under the name LINK.COLUMN. What is not of that kind is left out,
/// and the condition then is refused. `chosen` gives a sheet with its rows chosen, or a null pointer.
void add_linked_columns(const SheetModel& sheet, SheetTable& table,
                        const std::function<const RunSheet*(const std::string&)>& chosen,
                        const PlanContext& context);

}  // namespace opensum
