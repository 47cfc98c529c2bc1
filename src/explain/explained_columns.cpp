// The columns that an explanation looks at.
#include "explain/explained_columns.h"

#include <algorithm>

#include "equation/names_used.h"
#include "equation/operation.h"

namespace opensum {
namespace {

// Whether other sheets look into the rows of a sheet.
bool is_looked_into(const StudyRun& run, std::size_t number) {
  return std::any_of(run.sheets.begin(), run.sheets.end(), [&](const auto& sheet) {
    return sheet->plan.source == number ||
           std::any_of(sheet->plan.links.begin(), sheet->plan.links.end(),
                       [&](const LinkPlan& link) { return link.sheet == number; });
  });
}

// How much is held of a column from which something follows. The lines of its rows are held in any case.
enum class Extent : std::uint8_t { lines, one_row, whole };

// Whether a value is found from others in the same row, also where it is found again for an explanation.
bool stays_in_row(const Program& program) {
  return program.stages.empty() &&
         std::none_of(program.instructions.begin(), program.instructions.end(),
                      [](const Instruction& instruction) { return instruction.op == Op::limit; });
}

class ColumnsNeeded {
 public:
  explicit ColumnsNeeded(const StudyRun& run) : run_(run), wishes_(run.sheets.size()) {
    for (const auto& sheet : run.sheets) {
      const std::size_t columns = sheet->table().columns.size();
      wishes_[extents_.size()].held.assign(columns, Held::nothing);
      extents_.emplace_back(columns);
    }
  }

  std::vector<LastWishes> of_column(std::size_t sheet, std::size_t column) {
    want(sheet, column, Extent::lines);
    wishes_[sheet].held[column] = Held::values;
    return std::move(wishes_);
  }

  std::vector<LastWishes> of_cell(std::size_t sheet, std::size_t column, std::optional<std::size_t> row) {
    want(sheet, column, row ? Extent::one_row : Extent::whole);
    if (run_.sheets[sheet]->plan.uncertainty.reaches(column)) wishes_[sheet].budget_of = {column};
    for (std::size_t i = 0; i < extents_.size(); ++i) {
      wishes_[i].row_maps = wishes_[i].lines;
      for (std::size_t k = 0; k < extents_[i].size(); ++k) {
        if (row && extents_[i][k] == Extent::one_row) wishes_[i].only_row.emplace(k, *row);
      }
    }
    return std::move(wishes_);
  }

 private:
  void want(std::size_t number, std::size_t index, Extent extent) {
    LastWishes& wishes = wishes_[number];
    std::optional<Extent>& so_far = extents_[number][index];
    if (so_far && *so_far >= extent) return;
    so_far = extent;
    const RunSheet& sheet = *run_.sheets[number];
    // Of what was measured the cells are quoted, and of what is filled or taken over from it.
    const Column& column = sheet.table().columns[index];
    if (extent != Extent::lines)
      wishes.held[index] = column.measured || !column.fills.empty() ? Held::with_source : Held::values;
    wishes.lines = true;
    const SheetPlan& plan = sheet.plan;
    for (const UncertainColumn& uncertain : plan.uncertainty.columns) {
      if (uncertain.column == index && extent != Extent::lines) {
        wishes.held[uncertain.index] = Held::values;
        extents_[number][uncertain.index] = extent;
      }
    }
    for (const StatedUncertainty& stated : plan.uncertainty.stated) {
      if (stated.column == index && stated.from) want(number, *stated.from, extent);
    }
    for (const DerivedColumn& derived : plan.derived) {
      if (derived.index != index) continue;
      const Extent inputs = stays_in_row(derived.program) ? extent : beyond_row(extent);
      want_inputs(derived.program, number, inputs);
      for (const std::string& name : names_used(*derived.definition.expression, plan.scope))
        want_name(number, name, inputs);
    }
    for (const FillPlan& fill : plan.fills) {
      if (fill.filled != index) continue;
      want(number, fill.measured, extent);
      for (const Program& rule : fill.rules)
        want_inputs(rule, number, stays_in_row(rule) ? extent : beyond_row(extent));
    }
    for (const BorrowedColumn& borrowed : plan.borrowed) {
      if (borrowed.index == index) want_linked(number, borrowed, extent);
    }
    for (const TakenColumn& taken : plan.taken) {
      if (taken.index != index) continue;
      want(*plan.source, taken.there, beyond_row(extent));
      for (const std::size_t cell : taken.cells) want(*plan.source, cell, beyond_row(extent));
    }
  }

  // What is held of columns of which other rows count.
  static Extent beyond_row(Extent extent) { return extent == Extent::lines ? extent : Extent::whole; }

  void want_name(std::size_t sheet, const std::string& name, Extent extent) {
    const Scope& scope = run_.sheets[sheet]->plan.scope;
    const auto found = scope.find_column(name, false);
    if (!found) return;
    want(sheet, *found, extent);
    want(sheet, scope.meant_by(*found), extent);
  }

  void want_linked(std::size_t sheet, const BorrowedColumn& borrowed, Extent extent) {
    const LinkPlan& link = run_.sheets[sheet]->plan.links[borrowed.link];
    const auto other = *link.sheet;
    want(other, borrowed.there, beyond_row(extent));
    for (const LinkPlan::Keys& key : link.keys) {
      want(sheet, key.here, extent);
      want(other, key.there, beyond_row(extent));
    }
  }

  void want_inputs(const Program& program, std::size_t sheet, Extent extent) {
    for (const std::size_t input : program.inputs) want(sheet, input, extent);
    for (const Stage& stage : program.stages) {
      const std::size_t over = stage.over ? stage.over->sheet : sheet;
      const auto inputs = [&](const Program& operand) { want_inputs(operand, over, extent); };
      inputs(stage.value);
      for (const auto* operands : {&stage.where, &stage.beside})
        std::for_each(operands->begin(), operands->end(), inputs);
      if (!stage.over) std::for_each(stage.keys.begin(), stage.keys.end(), inputs);
    }
  }

  const StudyRun& run_;
  std::vector<LastWishes> wishes_;
  // By sheet and column; nothing where none is wanted.
  std::vector<std::vector<std::optional<Extent>>> extents_;
};

}  // namespace

std::vector<LastWishes> wishes_of_column(const StudyRun& run, std::size_t sheet, std::size_t column) {
  return ColumnsNeeded(run).of_column(sheet, column);
}

std::vector<LastWishes> wishes_of_cell(const StudyRun& run, std::size_t sheet, std::size_t column,
                                       std::optional<std::size_t> row) {
  if (is_looked_into(run, sheet)) row.reset();
  return ColumnsNeeded(run).of_cell(sheet, column, row);
}

}  // namespace opensum
