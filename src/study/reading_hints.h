// What a researcher may want to say about a table so that more of it is understood.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "table/column.h"
#include "units/unit_system.h"

namespace opensum {

/// A doubt about a table, and what would settle it.
struct ReadingHint {
  std::string column;  ///< the symbol; empty for the whole table
  std::string words;   ///< what was seen
  std::string option;  ///< what to say on the command line
  std::string key;     ///< what to say in a study, under `read` or, for a column, under `columns.SYMBOL`
};

/// The doubts about a table as it was read: units in the first row, a footer, decimal commas, dates in other
/// forms, codes, cells that are no numbers, numbers that often stand for missing ones.
std::vector<ReadingHint> reading_hints(const Table& table, const UnitSystem& units);

}  // namespace opensum
