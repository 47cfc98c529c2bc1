// The lines of nulls.csv: the nulls of a sheet, filled or not, row by row.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "base/text_buffer.h"
#include "engine/block_values.h"
#include "message/diagnostic.h"

namespace opensum {

/// The header of such a file.
constexpr const char* kNullsHeader = "sheet,row,line,column,state,reason,rule,value,began\n";

class NullsText {
 public:
  /// Of measured columns that nothing uses nulls are not listed, unless the study asks for all.
  NullsText(const StudyRun& study, const RunSheet& sheet);

  /// Appends the nulls of the rows of a block: sheet, row as written, line of the source, column, state,
  /// reason, rule, value (the cell as read, or what filled it) and the cell where it began. `ends`, where
  /// given, takes up where the lines of each row end.
  void append(TextBuffer& out, const ComputedBlock& block, std::vector<std::size_t>* ends) const;

 private:
  struct NullColumn {
    std::size_t index = 0;
    std::string field;               ///< its symbol
    std::vector<std::size_t> fills;  ///< of its gaps
    /// By reason: column, state, reason and rule of a null that no rule fills.
    std::vector<std::string> plain;
  };
  /// The nulls of a column in the rows of a chunk.
  struct ChunkNulls {
    const NullColumn* own = nullptr;
    const Null* nulls = nullptr;
    const std::string_view* source = nullptr;  ///< a null pointer without
  };
  /// What all nulls of a row begin with: sheet, row as written and line; and the row alone.
  struct RowFields {
    TextBuffer begin;
    std::string place;
  };

  void begin_row(const Table& table, std::size_t row, std::size_t place, RowFields& fields) const;
  void append_null(TextBuffer& out, const ComputedBlock& block, const ChunkNulls& cells, std::size_t row,
                   const RowFields& fields) const;
  void append_origin(TextBuffer& out, Null null, std::size_t row, const RowFields& fields) const;
  /// The rule that filled a gap, or those that did not; the value goes to `value`.
  std::string rule_of(const NullColumn& own, const Table& table, const std::vector<FillResult>& fills,
                      std::size_t row, bool& filled, std::string& value) const;

  const StudyRun& study_;
  const RunSheet& sheet_;
  std::string sheet_field_;
  std::vector<NullColumn> columns_;
  std::map<std::string, const RunSheet*> by_name_;
  /// By origin: the cell where a null began, but for its row, where that is the row of the null in this
  /// sheet.
  std::vector<std::string> began_;
  bool begins_in_row(Null null) const {
    return null.origin() < began_.size() && !began_[null.origin()].empty();
  }
};

/// Warns of derived columns that are null in every row, which are seldom meant.
void warn_of_all_null(const StudyRun& study, Diagnostics& diagnostics);

}  // namespace opensum
