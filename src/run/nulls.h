// The lines of nulls.csv: every null of a sheet, filled or not, row by row.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "run/prepare.h"

namespace opensum {

/// The header of such a file.
constexpr const char* kNullsHeader = "sheet,row,line,column,state,reason,rule,value,began\n";

class NullsText {
 public:
  NullsText(const PreparedStudy& study, const RunSheet& sheet);

  /// Appends the nulls of those rows that are written at the places from `begin` to `end` of a table that has
  /// the columns of the sheet: sheet, row as written, line of the source, column, state, reason, rule, value
  /// (the cell as read, or what filled it) and the cell where it began. `fills` are in step with the plan's.
  /// Where the table is only a part of the sheet, its first row is the one at `first_row`.
  void append(std::string& out, const Table& table, const std::vector<FillResult>& fills, std::size_t begin,
              std::size_t end, std::size_t first_row) const;

 private:
  struct NullColumn {
    std::size_t index = 0;
    std::string field;               ///< its symbol
    std::vector<std::size_t> fills;  ///< of its gaps
  };
  /// A null of the row at hand.
  struct Cell {
    const NullColumn& own;
    const Column& column;
    std::size_t row = 0;
    std::size_t place = 0;
  };

  void append_null(std::string& out, const Table& table, const std::vector<FillResult>& fills,
                   const Cell& cell, Null null, std::size_t first_row) const;
  void append_origin(std::string& out, Null null, std::size_t row) const;
  /// The rule that filled a gap, or those that did not; the value goes to `value`.
  std::string rule_of(const NullColumn& own, const Table& table, const std::vector<FillResult>& fills,
                      std::size_t row, bool& filled, std::string& value) const;

  const PreparedStudy& study_;
  const RunSheet& sheet_;
  std::string sheet_field_;
  std::vector<NullColumn> columns_;
  std::map<std::string, const RunSheet*> by_name_;
  /// By origin: the cell where a null began, but for its row, where the row is that of the null.
  std::vector<std::string> began_;
};

/// Warns of derived columns that are null in every row, which are seldom meant.
void warn_of_all_null(const PreparedStudy& study, Diagnostics& diagnostics);

/// Appends the nulls of a sheet that is held in memory to an open file. The error number of a failure, else
/// 0.
int write_nulls(const PreparedStudy& study, const RunSheet& sheet, int descriptor);

}  // namespace opensum
