// A function of whole columns on its way over the rows of a sheet, a block at a time: a reduction, which
// keeps what its groups come to, or a sequence, which keeps the values of all rows and gives one for each.
#pragma once

#include <memory>
#include <vector>

#include "compute/grouping.h"
#include "compute/reduction.h"
#include "compute/row_store.h"
#include "compute/whole_columns.h"

namespace opensum {

/// What some consecutive rows give such a function.
struct StageRows {
  std::vector<Chunk> values;
  std::vector<Chunk> beside;  ///< none without second operand
  std::vector<Chunk> where;   ///< none without condition
  LocalGroups groups;         ///< none for functions without groups
  std::size_t rows = 0;
  std::size_t first_row = 0;  ///< the place of the first among all
};

class StageRun {
 public:
  /// `own` is the origin of nulls that begin in the column that uses the function. The stage must outlive it.
  StageRun(const Stage& stage, OriginId own);

  /// Takes up rows, in their order.
  void add(const StageRows& rows);
  /// Says that there are no more. Nulls of other rows are recorded in `origins`.
  void finish(Origins& origins);
  /// The values for rows from `first_row` on, once finished; `groups` are those of the rows among themselves,
  /// a null pointer where the function has none. Texts live as long as the run.
  std::vector<Chunk> values(std::size_t first_row, std::size_t rows, const LocalGroups* groups) const;

  const Stage& stage() const { return stage_; }
  OriginId own() const { return own_; }
  /// Whether rows fall into groups, by keys of the function or by those of a grouped sheet.
  bool has_groups() const { return stage_.over ? stage_.over->groups_of.has_value() : !stage_.keys.empty(); }
  /// The numbers of the groups of rows that were all taken up, row by row.
  std::vector<std::size_t> group_numbers(const LocalGroups& groups) const {
    return group_of_row(groups, groups_.find(groups));
  }
  /// Appends what was met, once finished.
  void tell(EvaluationNotes& notes) const;
  /// Rows of which something is to be said, so far.
  const RowList& order_fault() const { return order_fault_.rows; }
  const InnerFaults& inner_faults() const { return inner_; }

 private:
  std::vector<std::size_t> group_of_row(const LocalGroups& local,
                                        const std::vector<std::size_t>& numbers) const;

  const Stage& stage_;
  OriginId own_;
  GroupNumbers groups_;
  InnerFaults inner_;
  OrderFault order_fault_;
  std::vector<ReductionTally> tallies_;
  // Of a reduction.
  std::unique_ptr<Reduction> reduction_;
  std::vector<Outcome> outcomes_;
  // Of a sequence.
  TextKeeper texts_;
  std::unique_ptr<RowStore> numbers_;
  std::unique_ptr<RowStore> along_;
  std::vector<std::size_t> groups_of_rows_;
  std::vector<Chunk> sequence_;
};

}  // namespace opensum
