// Whole columns of a study, and what is met when functions go over them.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "equation/program.h"
#include "table/column.h"

namespace opensum {

/// How many of the values that a reduction met were known; those that were not are left out of its result.
struct ReductionTally {
  std::string function;
  std::size_t used = 0;
  std::size_t met = 0;
};

/// Rows of which something is to be said: how many, and the first few.
struct RowList {
  std::size_t count = 0;
  std::vector<std::size_t> rows;
  void add(std::size_t row);
};

/// Rows in which the values of an `along:` do not increase.
struct OrderFault {
  std::string function;
  RowList rows;
};

/// Nulls that began inside a function of whole columns, where its result does not show them.
struct InnerNulls {
  Reason reason{};
  RowList rows;
};

/// What an evaluation met besides its result.
struct EvaluationNotes {
  std::vector<ReductionTally> tallies;
  std::vector<OrderFault> order_faults;
  std::vector<InnerNulls> inner_nulls;
};

/// The group of each row, numbered in order of first appearance: rows with equal keys, where a null key is a
/// group of its own. Without keys all rows are one group.
struct Grouping {
  std::vector<std::size_t> group_of_row;
  std::size_t groups = 1;
};

/// The columns of a sheet, all of `rows` rows.
struct SheetColumns {
  std::vector<const Column*> columns;
  std::size_t rows = 0;
};

/// The sheets of a study by their numbers, for reductions that go over another sheet.
class StudyColumns {
 public:
  virtual ~StudyColumns() = default;
  virtual SheetColumns columns_of(std::size_t sheet) const = 0;
  /// Of a sheet whose rows stand for groups of rows of another: those groups.
  virtual const Grouping& groups_of(std::size_t sheet) const = 0;
  /// What a fitted curve gives each row: a parameter, its y at the value, or the x where it has the value.
  /// `own` is the origin of nulls that begin there; `first_row` is the place of the first row among all.
  virtual std::vector<Chunk> fitted_values(const Stage& stage, const std::vector<Chunk>& values, OriginId own,
                                           std::size_t first_row) const = 0;
};

}  // namespace opensum
