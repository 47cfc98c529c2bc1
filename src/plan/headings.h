// The headers of one table of text: what each column is called and in which unit it is.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "message/diagnostic.h"
#include "model/study.h"
#include "table/header_units.h"
#include "table/raw_table.h"
#include "units/unit_system.h"

namespace opensum {

/// A column's names and unit.
struct Heading {
  std::string header;
  std::string symbol;
  std::string label;
  Unit unit;
  bool unit_stated = false;
  /// What the study says about the column; may be a null pointer.
  const ColumnSettings* settings = nullptr;
  /// What metadata beside the file say about it; may be a null pointer.
  const ColumnMetadata* metadata = nullptr;
};

struct Headings {
  std::vector<Heading> columns;
  /// Symbols that several headers share, and what they are called instead.
  std::map<std::string, std::vector<std::string>> shared_symbols;
  /// Settings without a header for symbols that are no measured columns; equations may define them.
  std::vector<const ColumnSettings*> unmatched;
};

/// Reads the headers of a table as the sheet says. Everything doubtful or wrong is reported.
Headings read_headings(const SheetModel& sheet, const RawTable& raw, const UnitSystem& units,
                       Diagnostics& diagnostics);

/// The unit of a column as its settings say, or else as its header does; faults are reported.
void settle_unit(Heading& heading, const UnitSystem& units, Diagnostics& diagnostics);

/// Where the header of a column stands.
Place header_place(const RawTable& raw, std::size_t column);

}  // namespace opensum
