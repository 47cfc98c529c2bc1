// Finding out what the columns of a table are whose rows are left in their file.
#pragma once

#include <memory>
#include <vector>

#include "table/column.h"
#include "table/row_source.h"
#include "table/typing.h"

namespace opensum {

/// The rows of a table that are left in their file.
struct LeftInFile {
  std::string name;  ///< of the file, as shown in messages
  std::shared_ptr<const RowSource> source;
  std::vector<RowBlock> blocks;
  /// How the cells of each of its columns are read.
  std::vector<CellRules> rules;
  /// Which rows are kept; all where it is empty.
  std::vector<bool> kept;

  /// Leaves only some of the rows, of which none was left out before.
  void keep(std::vector<bool> wanted);

  std::size_t rows() const { return blocks.empty() ? 0 : blocks.back().first_row + blocks.back().rows; }
};

/// Goes over all rows once, or twice for columns of dates, and finds the blocks, and the kind of each column
/// and its cells that cannot be read. `columns` are those of the file, in its order. False where the rows are
/// not as plain as they must be; the columns are not to be used then.
bool survey_rows(LeftInFile& left, const std::vector<Column*>& columns);

/// Reads the rows of a block as text, but for those that are not kept.
void read_block(const LeftInFile& left, const RowBlock& block, RawRows& rows);

/// Reads all rows: the lines of the rows, and of each column of the file its chunks. Gives what their views
/// look into.
std::shared_ptr<const void> load_rows(const LeftInFile& left, const std::vector<Column*>& columns,
                                      std::vector<std::size_t>& lines);

}  // namespace opensum
