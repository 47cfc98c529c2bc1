// Finding out what the columns of a table are whose rows are left in their file, and where its blocks lie.
#pragma once

#include <memory>
#include <stdexcept>
#include <vector>

#include "table/column.h"
#include "table/row_source.h"
#include "table/typing.h"

namespace opensum {

/// The rows of a table that are left in their file.
struct LeftInFile {
  std::string name;                ///< of the file, as shown in messages
  std::vector<std::string> files;  ///< those of its tables
  std::shared_ptr<const RowSource> source;
  std::vector<RowBlock> blocks;
  /// How the cells of each of its columns are read.
  std::vector<CellRules> rules;
  /// Which rows are kept; all where it is empty.
  std::vector<bool> kept;
  /// Only the first rows were looked at: what the columns are is sure after the first pass, which also finds
  /// the blocks.
  bool guessed = false;

  /// Leaves only some of the rows, of which none was left out before.
  void keep(std::vector<bool> wanted);

  std::size_t rows() const { return blocks.empty() ? 0 : blocks.back().first_row + blocks.back().rows; }
  std::size_t source_rows() const {
    return blocks.empty() ? 0 : blocks.back().first_source_row + blocks.back().source_rows;
  }
};

/// Later rows are not what the first ones were taken for: everything begins anew, with a look at all rows.
struct LaterRowsDiffer : std::runtime_error {
  LaterRowsDiffer() : std::runtime_error("later rows are not what the first ones were taken for") {}
};

/// Divides a file into blocks of whole rows. Parts of it are read by several threads; where each begins is
/// sure only in their order.
class BlockFinder {
 public:
  explicit BlockFinder(LeftInFile& left);

  std::size_t parts() const { return cuts_.size() - 1; }
  /// A part on its way.
  struct Part {
    RawRows rows;
    RowSource::Reading reading;
    RowBlock where;
  };
  /// Reads a part from where it likely begins; several threads may do so at a time.
  void read(std::size_t part, Part& to) const;
  /// Finds out where it stands and adds its block, part after part; it is read again where it began inside of
  /// a row. False where rows are not plain.
  bool place(std::size_t part, Part& to);
  /// How much of the file lies before a place in it.
  double share_before(std::size_t place) const;

 private:
  LeftInFile& left_;
  std::vector<std::size_t> cuts_;
  RowBlock next_;
};

/// What the cells of a column are: read as numbers or as the kind that was stated, and where that does not
/// say enough as the kind that they have.
struct ColumnNotes {
  CellNotes first;
  CellNotes second;

  void add(const ColumnNotes& next);
};

/// Says in a column of a file what it is, by its notes. Its rules say afterwards how its cells are read.
void settle_column(Column& column, CellRules& rules, const ColumnNotes& notes);

/// How much of a table is looked at.
enum class LookedAt : std::uint8_t { first_rows, all_rows };

/// Goes over rows once, or twice for columns of dates, and finds the kind of each column and its cells that
/// cannot be read; of all rows also the blocks. `columns` are those of the file, in its order. Where the
/// first rows alone leave a doubt, all are looked at. False where the rows are not as plain as they must be;
/// the columns are not to be used then.
bool survey_rows(LeftInFile& left, const std::vector<Column*>& columns, LookedAt look);

/// Reads the rows of a block as text, but for those that are not kept.
void read_block(const LeftInFile& left, const RowBlock& block, RawRows& rows);

}  // namespace opensum
