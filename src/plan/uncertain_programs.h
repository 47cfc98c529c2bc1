// Which programs take up uncertain values.
#pragma once

#include <deque>
#include <functional>

#include "plan/plan.h"

namespace opensum {

/// Looks for uncertain columns, numbers and fits in programs.
class UncertainPrograms {
 public:
  /// Whether a column of a sheet follows from something uncertain, by their numbers.
  using Reached = std::function<bool(std::size_t sheet, std::size_t column)>;

  /// `in_use` says whether anything states an uncertainty, so that what fits give has one, too.
  UncertainPrograms(Reached reached, const std::deque<FitPlan>& fits, bool in_use)
      : reached_(std::move(reached)), fits_(fits), in_use_(in_use) {}

  /// Whether the values of a program over the rows of a sheet are uncertain.
  bool is_uncertain(const Program& program, std::size_t sheet) const;
  /// The same of a function of whole columns that a program of that sheet uses.
  bool is_uncertain(const Stage& stage, std::size_t sheet) const;
  /// Whether points of a fit are, by its number and the sheet of the points.
  bool has_uncertain_points(std::size_t fit, std::size_t sheet) const;
  /// Whether a program uses what has no uncertainty though its points have one: a statistic of a fit.
  bool is_unknown(const Program& program) const;

 private:
  Reached reached_;
  const std::deque<FitPlan>& fits_;
  bool in_use_;
};

}  // namespace opensum
