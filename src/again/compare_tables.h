// Two tables compared, row by row or by keys.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "base/result.h"
#include "message/diagnostic.h"
#include "plan/quantity.h"
#include "report/comparison.h"
#include "study/prepared_study.h"

namespace opensum {

/// How tables are compared.
struct CompareHow {
  std::vector<Passage> by;  ///< columns by which a row of one finds that of the other; by place without
  /// Numbers that are nearer to one another than this are the same: a quantity for the columns of its
  /// dimension, a plain number as a share of the greater of two values.
  std::optional<Quantity> within;
};

/// The first sheet of a study with all columns that are written, held; a null pointer after a reported error.
[[nodiscard]] std::unique_ptr<PreparedStudy> held_table(SheetModel sheet, Diagnostics& diagnostics);

/// Whether a quantity says of some column how near its values must be.
bool fits_some_column(const PreparedStudy& table, const Quantity& within);

/// What two tables have unlike. Values of the second are converted to the units of the first; what is only
/// off by rounding in a conversion (1e-11 of the value) is the same. Keys that are not in both, or of two
/// rows, are reported, and so is a quantity that fits no column.
Result<TableComparison> compare_tables(const std::string& name, const PreparedStudy& before,
                                       const PreparedStudy& after, const CompareHow& how,
                                       Diagnostics& diagnostics);

}  // namespace opensum
