// What a researcher may want to say about a table so that more of it is understood.
#pragma once

#include <map>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "table/column.h"
#include "units/unit_system.h"

namespace opensum {

/// A doubt about a table, and what would settle it.
struct ReadingHint {
  std::string column;    ///< the symbol; empty for the whole table
  std::string words;     ///< what was seen
  std::string option;    ///< what to say on the command line
  std::string key;       ///< what to say in a study, under `read` or, for a column, under `columns.SYMBOL`
  std::size_t more = 0;  ///< further columns of which the same is said
};

/// Another way in which the cells of a text column may be meant.
struct OtherForm;

/// What hints go by, counted block after block: in text columns the cells that would pass as something else,
/// among numbers those that often stand for missing ones.
class HintCounts {
 public:
  /// What was counted of one column.
  struct OfColumn {
    std::size_t known = 0;
    std::vector<std::size_t> passed;             ///< by form that is tried
    std::vector<std::size_t> sentinels;          ///< by number that may stand for a missing one
    std::map<std::string, std::size_t> missing;  ///< by text that is taken for missing

    void add(const OfColumn& next);
  };

  /// `table` has the columns, of whatever rows.
  explicit HintCounts(const Table& table);

  /// Other forms are tried on the first known cells before they are tried on all. Takes those of the first
  /// blocks; false when there are enough.
  bool sample(const Table& block);
  /// Says that there are no more: what few cells pass is not tried on all.
  void end_sample();
  /// Counts in a block; several threads may do so at a time.
  std::vector<OfColumn> count(const Table& block) const;
  /// Adds the counts of a block.
  void add(const std::vector<OfColumn>& counts);

  const OfColumn& operator[](std::size_t column) const { return columns_[column]; }
  /// Which forms are tried in a column.
  const std::vector<const OtherForm*>& forms(std::size_t column) const { return forms_[column]; }
  /// The first cell of a text column most of whose cells are numbers with a unit; empty for others.
  const std::string& unit_cell(std::size_t column) const { return unit_cells_[column]; }

 private:
  std::vector<std::vector<std::string>> samples_;
  std::vector<std::vector<const OtherForm*>> forms_;
  std::vector<OfColumn> columns_;
  std::vector<std::string> unit_cells_;
};

/// The rows at the end of a table, among which a footer may stand.
constexpr std::size_t kLongestFooter = 5;

/// The doubts about a table as it was read: units in the first row, a footer, decimal commas, dates in other
/// forms, codes, cells that are no numbers, numbers that often stand for missing ones. `last_rows` are the
/// last rows of the table, up to kLongestFooter; `skipped_end` lines below them are left out already.
std::vector<ReadingHint> reading_hints(const Table& table, const HintCounts& counts, const Table& last_rows,
                                       std::size_t skipped_end, const UnitSystem& units);

}  // namespace opensum
