// Which programs take up uncertain values.
#include "plan/uncertain_programs.h"

#include <algorithm>

#include "equation/operation.h"

namespace opensum {

bool UncertainPrograms::has_uncertain_points(std::size_t fit, std::size_t sheet) const {
  return std::any_of(fits_[fit].sheets.begin(), fits_[fit].sheets.end(), [&](const FitSheetPlan& plan) {
    return plan.good && plan.sheet == sheet && (reached_(plan.sheet, plan.x) || reached_(plan.sheet, plan.y));
  });
}

bool UncertainPrograms::is_uncertain(const Stage& stage, std::size_t sheet) const {
  if (stage.op == Op::fit_parameter_error) return false;
  // How good a fit is has no uncertainty.
  if (stage.op == Op::fit_parameter) return in_use_ && stage.parameter >= 0;
  if (stage.curve) return in_use_;
  if (stage.op == Op::col_count || stage.op == Op::row_number || stage.op == Op::rank) return false;
  const std::size_t over = stage.over ? stage.over->sheet : sheet;
  const auto is_any = [&](const Program& program) { return is_uncertain(program, over); };
  return is_any(stage.value) || std::any_of(stage.beside.begin(), stage.beside.end(), is_any);
}

bool UncertainPrograms::is_uncertain(const Program& program, std::size_t sheet) const {
  if (!program.uncertain.empty()) return true;
  return std::any_of(program.inputs.begin(), program.inputs.end(),
                     [&](std::size_t input) { return reached_(sheet, input); }) ||
         std::any_of(program.stages.begin(), program.stages.end(),
                     [&](const Stage& stage) { return is_uncertain(stage, sheet); });
}

bool UncertainPrograms::is_unknown(const Program& program) const {
  const auto unknown = [&](const Program& inner) { return is_unknown(inner); };
  return std::any_of(program.stages.begin(), program.stages.end(), [&](const Stage& stage) {
    const bool statistic =
        stage.op == Op::fit_parameter && stage.parameter < 0 &&
        statistic_at(stage.parameter) != FitStatistic::n &&
        statistic_at(stage.parameter) != FitStatistic::degrees_of_freedom;
    return (statistic && has_uncertain_points(stage.curve->fit, stage.curve->sheet)) || unknown(stage.value) ||
           std::any_of(stage.beside.begin(), stage.beside.end(), unknown);
  });
}

}  // namespace opensum
