// When everything of a study can be known.
#include "engine/pass_plan.h"

#include <algorithm>

#include "equation/operation.h"

namespace opensum {
namespace {

// The place of a fit to the points of a sheet among those of its fit.
std::size_t place_of(const FitPlan& fit, std::size_t sheet) {
  std::size_t place = 0;
  while (fit.sheets[place].sheet != sheet) ++place;
  return place;
}

template <typename Visit>
void for_each_operand(const Stage& stage, const Visit& visit) {
  visit(stage.value);
  std::for_each(stage.where.begin(), stage.where.end(), visit);
  std::for_each(stage.beside.begin(), stage.beside.end(), visit);
  if (!stage.over) std::for_each(stage.keys.begin(), stage.keys.end(), visit);
}

}  // namespace

std::vector<std::size_t> block_inputs(const Program& program) {
  std::vector<std::size_t> inputs = program.inputs;
  const auto add = [&](const Program& inner) {
    const std::vector<std::size_t> more = block_inputs(inner);
    inputs.insert(inputs.end(), more.begin(), more.end());
  };
  for (const Stage& stage : program.stages) {
    if (stage.curve) add(stage.value);
    if (!stage.curve && !stage.over && !is_sequence(stage.op))
      std::for_each(stage.keys.begin(), stage.keys.end(), add);
  }
  return inputs;
}

PassPlan::PassPlan(const StudyRun& run) : run_(run) {
  const auto find = [&](const Program& program) { find_used_fits(program); };
  for (const auto& sheet : run.sheets) {
    uncertainty_of_.emplace_back(sheet->table().columns.size());
    for (const UncertainColumn& uncertain : sheet->plan.uncertainty.columns)
      uncertainty_of_.back()[uncertain.index] = uncertain.column;
    columns_.emplace_back(sheet->table().columns.size(), 0);
    links_.emplace_back(sheet->plan.links.size(), 0);
    held_.emplace_back(sheet->table().columns.size(), Held::nothing);
    if (sheet->in_database) continue;
    for (const FillPlan& fill : sheet->plan.fills) std::for_each(fill.rules.begin(), fill.rules.end(), find);
    for (const DerivedColumn& derived : sheet->plan.derived) find(derived.program);
    for (const ClaimPlan& claim : sheet->plan.claims) find(claim.program);
  }
  for (const PlotKeep& keeps : run.plot_keeps) {
    for (const auto& [sheet, program] : keeps) find(program);
  }
  for (const FitPlan& fit : run.fits) {
    for (const FitSheetPlan& sheet : fit.sheets) {
      if (sheet.keep) find(*sheet.keep);
    }
  }
  // What the uncertainties of points do to a curve is found out while these are known.
  for (std::size_t i = 0; i < run.fits.size(); ++i) {
    for (std::size_t k = 0; k < run.fits[i].sheets.size(); ++k) {
      const FitSheetPlan& points = run.fits[i].sheets[k];
      const SheetUncertainty& own = run.sheets[points.sheet]->plan.uncertainty;
      if (points.good && (own.reaches(points.x) || own.reaches(points.y))) used_fits_.insert({i, k});
    }
  }
  rows_.assign(run.sheets.size(), 0);
  lines_.assign(run.sheets.size(), false);
  for (const Task& task : run.order) {
    // What is computed in its database is known before.
    if (!run.sheets[task.sheet]->in_database || task.kind == Task::Kind::fit) plan(task);
  }
  for (std::size_t sheet = 0; sheet < run.sheets.size(); ++sheet) {
    if (run.sheets[sheet]->in_database) continue;
    for (const ClaimPlan& claim : run.sheets[sheet]->plan.claims) use(claim.program, 0, sheet);
    for (const SortKey& key : run.sheets[sheet]->plan.sort_by) hold(sheet, key.column, Held::values);
  }
  for (const PlotKeep& keeps : run.plot_keeps) {
    for (const auto& [sheet, program] : keeps) use(program, 0, sheet);
  }
  count_rounds(rows_);
  for (const auto& list : columns_) count_rounds(list);
  for (const auto& list : links_) count_rounds(list);
}

void PassPlan::count_rounds(const std::vector<std::size_t>& known) {
  for (const std::size_t round : known) rounds_ = std::max(rounds_, round + 1);
}

void PassPlan::find_used_fits(const Program& program) {
  for (const Stage& stage : program.stages) {
    if (stage.curve)
      used_fits_.emplace(stage.curve->fit, place_of(run_.fits[stage.curve->fit], stage.curve->sheet));
    for_each_operand(stage, [&](const Program& inner) { find_used_fits(inner); });
  }
}

std::size_t PassPlan::round_of(std::size_t sheet, std::size_t column) const {
  if (run_.sheets[sheet]->in_database) return 0;
  if (const auto of = uncertainty_of_[sheet][column]) return round_of(sheet, *of);
  for (const BorrowedColumn& borrowed : run_.sheets[sheet]->plan.borrowed) {
    if (borrowed.index != column) continue;
    const LinkPlan& link = run_.sheets[sheet]->plan.links[borrowed.link];
    const auto other = *link.sheet;
    return std::max(round_of_link(sheet, borrowed.link), round_of(other, borrowed.there) + 1);
  }
  return std::max(rows_[sheet], columns_[sheet][column]);
}

std::size_t PassPlan::round_of_link(std::size_t sheet, std::size_t link) const {
  const LinkPlan& plan = run_.sheets[sheet]->plan.links[link];
  std::size_t round = std::max(rows_[sheet], links_[sheet][link]);
  for (const LinkPlan::Keys& key : plan.keys) round = std::max(round, round_of(sheet, key.here));
  return round;
}

std::size_t PassPlan::operands_round(const Stage& stage, std::size_t sheet) const {
  std::size_t round = rows_[sheet];
  for_each_operand(stage, [&](const Program& operand) { round = std::max(round, round_of(operand, sheet)); });
  if (stage.over && stage.over->groups_of) {
    for (const std::size_t key : run_.sheets[*stage.over->groups_of]->plan.keys)
      round = std::max(round, round_of(sheet, key));
  }
  return round;
}

std::size_t PassPlan::ready(const Stage& stage, std::size_t user) const {
  if (stage.curve) {
    const FitPlace place{stage.curve->fit, place_of(run_.fits[stage.curve->fit], stage.curve->sheet)};
    const auto fit = early_fits_.find(place);
    return std::max(operands_round(stage, user), fit == early_fits_.end() ? 0 : fit->second);
  }
  return operands_round(stage, stage.over ? stage.over->sheet : user) + 1;
}

std::size_t PassPlan::round_of(const Program& program, std::size_t sheet) const {
  std::size_t round = rows_[sheet];
  for (const std::size_t input : program.inputs) round = std::max(round, round_of(sheet, input));
  for (const Stage& stage : program.stages) round = std::max(round, ready(stage, sheet));
  return round;
}

void PassPlan::use(const Program& program, OriginId own, std::size_t sheet) {
  for (const Stage& stage : program.stages) use(stage, own, sheet, sheet);
  rounds_ = std::max(rounds_, round_of(program, sheet) + 1);
}

void PassPlan::use(const Stage& stage, OriginId own, std::size_t user, std::size_t sheet) {
  const std::size_t over = stage.over ? stage.over->sheet : sheet;
  for_each_operand(stage, [&](const Program& operand) {
    for (const Stage& inner : operand.stages) use(inner, own, user, over);
  });
  stages_.push_back({&stage, own, over, operands_round(stage, over), over != user});
}

void PassPlan::hold(std::size_t sheet, std::size_t column, Held held) {
  held_[sheet][column] = std::max(held_[sheet][column], held);
  rounds_ = std::max(rounds_, round_of(sheet, column) + 1);
}

void PassPlan::plan(const Task& task) {
  const RunSheet& sheet = *run_.sheets[task.sheet];
  const std::deque<Column>& columns = sheet.table().columns;
  switch (task.kind) {
    case Task::Kind::derived: {
      const DerivedColumn& derived = sheet.plan.derived[task.index];
      if (!derived.good) return;
      columns_[task.sheet][derived.index] = round_of(derived.program, task.sheet);
      use(derived.program, columns[derived.index].origin, task.sheet);
      return;
    }
    case Task::Kind::fill: {
      const FillPlan& fill = sheet.plan.fills[task.index];
      std::size_t round = round_of(task.sheet, fill.measured);
      for (const Program& rule : fill.rules) {
        round = std::max(round, round_of(rule, task.sheet));
        use(rule, columns[fill.filled].origin, task.sheet);
      }
      columns_[task.sheet][fill.filled] = round;
      return;
    }
    case Task::Kind::link:
      return plan_link(task.sheet, task.index);
    case Task::Kind::rows:
      return plan_rows(task.sheet);
    case Task::Kind::taken: {
      const TakenColumn& taken = sheet.plan.taken[task.index];
      const auto source = *sheet.plan.source;
      std::size_t round = round_of(source, taken.there);
      hold(source, taken.there, Held::with_source);
      for (const std::size_t cell : taken.cells) {
        hold(source, cell, Held::with_source);
        round = std::max(round, round_of(source, cell));
      }
      columns_[task.sheet][taken.index] = round + 1;
      return;
    }
    case Task::Kind::fit:
      return plan_fit(task);
  }
}

void PassPlan::plan_link(std::size_t sheet, std::size_t link) {
  const SheetPlan& plan = run_.sheets[sheet]->plan;
  const LinkPlan& linked = plan.links[link];
  if (!linked.good) return;
  const auto other = *linked.sheet;
  // Keys that repeat are quoted with their lines.
  lines_[other] = lines_[other] || !linked.keys.empty();
  // Rows are numbered within their sources once both sheets have theirs.
  std::size_t round = std::max(rows_[other], linked.how == LinkHow::row ? rows_[sheet] : 0);
  for (const LinkPlan::Keys& key : linked.keys) {
    hold(other, key.there, Held::with_source);
    round = std::max(round, round_of(other, key.there) + 1);
  }
  links_[sheet][link] = round;
  for (const BorrowedColumn& borrowed : plan.borrowed) {
    if (borrowed.link == link) hold(other, borrowed.there, Held::values);
  }
}

void PassPlan::plan_rows(std::size_t sheet) {
  const SheetPlan& plan = run_.sheets[sheet]->plan;
  rows_[sheet] = plan.keep ? round_of_keep_links(*plan.keep) : 0;
  if (!plan.source) return;
  const auto source = *plan.source;
  lines_[source] = true;
  // How many rows there are, and in which lines, is known after a pass.
  std::size_t round = rows_[source] + 1;
  const auto need = [&](std::size_t column) {
    hold(source, column, Held::values);
    round = std::max(round, round_of(source, column) + 1);
  };
  for (const SortKey& key : run_.sheets[source]->plan.sort_by) need(key.column);
  for (const std::size_t key : plan.keys) need(key);
  if (plan.keep) {
    const std::vector<bool> looked = looked_at(*plan.keep);
    for (std::size_t i = 0; i < plan.taken.size(); ++i) {
      if (!looked[i]) continue;
      need(plan.taken[i].there);
      for (const std::size_t cell : plan.taken[i].cells) need(cell);
    }
    for (const TakenColumn& also : plan.keep_also) need(also.there);
  }
  rows_[sheet] = std::max(rows_[sheet], round);
}

// The round before whose passes what a condition finds in other sheets is held.
std::size_t PassPlan::round_of_keep_links(const KeepPlan& keep) {
  std::size_t round = 0;
  const auto need = [&](std::size_t sheet, std::size_t column, Held held) {
    hold(sheet, column, held);
    round = std::max(round, round_of(sheet, column) + 1);
  };
  for (const LinkPlan& link : keep.plan.links) {
    round = std::max(round, rows_[*link.sheet] + 1);
    for (const LinkPlan::Keys& key : link.keys) need(*link.sheet, key.there, Held::values);
  }
  for (const BorrowedColumn& borrowed : keep.plan.borrowed)
    need(*keep.plan.links[borrowed.link].sheet, borrowed.there, Held::values);
  return round;
}

void PassPlan::plan_fit(const Task& task) {
  const FitPlan& fit = run_.fits[task.index];
  const std::size_t place = place_of(fit, task.sheet);
  const FitSheetPlan& plan = fit.sheets[place];
  if (!plan.good) return;
  if (plan.keep) use(*plan.keep, 0, task.sheet);
  if (!is_early({task.index, place})) return;
  std::size_t round = plan.keep ? round_of(*plan.keep, task.sheet) : rows_[task.sheet];
  const auto need = [&](std::size_t column, Held held) {
    hold(task.sheet, column, held);
    round = std::max(round, round_of(task.sheet, column));
  };
  need(plan.x, Held::values);
  need(plan.y, Held::values);
  if (plan.by) need(*plan.by, Held::with_source);
  if (plan.weights) need(*plan.weights, Held::with_source);
  if (plan.x_error) need(*plan.x_error, Held::values);
  lines_[task.sheet] = lines_[task.sheet] || plan.weights.has_value();
  early_fits_[{task.index, place}] = round + 1;
  rounds_ = std::max(rounds_, round + 2);
}

}  // namespace opensum
