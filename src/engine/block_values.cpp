// What is computed in a block of rows.
#include "engine/block_values.h"

#include <algorithm>
#include <numeric>

#include "equation/operation.h"

namespace opensum {
namespace {

std::vector<const Column*> columns_of(const Block& block) {
  std::vector<const Column*> columns;
  columns.reserve(block.table.columns.size());
  for (const Column& column : block.table.columns) columns.push_back(&column);
  return columns;
}

}  // namespace

void BlockValues::compute(const Task& task, ComputedBlock& block) const {
  switch (task.kind) {
    case Task::Kind::link:
      return link(task.index, block);
    case Task::Kind::fill:
      return fill(task.index, block);
    case Task::Kind::derived:
      return derive(sheet_.plan.derived[task.index], block);
    case Task::Kind::rows:
    case Task::Kind::taken:
    case Task::Kind::fit:
      // Rows, columns taken over and fits are known before a pass.
      return;
  }
}

void BlockValues::link(std::size_t index, ComputedBlock& block) const {
  const LinkPlan& plan = sheet_.plan.links[index];
  const std::vector<BorrowedColumn>& all = sheet_.plan.borrowed;
  const bool used = std::any_of(all.begin(), all.end(),
                                [&](const BorrowedColumn& borrowed) { return borrowed.link == index; });
  if (plan.how == LinkHow::group && !used) return;
  const LinkFinder& finder = known_.links[number_][index];
  RowMap& map = block.links[index];
  if (plan.how == LinkHow::taken) {
    map = given_rows(sheet_.taken_rows.part(block.first_row, block.table.rows));
  } else if (plan.how == LinkHow::group) {
    const std::optional<Grouping>& grouping = run_.sheets[*plan.sheet]->grouping;
    if (!grouping) return;
    const auto first = grouping->group_of_row.begin() + static_cast<std::ptrdiff_t>(block.first_row);
    map = given_rows({first, first + static_cast<std::ptrdiff_t>(block.table.rows)});
  } else if (finder.by_place) {
    map = finder.by_place->find(block.table.source_rows);
  } else if (finder.by_keys) {
    std::vector<const Column*> here;
    for (const LinkPlan::Keys& key : plan.keys) here.push_back(&block.table.columns[key.here]);
    map = finder.by_keys->find(here, block.table.rows);
  } else {
    return;
  }
  for (std::size_t i = 0; i < sheet_.plan.borrowed.size(); ++i) {
    const BorrowedColumn& borrowed = sheet_.plan.borrowed[i];
    const std::optional<LinkedValues>& linked = known_.linked[number_][i];
    if (borrowed.link == index && linked) block.table.columns[borrowed.index].chunks = linked->of(map);
  }
}

void BlockValues::fill(std::size_t index, ComputedBlock& block) const {
  const FillPlan& plan = sheet_.plan.fills[index];
  Column& filled = block.table.columns[plan.filled];
  std::vector<std::vector<Chunk>> rules;
  rules.reserve(plan.rules.size());
  const auto made = std::make_shared<MadeTexts>();
  for (const Program& rule : plan.rules) {
    Evaluator evaluator(rule, filled.origin, made);
    rules.push_back(values(evaluator, rule, filled.origin, block));
  }
  FillResult& result = block.fills[index];
  result = {};
  result.cells = fill_gaps(block.table.columns[plan.measured], rules, filled);
  for (Chunk& chunk : filled.chunks) chunk.made = made;
  result.count_cells(plan.rules.size());
}

void BlockValues::derive(const DerivedColumn& derived, ComputedBlock& block) const {
  if (!derived.good) return;
  Column& column = block.table.columns[derived.index];
  Evaluator evaluator(derived.program, column.origin);
  column.chunks = values(evaluator, derived.program, column.origin, block);
  if (evaluator.left_out() > 0)
    block.left_out[column.symbol] = {evaluator.left_out(), evaluator.rows_left_out()};
}

std::vector<Chunk> BlockValues::values(const Program& program, OriginId own, const Block& block) const {
  Evaluator evaluator(program, own);
  return values(evaluator, program, own, block);
}

std::vector<Chunk> BlockValues::values(Evaluator& evaluator, const Program& program, OriginId own,
                                       const Block& block) const {
  std::vector<Chunk> chunks =
      evaluator.run_rows(columns_of(block), stages_of(program, own, block), block.table.rows);
  // What a link leads to stands in no cell of this sheet: a null that begins there is first that of the
  // result.
  for (const std::size_t input : program.inputs) {
    const Column& column = block.table.columns[input];
    if (!column.linked) continue;
    for (Chunk& chunk : chunks) {
      for (Null& null : chunk.nulls) {
        if (null && null.origin() == column.origin) null = Null(null.reason(), own);
      }
    }
  }
  return chunks;
}

std::vector<std::vector<Chunk>> BlockValues::stages_of(const Program& program, OriginId own,
                                                       const Block& block) const {
  std::vector<std::vector<Chunk>> stages;
  stages.reserve(program.stages.size());
  for (const Stage& stage : program.stages) stages.push_back(stage_values(stage, own, block));
  return stages;
}

std::vector<bool> BlockValues::holds(const Program& condition, const Block& block) const {
  const std::vector<Chunk> chunks = values(condition, 0, block);
  std::vector<bool> rows(block.table.rows);
  for (std::size_t row = 0; row < rows.size(); ++row) {
    const Chunk& chunk = chunks[row / kChunkRows];
    rows[row] = !chunk.null_at(row % kChunkRows) && chunk.numbers[row % kChunkRows] != 0;
  }
  return rows;
}

std::vector<Chunk> BlockValues::stage_values(const Stage& stage, OriginId own, const Block& block) const {
  if (stage.curve) {
    const HeldColumns curves(run_);
    return curves.fitted_values(stage, values(stage.value, own, block), own, block.first_row);
  }
  const StageRun& run = known_.stages.at(&stage)->run;
  if (stage.over || stage.keys.empty() || is_sequence(stage.op))
    return run.values(block.first_row, block.table.rows, nullptr);
  const LocalGroups groups = groups_of(stage, own, block);
  return run.values(block.first_row, block.table.rows, &groups);
}

std::vector<std::size_t> BlockValues::groups_in(const Stage& stage, OriginId own, const Block& block) const {
  std::vector<std::size_t> groups;
  if (stage.over && stage.over->groups_of) {
    // Each row stands for a group.
    groups.resize(block.table.rows);
    std::iota(groups.begin(), groups.end(), block.first_row);
  } else if (!stage.over && !stage.keys.empty()) {
    groups = known_.stages.at(&stage)->run.group_numbers(groups_of(stage, own, block));
  }
  return groups;
}

LocalGroups BlockValues::groups_of(const Stage& stage, OriginId own, const Block& block) const {
  std::vector<GroupKey> by;
  std::vector<std::vector<Chunk>> keys;
  if (stage.over) {
    for (const std::size_t key : run_.sheets[*stage.over->groups_of]->plan.keys) {
      const Column& column = block.table.columns[key];
      by.push_back({&column.chunks, column.kind, column.keeps_limits});
    }
  } else {
    keys.reserve(stage.keys.size());
    for (const Program& key : stage.keys) {
      keys.push_back(values(key, own, block));
      const bool column = key.instructions.empty() && key.result.source == Operand::Source::input;
      const bool limits = column && block.table.columns[key.inputs[key.result.index]].keeps_limits;
      by.push_back({&keys.back(), key.kind, limits});
    }
  }
  return local_groups(by, 0, block.table.rows);
}

StageRows BlockValues::rows_for(const StageRun& run, const Block& block) const {
  const Stage& stage = run.stage();
  StageRows rows;
  rows.rows = block.table.rows;
  rows.first_row = block.first_row;
  rows.values = values(stage.value, run.own(), block);
  if (!stage.where.empty()) rows.where = values(stage.where.front(), run.own(), block);
  if (!stage.beside.empty()) rows.beside = values(stage.beside.front(), run.own(), block);
  if (run.has_groups()) rows.groups = groups_of(stage, run.own(), block);
  return rows;
}

}  // namespace opensum
