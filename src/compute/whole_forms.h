// How functions of whole columns depend on each of the rows that they look at: deviations of rows come in,
// those of the results go out.
#pragma once

#include <optional>
#include <vector>

#include "compute/unknowns.h"
#include "equation/program.h"

namespace opensum {

/// An operand of such a function in all rows.
struct OperandRows {
  std::vector<double> values;    ///< NaN for nulls
  std::optional<Instant> first;  ///< of dates: the first known one, from which they count
  FormRows forms;                ///< none for an operand without uncertainty

  std::span<const Term> form(std::size_t row) const {
    return forms.rows() == 0 ? std::span<const Term>() : forms.row(row);
  }
};

/// All that a function goes over. Operands that it has not are empty.
struct RowsOver {
  OperandRows value;
  OperandRows beside;
  std::vector<bool> where;                ///< rows that take part; empty for all
  std::vector<std::size_t> group_of_row;  ///< empty where all are one group
  std::size_t groups = 1;

  bool takes_part(std::size_t row) const { return where.empty() || where[row]; }
};

/// The deviations of results: of a reduction one unknown per group, of a sequence a form for each row.
struct WholeForms {
  std::optional<std::size_t> sums;  ///< of a reduction: the family of unknowns
  FormRows rows;
};

/// By first-order propagation (JCGM 100:2008, 5.1.2): each result by its derivatives by the values of the
/// rows. A choice between rows (the least, a median) has the deviation of what was chosen. Where a derivative
/// does not exist, as that of a standard deviation of 0, terms are NaN.
WholeForms whole_forms(const Stage& stage, const RowsOver& rows, Unknowns& unknowns);

}  // namespace opensum
