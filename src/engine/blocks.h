// Blocks of rows: the only way in which rows exist while something is done with them. A source gives them
// with the values that it has; everything else is computed in them.
#pragma once

#include <memory>
#include <vector>

#include "study/survey.h"
#include "table/column.h"
#include "table/typing.h"

namespace opensum {

/// Some consecutive rows of a sheet.
struct Block {
  /// Its columns are those of the sheet; those that were asked for have values.
  Table table;
  std::size_t first_row = 0;  ///< the place of the first row among all
  RawRows raw;                ///< what the values of a source of text look into
};

/// Rows of which a block is made.
struct RowRange {
  std::size_t first_row = 0;
  std::size_t rows = 0;
};

class BlockSource {
 public:
  virtual ~BlockSource() = default;
  /// How many blocks there are, and their rows.
  virtual std::size_t count() const = 0;
  virtual RowRange range(std::size_t block) const = 0;
  /// Gives a block, whose table is empty_table() or was read into before, its rows, and of the columns that
  /// are needed the values that the source has. Several threads may read at a time.
  virtual void read(std::size_t block, const std::vector<bool>& needed, Block& to) const = 0;
  /// Says that a block is read no more in this pass.
  virtual void leave(std::size_t /*block*/) const {}
  /// Whether a text lives as long as the source.
  virtual bool lives_on(std::string_view text) const = 0;
};

/// The rows of a table that are left in their file.
class FileBlocks : public BlockSource {
 public:
  /// `whole` is the table of all rows, whose columns have none.
  FileBlocks(const LeftInFile& left, const Table& whole);
  /// Gives blocks the places of their rows in the file, too.
  void give_places() { gives_places_ = true; }
  std::size_t count() const override { return left_.blocks.size(); }
  RowRange range(std::size_t block) const override;
  void read(std::size_t block, const std::vector<bool>& needed, Block& to) const override;
  void leave(std::size_t block) const override;
  bool lives_on(std::string_view text) const override { return left_.source->holds(text); }

 private:
  void set_places(const RowBlock& where, Table& table) const;

  const LeftInFile& left_;
  bool gives_places_ = false;
  std::vector<std::optional<std::size_t>> in_source_;
  std::vector<CellReader> readers_;
};

/// The rows of a table in memory.
class HeldBlocks : public BlockSource {
 public:
  /// `given` says by column whether its values are there to be read.
  HeldBlocks(const Table& whole, std::vector<bool> given) : whole_(whole), given_(std::move(given)) {}
  std::size_t count() const override;
  RowRange range(std::size_t block) const override;
  void read(std::size_t block, const std::vector<bool>& needed, Block& to) const override;
  /// Texts that were computed live in their chunks, which may be let go.
  bool lives_on(std::string_view /*text*/) const override { return false; }

 private:
  const Table& whole_;
  std::vector<bool> given_;
};

}  // namespace opensum
