// Blocks of rows: the only way in which rows exist while something is done with them. A source gives them
// with the values that it has; everything else is computed in them.
#pragma once

#include <memory>
#include <vector>

#include "table/column.h"
#include "table/survey.h"
#include "table/typing.h"

namespace opensum {

/// Some consecutive rows of a sheet.
struct Block {
  /// Its columns are those of the sheet; those that were asked for have values.
  Table table;
  std::size_t first_row = 0;       ///< the place of the first row among all
  BlockFinder::Part part;          ///< what the values of a source of text look into
  std::vector<ColumnNotes> notes;  ///< of a first pass: what its cells are, by column of the file
};

/// Rows of which a block is made.
struct RowRange {
  std::size_t first_row = 0;
  std::size_t rows = 0;
};

/// Gives blocks of rows. In a pass each block is fetched, placed, read and left; several are fetched and read
/// at a time, but they are placed and left one after the other, in their order.
class BlockSource {
 public:
  virtual ~BlockSource() = default;
  /// How many blocks a pass has.
  virtual std::size_t count() const = 0;
  /// The rows of a block; not before the first pass over rows that were looked at in part.
  virtual RowRange range(std::size_t block) const = 0;

  /// Fetches a block, whose table has the columns of the sheet.
  virtual void fetch(std::size_t /*block*/, Block& /*to*/) const {}
  /// Finds out where it stands. Throws LaterRowsDiffer.
  virtual void place(std::size_t block, Block& to) = 0;
  /// Gives it its rows, and of the columns that are needed the values that the source has. Throws
  /// LaterRowsDiffer.
  virtual void read(std::size_t block, const std::vector<bool>& needed, Block& to) const = 0;
  /// Says that it is read no more in this pass.
  virtual void leave(std::size_t /*block*/, const Block& /*to*/) {}
  /// Says that a pass is at its end. Throws LaterRowsDiffer.
  virtual void end_pass() {}

  /// Whether a text lives as long as the source.
  virtual bool lives_on(std::string_view text) const = 0;

  /// Fetches, places and reads a block alone.
  void get(std::size_t block, const std::vector<bool>& needed, Block& to) {
    fetch(block, to);
    place(block, to);
    read(block, needed, to);
  }
};

/// The rows of a table that are left in their file. Where only the first of them were looked at, the first
/// pass looks at all: it finds the blocks, and at its end it is sure what the columns are.
class FileBlocks : public BlockSource {
 public:
  /// `whole` is the table of all rows, whose columns have none.
  FileBlocks(LeftInFile& left, const Table& whole);
  /// Gives blocks the places of their rows in the file, too.
  void give_places() { gives_places_ = true; }

  std::size_t count() const override;
  RowRange range(std::size_t block) const override;
  void fetch(std::size_t block, Block& to) const override;
  void place(std::size_t block, Block& to) override;
  void read(std::size_t block, const std::vector<bool>& needed, Block& to) const override;
  void leave(std::size_t block, const Block& to) override;
  void end_pass() override;
  bool lives_on(std::string_view text) const override { return left_.source->holds(text); }

 private:
  void set_places(const RowBlock& where, Table& table) const;
  /// Reads the cells of a column of the table, with notes in a first pass.
  void read_column(std::size_t column, Block& to) const;
  void check_notes(std::size_t column, const ColumnNotes& notes) const;

  LeftInFile& left_;
  const Table& whole_;
  bool gives_places_ = false;
  std::vector<std::optional<std::size_t>> in_source_;
  std::vector<CellReader> readers_;
  /// Of a first pass.
  std::optional<BlockFinder> finder_;
  std::vector<ColumnNotes> notes_;  ///< by column of the file
};

/// The rows of a table in memory.
class HeldBlocks : public BlockSource {
 public:
  /// `given` says by column whether its values are there to be read.
  HeldBlocks(const Table& whole, std::vector<bool> given) : whole_(whole), given_(std::move(given)) {}
  std::size_t count() const override;
  RowRange range(std::size_t block) const override;
  void place(std::size_t block, Block& to) override;
  void read(std::size_t block, const std::vector<bool>& needed, Block& to) const override;
  /// Texts that were computed live in their chunks, which may be let go.
  bool lives_on(std::string_view /*text*/) const override { return false; }

 private:
  const Table& whole_;
  std::vector<bool> given_;
};

}  // namespace opensum
