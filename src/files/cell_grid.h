// A sheet of a workbook, or a table of a database, as a grid of texts, and the table that stands in it.
#pragma once

#include <cstddef>
#include <list>
#include <map>
#include <memory>
#include <memory_resource>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "base/result.h"
#include "message/diagnostic.h"
#include "model/study.h"
#include "table/raw_table.h"

namespace opensum {

/// Memory for cells, which are many and small: one stands beside the other, and all are let go together.
class CellMemory {
 public:
  /// A text that stays where it is.
  std::string_view keep(std::string_view text);
  std::pmr::memory_resource* resource() { return &parts_.back(); }
  /// Takes over what another one holds.
  void add(CellMemory&& other) { parts_.splice(parts_.begin(), other.parts_); }

 private:
  std::list<std::pmr::monotonic_buffer_resource> parts_{1};  ///< the last one grows
};

/// One row with its number in the sheet, from 1; cells that are not there at its end are empty.
struct GridRow {
  std::size_t number = 0;
  std::pmr::vector<std::string_view> cells;  ///< in the texts of the grid
};

/// Cells that are merged into one, all from 1.
struct MergedCells {
  std::size_t first_row = 0;
  std::size_t last_row = 0;
  std::size_t first_column = 0;
  std::size_t last_column = 0;
};

/// A number that is shown as percent: stored 0.05, shown 5 %.
struct PercentCell {
  std::string stored;
  std::size_t row = 0;
};

struct CellGrid {
  std::string name;  ///< as shown in messages: `file.ods#Sheet`
  std::shared_ptr<CellMemory> texts = std::make_shared<CellMemory>();
  CellMemory memory;  ///< of rows
  std::vector<GridRow> rows;
  /// A row without any value is a row; else it is a gap in the layout and passed over.
  bool empty_rows_count = false;
  std::vector<MergedCells> merged;
  /// What the columns of a workbook of our own are called in equations, by their headers.
  std::map<std::string, std::string> symbols;
  /// The first such cell of each column (from 0).
  std::map<std::size_t, PercentCell> percents;

  /// An empty row of a number, which is not among the rows yet.
  GridRow new_row(std::size_t number) {
    return {number, std::pmr::vector<std::string_view>(memory.resource())};
  }
};

/// How much a sheet may still grow while it is read (base/limits.h): a file of a few bytes can claim rows,
/// columns and repetitions without end.
class GridRoom {
 public:
  /// For a sheet that is read from so many bytes.
  explicit GridRoom(std::size_t bytes);
  /// More bytes belong to the sheet.
  void add_source(std::size_t bytes);
  /// Takes up `count` cells, each of so many bytes of text; false where they are too many.
  bool take(std::size_t count, std::size_t bytes);
  /// Takes up a text of cells that were taken up before.
  bool take_text(std::size_t bytes);
  /// Why not.
  const std::string& reason() const { return reason_; }

 private:
  bool take_bytes(std::size_t count, std::size_t each);

  std::size_t source_;
  std::size_t cells_ = 0;
  std::size_t bytes_ = 0;
  std::string reason_;
};

/// Makes all texts of a grid valid UTF-8, with a warning where bytes had to be replaced.
void make_valid(CellGrid& grid, Diagnostics& diagnostics);

/// `B1:C1`, from columns and rows counted from 1.
std::string cells_name(const MergedCells& cells);

/// Reads `B4:F40`; nothing for anything else.
std::optional<MergedCells> range_of(std::string_view text);

/// Leaves of a grid only the cells in a range; rows keep their numbers.
void crop(CellGrid& grid, const MergedCells& range);

/// The table in a grid, found as the settings say, which speak of rows where they speak of lines of a text.
/// Rows that are empty are passed over, columns without a header and without cells as well. The views in the
/// table look into the texts of the grid, which it keeps alive. Nothing after a reported error.
Result<RawTable> grid_table(const CellGrid& grid, const ReadSettings& settings, Diagnostics& diagnostics);

}  // namespace opensum
