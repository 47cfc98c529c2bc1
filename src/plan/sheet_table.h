// From tables of text and the study's words about their columns to typed, named columns with units.
#pragma once

#include <map>

#include "message/diagnostic.h"
#include "model/study.h"
#include "table/column.h"
#include "table/raw_table.h"
#include "table/survey.h"
#include "units/unit_system.h"

namespace opensum {

/// The measured columns of a sheet, and the symbols that several headers share.
struct SheetTable {
  Table table;
  std::map<std::string, std::vector<std::string>> shared_symbols;
  /// Settings without a header for symbols that are no measured columns; equations may define them.
  std::vector<const ColumnSettings*> unmatched;
  /// The rows, where they are left in the file: the columns then have none of them.
  std::shared_ptr<LeftInFile> left_in_file;
  /// False where rows that are left in the file must be read by the careful reader after all.
  bool rows_are_plain = true;
};

/// The column that says from which of several files a row comes.
constexpr const char* kSourceColumn = "source_file";

/// Reads headers and cells as the sheet says. Several tables are put below one another, column by column of
/// the same symbol: one that a table lacks is null there, with a warning, and its unit must be the same in
/// all. Where the sheet names a list or a pattern of files, a text column `source_file` says from which a row
/// comes. Each column gets an origin for the nulls that begin in it. Rows that a single table leaves in its
/// file stay there; all of them or the first are gone over to find the kinds. The cells of tables are let go
/// as they are taken up.
SheetTable build_table(const SheetModel& sheet, std::vector<RawTable> tables, const UnitSystem& units,
                       Origins& origins, LookedAt look, Diagnostics& diagnostics);

}  // namespace opensum
