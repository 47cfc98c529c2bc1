// The lines of nulls.csv: every null of a sheet, filled or not, row by row.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "engine/block_values.h"
#include "message/diagnostic.h"

namespace opensum {

/// The header of such a file.
constexpr const char* kNullsHeader = "sheet,row,line,column,state,reason,rule,value,began\n";

class NullsText {
 public:
  NullsText(const StudyRun& study, const RunSheet& sheet);

  /// Appends the nulls of the rows of a block: sheet, row as written, line of the source, column, state,
  /// reason, rule, value (the cell as read, or what filled it) and the cell where it began. `ends`, where
  /// given, takes up where the lines of each row end.
  void append(std::string& out, const ComputedBlock& block, std::vector<std::size_t>* ends) const;

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
    std::size_t row = 0;    ///< in the block
    std::size_t place = 0;  ///< at which it is written
  };

  void append_null(std::string& out, const ComputedBlock& block, const Cell& cell, Null null) const;
  void append_origin(std::string& out, Null null, std::size_t row) const;
  /// The rule that filled a gap, or those that did not; the value goes to `value`.
  std::string rule_of(const NullColumn& own, const Table& table, const std::vector<FillResult>& fills,
                      std::size_t row, bool& filled, std::string& value) const;

  const StudyRun& study_;
  const RunSheet& sheet_;
  std::string sheet_field_;
  std::vector<NullColumn> columns_;
  std::map<std::string, const RunSheet*> by_name_;
  /// By origin: the cell where a null began, but for its row, where the row is that of the null.
  std::vector<std::string> began_;
};

/// Warns of derived columns that are null in every row, which are seldom meant.
void warn_of_all_null(const StudyRun& study, Diagnostics& diagnostics);

}  // namespace opensum
