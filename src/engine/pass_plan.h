// When everything of a study can be known: in which round of passes over the sheets each column has its
// values, which functions of whole columns take up rows in which pass, and which columns must be held whole
// for others.
#pragma once

#include <map>
#include <optional>
#include <set>
#include <utility>
#include <vector>

#include "compute/row_store.h"
#include "engine/study_run.h"

namespace opensum {

/// A function of whole columns that takes up the rows of a sheet in a round.
struct StageUse {
  const Stage* stage = nullptr;
  OriginId own = 0;        ///< of nulls that begin in the column that uses it
  std::size_t sheet = 0;   ///< over whose rows it goes
  std::size_t round = 0;   ///< the first in which its operands are known
  bool elsewhere = false;  ///< the column that uses it belongs to another sheet
};

/// A fit to the points of one sheet, by its number and its place among the sheets of the fit.
using FitPlace = std::pair<std::size_t, std::size_t>;

/// Of every value that follows row by row from measured ones the round is 0. What follows from a function of
/// whole columns, from a fit or from another sheet is known a round after the last row of those was passed.
class PassPlan {
 public:
  explicit PassPlan(const StudyRun& run);

  std::size_t rounds() const { return rounds_; }
  /// The first round in which the values of a column can be computed in a block.
  std::size_t round_of(std::size_t sheet, std::size_t column) const;
  /// The same of a link of a sheet: when its rows can be found.
  std::size_t round_of_link(std::size_t sheet, std::size_t link) const;
  /// The round before whose passes the rows there of a link can be made ready to be found.
  std::size_t round_of_finder(std::size_t sheet, std::size_t link) const { return links_[sheet][link]; }
  /// The round before whose passes it can be known which rows a sheet has.
  std::size_t round_of_rows(std::size_t sheet) const { return rows_[sheet]; }
  /// The round before whose passes a fit is made; only of those that equations use.
  const std::map<FitPlace, std::size_t>& early_fits() const { return early_fits_; }
  /// The round in which a program can be evaluated in a block of a sheet.
  std::size_t round_of(const Program& program, std::size_t sheet) const;

  const std::vector<StageUse>& stages() const { return stages_; }
  /// What is to be held of each column of a sheet before the last pass.
  const std::vector<Held>& held(std::size_t sheet) const { return held_[sheet]; }
  /// Whether the lines of a sheet's rows are held.
  bool holds_lines(std::size_t sheet) const { return lines_[sheet]; }

 private:
  void plan(const Task& task);
  void plan_rows(std::size_t sheet);
  std::size_t round_of_keep_links(const KeepPlan& keep);
  void plan_link(std::size_t sheet, std::size_t link);
  void plan_fit(const Task& task);
  void use(const Program& program, OriginId own, std::size_t sheet);
  void use(const Stage& stage, OriginId own, std::size_t user, std::size_t sheet);
  std::size_t ready(const Stage& stage, std::size_t user) const;
  std::size_t operands_round(const Stage& stage, std::size_t sheet) const;
  bool is_early(const FitPlace& fit) const { return used_fits_.contains(fit); }
  void find_used_fits(const Program& program);
  void hold(std::size_t sheet, std::size_t column, Held held);
  void count_rounds(const std::vector<std::size_t>& known);

  const StudyRun& run_;
  std::size_t rounds_ = 0;
  std::vector<std::vector<std::size_t>> columns_;
  std::vector<std::vector<std::optional<std::size_t>>> uncertainty_of_;  // by column: that whose it holds
  std::vector<std::size_t> rows_;
  std::vector<std::vector<std::size_t>> links_;
  std::set<FitPlace> used_fits_;
  std::map<FitPlace, std::size_t> early_fits_;
  std::vector<StageUse> stages_;
  std::vector<std::vector<Held>> held_;
  std::vector<bool> lines_;
};

/// Columns of the own sheet that a program reads in the rows of a block once its functions of whole columns
/// are known: also the keys by which those are told apart.
std::vector<std::size_t> block_inputs(const Program& program);

}  // namespace opensum
