// The columns that an explanation looks at.
#include "explain/explained_columns.h"

#include <algorithm>

#include "equation/names_used.h"

namespace opensum {
namespace {

class ColumnsNeeded {
 public:
  explicit ColumnsNeeded(const StudyRun& run) : run_(run), wishes_(run.sheets.size()) {
    for (std::size_t i = 0; i < wishes_.size(); ++i)
      wishes_[i].held.assign(run.sheets[i]->table().columns.size(), Held::nothing);
  }

  std::vector<LastWishes> of(std::size_t sheet, std::size_t column) {
    want(sheet, column);
    wishes_[sheet].budget_of = {column};
    return std::move(wishes_);
  }

 private:
  void want(std::size_t number, std::size_t index) {
    LastWishes& wishes = wishes_[number];
    if (wishes.held[index] != Held::nothing) return;
    const RunSheet& sheet = *run_.sheets[number];
    // Of what was measured the cells are quoted, and of what is filled or taken over from it.
    const Column& column = sheet.table().columns[index];
    wishes.held[index] = column.measured || !column.fills.empty() ? Held::with_source : Held::values;
    wishes.lines = wishes.row_maps = true;
    const SheetPlan& plan = sheet.plan;
    for (const UncertainColumn& uncertain : plan.uncertainty.columns) {
      if (uncertain.column == index) wishes.held[uncertain.index] = Held::values;
    }
    for (const StatedUncertainty& stated : plan.uncertainty.stated) {
      if (stated.column == index && stated.from) want(number, *stated.from);
    }
    for (const DerivedColumn& derived : plan.derived) {
      if (derived.index != index) continue;
      want_inputs(derived.program, number);
      for (const std::string& name : names_used(*derived.definition.expression, plan.scope))
        want_name(number, name);
    }
    for (const FillPlan& fill : plan.fills) {
      if (fill.filled != index) continue;
      want(number, fill.measured);
      for (const Program& rule : fill.rules) want_inputs(rule, number);
    }
    for (const BorrowedColumn& borrowed : plan.borrowed) {
      if (borrowed.index == index) want_linked(number, borrowed);
    }
    for (const TakenColumn& taken : plan.taken) {
      if (taken.index != index) continue;
      want(*plan.source, taken.there);
      for (const std::size_t cell : taken.cells) want(*plan.source, cell);
    }
  }

  void want_name(std::size_t sheet, const std::string& name) {
    const Scope& scope = run_.sheets[sheet]->plan.scope;
    const auto found = scope.find_column(name, false);
    if (!found) return;
    want(sheet, *found);
    want(sheet, scope.meant_by(*found));
  }

  void want_linked(std::size_t sheet, const BorrowedColumn& borrowed) {
    const LinkPlan& link = run_.sheets[sheet]->plan.links[borrowed.link];
    const auto other = *link.sheet;
    want(other, borrowed.there);
    for (const LinkPlan::Keys& key : link.keys) {
      want(sheet, key.here);
      want(other, key.there);
    }
  }

  void want_inputs(const Program& program, std::size_t sheet) {
    for (const std::size_t input : program.inputs) want(sheet, input);
    for (const Stage& stage : program.stages) {
      const std::size_t over = stage.over ? stage.over->sheet : sheet;
      const auto inputs = [&](const Program& operand) { want_inputs(operand, over); };
      inputs(stage.value);
      for (const auto* operands : {&stage.where, &stage.beside})
        std::for_each(operands->begin(), operands->end(), inputs);
      if (!stage.over) std::for_each(stage.keys.begin(), stage.keys.end(), inputs);
    }
  }

  const StudyRun& run_;
  std::vector<LastWishes> wishes_;
};

}  // namespace

std::vector<LastWishes> wishes_of_explanation(const StudyRun& run, std::size_t sheet, std::size_t column) {
  return ColumnsNeeded(run).of(sheet, column);
}

}  // namespace opensum
