// Which programs take up uncertain values.
#include "plan/uncertain_programs.h"

#include <algorithm>

#include "equation/operation.h"

namespace opensum {

namespace {

// Whether results move in steps alone: what is uncertain before has no uncertainty after, to first order.
bool goes_in_steps(Op op) {
  switch (op) {
    case Op::round_to:
    case Op::floor_to:
    case Op::ceil_to:
    case Op::trunc_to:
    case Op::sign:
    case Op::row_count:
    case Op::equal:
    case Op::not_equal:
    case Op::less:
    case Op::less_equal:
    case Op::greater:
    case Op::greater_equal:
    case Op::logical_and:
    case Op::logical_or:
    case Op::logical_not:
    case Op::agrees:
    case Op::is_any:
    case Op::is_null:
    case Op::complete:
      return true;
    default:
      return false;
  }
}

}  // namespace

bool UncertainPrograms::has_uncertain_points(std::size_t fit, std::size_t sheet) const {
  return std::any_of(fits_[fit].sheets.begin(), fits_[fit].sheets.end(), [&](const FitSheetPlan& plan) {
    return plan.good && plan.sheet == sheet && (reached_(plan.sheet, plan.x) || reached_(plan.sheet, plan.y));
  });
}

bool UncertainPrograms::is_uncertain(const Stage& stage, std::size_t sheet) const {
  if (stage.op == Op::fit_parameter_error) return false;
  // How good a fit is has no uncertainty.
  if (stage.op == Op::fit_parameter) return in_use_ && std::holds_alternative<ParameterIndex>(stage.setting);
  if (stage.curve) return in_use_;
  if (stage.op == Op::col_count || stage.op == Op::row_number || stage.op == Op::rank) return false;
  const std::size_t over = stage.over ? stage.over->sheet : sheet;
  const auto is_any = [&](const Program& program) { return is_uncertain(program, over); };
  return is_any(stage.value) || std::any_of(stage.beside.begin(), stage.beside.end(), is_any);
}

bool UncertainPrograms::is_uncertain(const Program& program, std::size_t sheet) const {
  std::vector<bool> varies(program.registers, false);
  const auto is_varying = [&](const Operand& operand) {
    switch (operand.source) {
      case Operand::Source::result:
        return operand.index < varies.size() && varies[operand.index];
      case Operand::Source::input:
        return reached_(sheet, program.inputs[operand.index]);
      case Operand::Source::number:
        return std::any_of(program.uncertain.begin(), program.uncertain.end(),
                           [&](const UncertainNumber& number) { return number.index == operand.index; });
      case Operand::Source::stage:
        return is_uncertain(program.stages[operand.index], sheet);
      case Operand::Source::text:
        break;
    }
    return false;
  };
  for (const Instruction& instruction : program.instructions)
    varies[instruction.out] = !goes_in_steps(instruction.op) &&
                              std::any_of(instruction.in.begin(), instruction.in.end(), is_varying);
  return is_varying(program.result);
}

bool UncertainPrograms::is_unknown(const Program& program) const {
  const auto unknown = [&](const Program& inner) { return is_unknown(inner); };
  return std::any_of(program.stages.begin(), program.stages.end(), [&](const Stage& stage) {
    const auto* const statistic = std::get_if<FitStatistic>(&stage.setting);
    const bool of_values = statistic != nullptr && *statistic != FitStatistic::n &&
                           *statistic != FitStatistic::degrees_of_freedom;
    return (of_values && has_uncertain_points(stage.curve->fit, stage.curve->sheet)) ||
           unknown(stage.value) || std::any_of(stage.beside.begin(), stage.beside.end(), unknown);
  });
}

}  // namespace opensum
