// Reading rows that are left in their file, a block at a time, into a table of that block.
#pragma once

#include <vector>

#include "study/survey.h"
#include "table/column.h"
#include "table/typing.h"

namespace opensum {

/// Reads the rows of a block as text, but for those that are not kept.
void read_block(const LeftInFile& left, const RowBlock& block, RawRows& rows);

class BlockReader {
 public:
  /// `whole` is the table of all rows, whose columns have none.
  BlockReader(const LeftInFile& left, const Table& whole);

  /// A table like the whole one.
  Table empty_table() const;
  /// Gives such a table the rows of a block: their lines, and of the measured columns that are needed the
  /// cells. They look into `raw` and into the file. Several threads may read at a time.
  void read(const RowBlock& block, const std::vector<bool>& needed, RawRows& raw, Table& table) const;

 private:
  const LeftInFile& left_;
  const Table& whole_;
  std::vector<CellReader> readers_;
};

}  // namespace opensum
