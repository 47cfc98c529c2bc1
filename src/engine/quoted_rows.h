// Rows of which something is said, as they are quoted: with file, line and the values of what they follow
// from.
#pragma once

#include <string>
#include <vector>

#include "compute/whole_columns.h"
#include "message/diagnostic.h"
#include "plan/plan.h"

namespace opensum {

/// Rows, the first few of them in words.
struct QuotedRows {
  RowList rows;
  std::vector<std::string> lines;  ///< in step with `rows.rows`

  /// Adds rows that follow; their first has the place `first_row` among all.
  void add(const QuotedRows& next, std::size_t first_row);
  /// The lines, and the rest as a count.
  std::vector<std::string> details() const;
};

/// A row of a table in words, with the inputs of a program.
std::string quoted_row(const SheetPlan& plan, const Table& table, const Program& program, std::size_t row);

/// Puts rows of a table into words, with the inputs of a program.
QuotedRows quoted(const SheetPlan& plan, const Table& table, const Program& program, RowList rows);

/// The rows in which a column is null for a reason that began there.
RowList own_nulls(const Column& column, Reason reason);

/// Reports rows of a derived column, if there are any.
void report_rows(const DerivedColumn& derived, const QuotedRows& rows, Code code, Diagnostics& diagnostics);

}  // namespace opensum
