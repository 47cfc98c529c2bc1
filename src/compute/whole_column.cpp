// Programs and functions of whole columns over columns that are held in memory.
#include "compute/whole_column.h"

#include <algorithm>
#include <utility>

#include "base/parallel.h"
#include "compute/evaluator.h"
#include "compute/grouping.h"
#include "compute/stage_run.h"

namespace opensum {
namespace {

// Texts of a chunk may look into those that functions of whole columns made, beside its own.
void keep_alive(Chunk& chunk, const std::shared_ptr<MadeTexts>& made) {
  using Both = std::pair<std::shared_ptr<const MadeTexts>, std::shared_ptr<const MadeTexts>>;
  const auto both = std::make_shared<const Both>(chunk.made, made);
  chunk.made = std::shared_ptr<const MadeTexts>(both, both->first.get());
}

}  // namespace

std::vector<Chunk> evaluate_column(const Program& program, const WholeColumns& whole) {
  std::vector<std::vector<Chunk>> stages;
  stages.reserve(program.stages.size());
  for (const Stage& stage : program.stages) stages.push_back(whole_column(stage, whole));
  const std::size_t parts = (whole.rows + kChunkRows - 1) / kChunkRows;
  std::vector<Chunk> chunks(parts);
  // Registers and made texts are each thread's own.
  std::vector<std::unique_ptr<Evaluator>> evaluators(std::min(threads(), parts));
  for_each_part_by(parts, [&](std::size_t thread, std::size_t part) {
    if (!evaluators[thread]) evaluators[thread] = std::make_unique<Evaluator>(program, whole.own);
    const std::size_t rows = std::min(kChunkRows, whole.rows - part * kChunkRows);
    chunks[part] = evaluators[thread]->run_chunk(whole.columns, stages, part, rows);
    if (program.kind == Kind::text) keep_alive(chunks[part], whole.made);
  });
  return chunks;
}

void RowList::add(std::size_t row) {
  constexpr std::size_t kKept = 5;
  if (++count <= kKept) rows.push_back(row);
}

namespace {

Grouping grouped(const std::vector<GroupKey>& keys, std::size_t rows) {
  Grouping grouping;
  grouping.group_of_row.assign(rows, 0);
  if (keys.empty()) return grouping;
  const std::size_t parts = (rows + kChunkRows - 1) / kChunkRows;
  std::vector<LocalGroups> local(parts);
  for_each_part(parts, [&](std::size_t part) {
    const std::size_t begin = part * kChunkRows;
    local[part] = local_groups(keys, begin, std::min(kChunkRows, rows - begin));
  });
  GroupNumbers numbers;
  std::vector<std::vector<std::size_t>> number_of(parts);
  for (std::size_t part = 0; part < parts; ++part) number_of[part] = numbers.add(local[part]);
  for_each_part(parts, [&](std::size_t part) {
    std::size_t* row = &grouping.group_of_row[part * kChunkRows];
    for (const std::uint32_t group : local[part].of_row) *row++ = number_of[part][group];
  });
  grouping.groups = numbers.count();
  return grouping;
}

}  // namespace

Grouping group_rows(const std::vector<Program>& keys, const WholeColumns& whole) {
  std::vector<std::vector<Chunk>> values;
  values.reserve(keys.size());
  for (const Program& key : keys) values.push_back(evaluate_column(key, whole));
  std::vector<GroupKey> by;
  by.reserve(keys.size());
  for (std::size_t k = 0; k < keys.size(); ++k) by.push_back({&values[k], keys[k].kind, false});
  return grouped(by, whole.rows);
}

Grouping group_rows(const std::vector<const Column*>& keys, std::size_t rows) {
  std::vector<GroupKey> by;
  by.reserve(keys.size());
  for (const Column* key : keys) by.push_back({&key->chunks, key->kind, key->keeps_limits});
  return grouped(by, rows);
}

namespace {

// What a curve gives, and the divisions by zero and the like in what it is given.
std::vector<Chunk> curve_values(const Stage& stage, const WholeColumns& whole) {
  const std::vector<Chunk> values = evaluate_column(stage.value, whole);
  InnerFaults faults;
  faults.note(values, whole.own, 0);
  for (InnerNulls& inner : faults.found()) whole.notes.inner_nulls.push_back(std::move(inner));
  return whole.study->fitted_values(stage, values, whole.own, 0);
}

// The groups of all rows among themselves, as numbered already.
LocalGroups as_local(const Grouping& grouping) {
  LocalGroups groups;
  for (std::size_t group = 0; group < grouping.groups; ++group) groups.keys.push_back(std::to_string(group));
  groups.of_row.assign(grouping.group_of_row.begin(), grouping.group_of_row.end());
  return groups;
}

// The groups of the rows that a function goes over.
LocalGroups groups_over(const Stage& stage, const WholeColumns& over) {
  if (stage.over) return as_local(over.study->groups_of(*stage.over->groups_of));
  return as_local(group_rows(stage.keys, over));
}

}  // namespace

std::vector<Chunk> whole_column(const Stage& stage, const WholeColumns& whole) {
  if (stage.curve) return curve_values(stage, whole);
  const SheetColumns there =
      stage.over ? whole.study->columns_of(stage.over->sheet) : SheetColumns{whole.columns, whole.rows};
  const WholeColumns over{there.columns, there.rows,  whole.own,  whole.origins,
                          whole.made,    whole.notes, whole.study};
  StageRun run(stage, whole.own);
  StageRows rows;
  rows.rows = over.rows;
  rows.values = evaluate_column(stage.value, over);
  if (run.has_groups()) rows.groups = groups_over(stage, over);
  if (!stage.where.empty()) rows.where = evaluate_column(stage.where.front(), over);
  if (!stage.beside.empty()) rows.beside = evaluate_column(stage.beside.front(), over);
  run.add(rows);
  run.finish(whole.origins);
  run.tell(whole.notes);
  std::vector<Chunk> values = run.values(0, whole.rows, run.has_groups() ? &rows.groups : nullptr);
  for (Chunk& chunk : values) {
    for (std::string_view& text : chunk.texts) text = whole.made->emplace_back(text);
    chunk.made = whole.made;
  }
  return values;
}

}  // namespace opensum
