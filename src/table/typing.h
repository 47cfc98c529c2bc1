// From cells of text to typed columns: kinds, missing tokens, cells that cannot be read.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "table/column.h"
#include "table/number_text.h"
#include "table/raw_table.h"

namespace opensum {

/// What the researcher says about the cells of a column.
struct CellRules {
  /// Tokens that stand for a missing value; numbers among them match by value.
  std::vector<std::string> missing;
  std::optional<Kind> kind;
  NumberStyle style = {};
  std::string date_format = {};  ///< as for strftime; empty for ISO 8601 alone
  /// Cells may also be written hh:mm:ss; a second is so much in the column's unit. 0 for other columns.
  double second = 0;
};

/// The tokens taken for missing when nothing else is said: empty, NA, N/A, NaN, null, -, -- in any case.
std::vector<std::string> default_missing();

/// Fills a column (its names and unit are the caller's) with the cells: finds the kind unless the rules say
/// it, marks nulls with their reason. Cells of a number, date or truth column that are none become nulls of
/// reason `unreadable` and are listed in the column.
void type_cells(Column& column, const std::vector<std::string_view>& cells,
                const std::vector<std::size_t>& lines, const CellRules& rules);

}  // namespace opensum
