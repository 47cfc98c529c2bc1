// From a table of text and the study's words about its columns to typed, named columns with units.
#pragma once

#include <map>

#include "message/diagnostic.h"
#include "study/model.h"
#include "table/column.h"
#include "table/raw_table.h"
#include "units/unit_system.h"

namespace opensum {

/// The measured columns of a sheet, and the symbols that several headers share.
struct SheetTable {
  Table table;
  std::map<std::string, std::vector<std::string>> shared_symbols;
  /// Settings without a header for symbols that are no measured columns; equations may define them.
  std::vector<const ColumnSettings*> unmatched;
};

/// Reads headers and cells as the sheet says. Each column gets an origin for the nulls that begin in it.
SheetTable build_table(const SheetModel& sheet, const RawTable& raw, const UnitSystem& units,
                       Origins& origins, Diagnostics& diagnostics);

}  // namespace opensum
