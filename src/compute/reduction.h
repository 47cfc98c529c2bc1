// The state of a reduction down the column while rows come: one small state for each group, in the order of
// the rows, so that it makes no difference how many of them come at a time.
#pragma once

#include <deque>
#include <optional>
#include <string>
#include <vector>

#include "compute/statistics.h"
#include "compute/whole_columns.h"

namespace opensum {

/// What a group comes to.
struct Outcome {
  Instant number;  ///< of a date with its rest
  std::string_view text;
  Null null;
};

/// Rows that come to a reduction: the values, those of its second operand (none where `beside` is empty), the
/// condition (none where `where` is empty) and the group of each row (all of one group where it is empty).
struct ReducedRows {
  const std::vector<Chunk>& values;
  const std::vector<Chunk>& beside;
  const std::vector<Chunk>& where;
  const std::vector<std::size_t>& group_of_row;
  std::size_t rows = 0;
  std::size_t first_row = 0;  ///< the place of the first among all rows
};

/// Divisions by zero and left domains that began in the operand of a function of whole columns: its result
/// does not show them.
class InnerFaults {
 public:
  /// Notes those among values whose own nulls have an origin; `first_row` is the place of the first.
  void note(const std::vector<Chunk>& values, OriginId own, std::size_t first_row);
  std::vector<InnerNulls> found() const;

 private:
  RowList divided_by_zero_;
  RowList out_of_domain_;
};

/// Gives each of `rows` rows the outcome of its group; all are of the first where `group_of_row` is empty.
std::vector<Chunk> spread_out(Kind kind, const std::vector<Outcome>& outcomes,
                              const std::vector<std::size_t>& group_of_row, std::size_t rows);

/// Takes up rows and says what each group comes to. Only medians and quantiles keep the values.
class Reduction {
 public:
  Reduction(const Stage& stage, OriginId own)
      : stage_(stage), own_(own), of_dates_(stage.value.kind == Kind::date) {
    make_groups(1);
  }

  void add(const ReducedRows& rows);
  /// Makes sure that there are so many groups.
  void make_groups(std::size_t groups);
  /// By group. Texts live as long as the reduction. Nulls of other rows are recorded in `origins`.
  std::vector<Outcome> outcomes(Origins& origins);
  /// How many values were known, of how many.
  ReductionTally tally() const;
  /// Whether the summary is to say how many values were left out.
  bool leaves_out() const;
  const InnerFaults& inner_faults() const { return inner_; }
  /// Rows in which the values of an `along:` do not increase.
  const RowList& order_fault() const { return order_fault_; }
  OriginId own() const { return own_; }

 private:
  // A value of a certain row, known or null.
  struct Cell {
    Instant number;
    std::string text;
    Null null;
    std::size_t row = 0;
  };
  struct Count {
    std::size_t known = 0;
    std::size_t nulls = 0;
    Null first_null;
    std::size_t first_null_row = 0;
  };
  struct Extremes {
    double least = 0;
    double greatest = 0;
  };

  // Dates: their sums and spreads are those of their distances from the first.
  struct Dates {
    Instant first;
    Instant least;
    Instant greatest;
    std::vector<Instant> values;
  };

  // A mean by weights: distances from the first value, so that a large offset costs no digits.
  struct Weighted {
    CompensatedSum products;
    CompensatedSum weights;
    double first = 0;
    bool negative = false;
  };
  // The area under straight lines between the rows.
  struct Strips {
    CompensatedSum sum;
    Instant x;
    double y = 0;
    bool disordered = false;
  };

  template <typename Known>
  void take(const ReducedRows& rows, const Known& known);
  void take_cells(const ReducedRows& rows);
  void take_dates(const ReducedRows& rows);
  Outcome outcome(std::size_t group, Origins& origins);
  Outcome cell_outcome(const Cell& cell, Origins& origins) const;
  double value(std::size_t group);
  Instant value_of_dates(std::size_t group);
  /// Why a group has no value though enough are known.
  Reason undefined(std::size_t group) const;
  void add_weighted(std::size_t group, double value, double weight);
  void add_strip(std::size_t group, double y, const Instant& x, std::size_t row);

  const Stage& stage_;
  OriginId own_;
  bool of_dates_;
  std::vector<Count> counts_;
  // As the operation needs them, by group.
  std::vector<CompensatedSum> sums_;
  std::vector<Spread> spreads_;
  std::vector<SumOfSquares> squares_;
  std::vector<CommonSpread> common_;
  std::vector<Weighted> weighted_;
  std::vector<Strips> strips_;
  std::vector<bool> not_positive_;
  std::vector<Extremes> extremes_;
  std::vector<Dates> dates_;
  std::vector<std::vector<double>> values_;
  std::vector<std::optional<Cell>> cells_;
  InnerFaults inner_;
  RowList order_fault_;
};

}  // namespace opensum
