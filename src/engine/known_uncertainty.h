// What is known of the uncertainties of a study beyond single rows: its unknowns, and the deviations of what
// functions of whole columns, fits and other sheets give.
#pragma once

#include <map>
#include <string>
#include <utility>
#include <vector>

#include "compute/whole_forms.h"
#include "engine/study_run.h"

namespace opensum {

/// The deviations of a column in a block of rows: by families of unknowns that have one for each row of the
/// sheet, or one for all rows, and whatever else the rows depend on.
struct UncertaintyParts {
  std::map<std::size_t, std::vector<double>> own;  ///< by family; NaN where it is not known
  FormRows rest;                                   ///< no rows where there is nothing else

  bool none() const { return own.empty() && rest.no_terms(); }
};

/// Where a family of unknowns comes from.
struct UnknownOrigin {
  std::string name;  ///< of a column, an instrument, a constant or a fit
  /// Of the errors of cells: their sheet and column.
  std::optional<std::pair<std::size_t, std::size_t>> cells;
  std::optional<std::size_t> stated;  ///< its place among what the sheet states
  std::optional<double> freedom;      ///< the degrees of freedom of what was estimated by scatter
};

/// The deviations of what a fit to the points of a sheet gives: so many unknowns for each group.
struct FitForms {
  std::size_t family = 0;
  std::size_t count = 0;
};

class KnownUncertainty {
 public:
  /// Makes the unknowns of what is stated.
  explicit KnownUncertainty(const StudyRun& run);

  bool in_use() const { return in_use_; }
  const Unknowns& unknowns() const { return unknowns_; }
  /// Whether a family has one unknown for all rows; else each row of the sheet has its own.
  bool is_scalar(std::size_t family) const { return scalar_[family]; }
  std::size_t family_of_source(std::size_t sheet, std::size_t source) const {
    return sources_[sheet][source];
  }
  std::size_t family_of_number(std::size_t number) const { return numbers_[number]; }
  /// Of a family of independent unknowns.
  const UnknownOrigin& origin(std::size_t family) const { return origins_.at(family); }

  /// Adds what a function of whole columns comes to.
  void add_stage(const Stage& stage, const RowsOver& rows);
  /// What was added for it; a null pointer where it has no uncertainty.
  const WholeForms* stage(const Stage& stage) const;

  /// The deviations of a column that others look into, row by row; a null pointer where they are not held.
  const FormRows* column(std::size_t sheet, std::size_t column) const;
  FormRows& hold_column(std::size_t sheet, std::size_t column) { return columns_[{sheet, column}]; }

  /// Adds a fit that was made, whose points are kept, and gives its curves the standard uncertainties of
  /// their parameters where points have stated ones.
  void add_fit(const StudyRun& run, std::size_t fit, std::size_t place, FitResult& result);
  const FitForms* fit(std::size_t fit, std::size_t place) const;

  /// Puts the deviations of a row of a block into terms.
  void add_row(const UncertaintyParts& parts, std::size_t row, std::size_t first_row,
               std::vector<Term>& terms) const;
  /// The deviations of all rows of a block.
  FormRows rows_of(const UncertaintyParts& parts, std::size_t rows, std::size_t first_row) const;
  /// The standard uncertainties of the rows of a block; NaN where they are not known.
  std::vector<double> sizes_of(const UncertaintyParts& parts, std::size_t rows, std::size_t first_row) const;

 private:
  std::size_t add_family(bool scalar, UnknownOrigin origin);

  bool in_use_ = false;
  Unknowns unknowns_;
  std::vector<bool> scalar_;
  std::map<std::size_t, UnknownOrigin> origins_;
  std::vector<std::vector<std::size_t>> sources_;
  std::vector<std::size_t> numbers_;
  std::map<const Stage*, WholeForms> stages_;
  std::map<std::pair<std::size_t, std::size_t>, FormRows> columns_;
  std::map<std::pair<std::size_t, std::size_t>, FitForms> fits_;
};

}  // namespace opensum
