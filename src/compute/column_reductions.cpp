// The reductions down the column.
#include "compute/column_reductions.h"

#include <algorithm>
#include <numeric>

#include "base/parallel.h"
#include "compute/evaluator.h"
#include "compute/grouping.h"
#include "compute/reduction.h"
#include "compute/sequences.h"

namespace opensum {
namespace {

std::vector<Chunk> evaluated(const Program& program, const WholeColumns& whole) {
  Evaluator evaluator(program, whole.own, whole.made);
  std::vector<Chunk> chunks = evaluator.run_column(whole.columns, whole.rows, whole.origins, whole.study);
  const EvaluationNotes& notes = evaluator.notes();
  EvaluationNotes& all = whole.notes;
  all.tallies.insert(all.tallies.end(), notes.tallies.begin(), notes.tallies.end());
  all.order_faults.insert(all.order_faults.end(), notes.order_faults.begin(), notes.order_faults.end());
  all.inner_nulls.insert(all.inner_nulls.end(), notes.inner_nulls.begin(), notes.inner_nulls.end());
  return chunks;
}

}  // namespace

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
  for (const Program& key : keys) values.push_back(evaluated(key, whole));
  std::vector<GroupKey> by;
  by.reserve(keys.size());
  for (std::size_t k = 0; k < keys.size(); ++k) by.push_back({&values[k], keys[k].kind});
  return grouped(by, whole.rows);
}

Grouping group_rows(const std::vector<const Column*>& keys, std::size_t rows) {
  std::vector<GroupKey> by;
  by.reserve(keys.size());
  for (const Column* key : keys) by.push_back({&key->chunks, key->kind});
  return grouped(by, rows);
}

namespace {

void note(const InnerFaults& faults, const WholeColumns& whole) {
  for (InnerNulls& inner : faults.found()) whole.notes.inner_nulls.push_back(std::move(inner));
}

// What each group of rows comes to, with the texts kept alive.
std::vector<Outcome> reduced_groups(const Stage& stage, const std::vector<Chunk>& values,
                                    const Grouping& grouping, const WholeColumns& whole) {
  std::vector<Chunk> where;
  if (!stage.where.empty()) where = evaluated(stage.where.front(), whole);
  std::vector<Chunk> beside;
  if (!stage.beside.empty()) beside = evaluated(stage.beside.front(), whole);
  Reduction reduction(stage, whole.own);
  reduction.make_groups(grouping.groups);
  reduction.add({values, beside, where, grouping.group_of_row, grouping.group_of_row.size(), 0});
  std::vector<Outcome> outcomes = reduction.outcomes(whole.origins);
  for (Outcome& outcome : outcomes) {
    if (stage.kind == Kind::text) outcome.text = whole.made->emplace_back(outcome.text);
  }
  if (reduction.order_fault().count > 0)
    whole.notes.order_faults.push_back({stage.name, reduction.order_fault()});
  if (reduction.leaves_out()) whole.notes.tallies.push_back(reduction.tally());
  note(reduction.inner_faults(), whole);
  return outcomes;
}

// Gives each row the outcome of its group, and keeps texts alive.
std::vector<Chunk> spread_out(const Stage& stage, const std::vector<Outcome>& outcomes,
                              const Grouping& grouping, const std::shared_ptr<MadeTexts>& made) {
  std::vector<Chunk> chunks =
      spread_out(stage.kind, outcomes, grouping.group_of_row, grouping.group_of_row.size());
  for (Chunk& chunk : chunks) chunk.made = made;
  return chunks;
}

// A reduction over the rows of another sheet: one value for all rows here, or one for each, of its group.
std::vector<Chunk> foreign_reduction(const Stage& stage, const WholeColumns& whole) {
  const SheetColumns there = whole.study->columns_of(stage.over->sheet);
  const WholeColumns other{there.columns, there.rows,  whole.own,  whole.origins,
                           whole.made,    whole.notes, whole.study};
  const std::vector<Chunk> values = evaluated(stage.value, other);
  if (!stage.over->groups_of) {
    const std::vector<Outcome> outcomes = reduced_groups(stage, values, grouped({}, there.rows), other);
    return spread_out(stage, outcomes, grouped({}, whole.rows), whole.made);
  }
  const std::vector<Outcome> outcomes =
      reduced_groups(stage, values, whole.study->groups_of(*stage.over->groups_of), other);
  Grouping each_its_own;
  each_its_own.group_of_row.resize(whole.rows);
  std::iota(each_its_own.group_of_row.begin(), each_its_own.group_of_row.end(), std::size_t{0});
  return spread_out(stage, outcomes, each_its_own, whole.made);
}

}  // namespace

std::vector<Chunk> whole_column(const Stage& stage, const WholeColumns& whole) {
  if (stage.over) return foreign_reduction(stage, whole);
  const std::vector<Chunk> values = evaluated(stage.value, whole);
  const bool reduces = !stage.curve && !is_sequence(stage.op);
  if (!reduces) {
    InnerFaults faults;
    faults.note(values, whole.own, 0);
    note(faults, whole);
  }
  if (stage.curve) return whole.study->fitted_values(stage, values, whole.own);
  const Grouping grouping = group_rows(stage.keys, whole);
  if (!reduces) {
    std::vector<Chunk> along;
    if (!stage.beside.empty()) along = evaluated(stage.beside.front(), whole);
    return sequence_values(stage, values, along, grouping, whole);
  }
  return spread_out(stage, reduced_groups(stage, values, grouping, whole), grouping, whole.made);
}

}  // namespace opensum
