// The reductions down the column.
#include "compute/column_reductions.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <numeric>
#include <span>
#include <string>
#include <unordered_map>

#include "compute/evaluator.h"
#include "compute/sequences.h"
#include "compute/statistics.h"

namespace opensum {
namespace {

// The rows of one group that take part, as they come.
struct Group {
  std::vector<double> numbers;          // known ones
  std::vector<std::string_view> texts;  // of a text column
  std::vector<std::size_t> rows;        // of the known ones
  std::size_t nulls = 0;
  std::vector<std::pair<std::size_t, Null>> null_rows;
};

// What a group comes to.
struct Outcome {
  double number = 0;
  std::string_view text;
  Null null;
};

const Chunk& chunk_of(const std::vector<Chunk>& chunks, std::size_t row) { return chunks[row / kChunkRows]; }

// The bytes of a key: equal keys have equal bytes, and a null is unlike every value.
void append_key(std::string& bytes, const Chunk& chunk, std::size_t i) {
  if (chunk.null_at(i)) {
    bytes += 'n';
    return;
  }
  if (!chunk.texts.empty()) {
    bytes += 't' + std::to_string(chunk.texts[i].size()) + ':';
    bytes += chunk.texts[i];
    return;
  }
  const double number = chunk.numbers[i] == 0 ? 0 : chunk.numbers[i];
  char raw[sizeof number];
  std::memcpy(raw, &number, sizeof number);
  bytes += 'd';
  bytes.append(raw, sizeof number);
}

double reduced(Op op, std::vector<double> values, double parameter) {
  switch (op) {
    case Op::col_sum:
      return sum_of(values);
    case Op::col_mean:
      return mean_of(values);
    case Op::col_median:
      return median_of(values);
    case Op::col_quantile:
      return quantile_of(values, parameter);
    case Op::col_min:
      return *std::min_element(values.begin(), values.end());
    case Op::col_max:
      return *std::max_element(values.begin(), values.end());
    case Op::col_range:
      return *std::max_element(values.begin(), values.end()) -
             *std::min_element(values.begin(), values.end());
    case Op::col_sd:
      return deviation_of(values);
    default:  // col_sem
      return deviation_of(values) / std::sqrt(static_cast<double>(values.size()));
  }
}

class Reducer {
 public:
  Reducer(const Stage& stage, OriginId own, Origins& origins) : stage_(stage), own_(own), origins_(origins) {}

  Outcome run(const Group& group) const {
    switch (stage_.op) {
      case Op::col_count: {
        Outcome outcome;
        outcome.number = static_cast<double>(group.rows.size());
        return outcome;
      }
      case Op::col_first:
        return cell(group, 0);
      case Op::col_last:
        return cell(group, group.rows.size() + group.nulls - 1);
      case Op::col_at:
        return cell(group, static_cast<std::size_t>(stage_.parameter) - 1);
      case Op::col_first_known:
        return group.rows.empty() ? too_few() : known(group, 0);
      case Op::col_last_known:
        return group.rows.empty() ? too_few() : known(group, group.rows.size() - 1);
      default:
        return reduction(group);
    }
  }

 private:
  Outcome too_few() const {
    Outcome outcome;
    outcome.null = Null(Reason::too_few, own_);
    return outcome;
  }

  static Outcome known(const Group& group, std::size_t index) {
    Outcome outcome;
    if (group.texts.empty()) {
      outcome.number = group.numbers[index];
    } else {
      outcome.text = group.texts[index];
    }
    return outcome;
  }

  // The null of a cell in another row, with that row.
  Outcome null_of(const std::pair<std::size_t, Null>& cell) const {
    Outcome outcome;
    outcome.null = origins_.in_row(cell.second, cell.first);
    return outcome;
  }

  // The n-th row of the group, known or null.
  Outcome cell(const Group& group, std::size_t index) const {
    if (index >= group.rows.size() + group.nulls) return too_few();
    std::size_t nulls_before = 0;
    for (const auto& null_row : group.null_rows) {
      const auto known_before = static_cast<std::size_t>(
          std::lower_bound(group.rows.begin(), group.rows.end(), null_row.first) - group.rows.begin());
      const std::size_t position = known_before + nulls_before;
      if (position == index) return null_of(null_row);
      if (position > index) break;
      ++nulls_before;
    }
    return known(group, index - nulls_before);
  }

  Outcome reduction(const Group& group) const {
    if (group.nulls > 0 && !stage_.nulls.skip) return null_of(group.null_rows.front());
    const bool spread = stage_.op == Op::col_sd || stage_.op == Op::col_sem;
    const std::size_t least =
        std::max<std::size_t>(static_cast<std::size_t>(stage_.nulls.at_least), spread ? 2 : 1);
    if (group.numbers.size() < least) return too_few();
    Outcome outcome;
    outcome.number = reduced(stage_.op, group.numbers, stage_.parameter);
    if (!std::isfinite(outcome.number)) {
      outcome.number = 0;
      outcome.null = Null(Reason::overflow, own_);
    }
    return outcome;
  }

  const Stage& stage_;
  OriginId own_;
  Origins& origins_;
};

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

// Divisions by zero and the like in the operand of a reduction would be left out and not be seen.
void note_inner_nulls(const std::vector<Chunk>& values, const WholeColumns& whole) {
  for (const Reason reason : {Reason::divide_by_zero, Reason::domain}) {
    InnerNulls inner{reason, {}};
    const Null wanted(reason, whole.own);
    for (std::size_t chunk = 0; chunk < values.size(); ++chunk) {
      for (std::size_t i = 0; i < values[chunk].nulls.size(); ++i) {
        if (values[chunk].nulls[i] == wanted) inner.rows.add(chunk * kChunkRows + i);
      }
    }
    if (inner.rows.count > 0) whole.notes.inner_nulls.push_back(std::move(inner));
  }
}

// The rows of each group that take part.
std::vector<Group> gathered(const std::vector<Chunk>& values, const std::vector<Chunk>& where,
                            const Grouping& grouping) {
  std::vector<Group> groups(grouping.groups);
  for (std::size_t row = 0; row < grouping.group_of_row.size(); ++row) {
    const std::size_t i = row % kChunkRows;
    if (!where.empty()) {
      const Chunk& condition = chunk_of(where, row);
      if (condition.null_at(i) || condition.numbers[i] == 0) continue;
    }
    Group& group = groups[grouping.group_of_row[row]];
    const Chunk& value = chunk_of(values, row);
    if (const Null null = value.null_at(i)) {
      ++group.nulls;
      group.null_rows.emplace_back(row, null);
    } else {
      group.rows.push_back(row);
      if (value.texts.empty()) {
        group.numbers.push_back(value.numbers[i]);
      } else {
        group.texts.push_back(value.texts[i]);
      }
    }
  }
  return groups;
}

}  // namespace

void RowList::add(std::size_t row) {
  constexpr std::size_t kKept = 5;
  if (++count <= kKept) rows.push_back(row);
}

namespace {

Grouping grouped(const std::vector<const std::vector<Chunk>*>& keys, std::size_t rows) {
  Grouping grouping;
  grouping.group_of_row.assign(rows, 0);
  if (keys.empty()) return grouping;
  std::unordered_map<std::string, std::size_t> known;
  std::string bytes;
  for (std::size_t row = 0; row < rows; ++row) {
    bytes.clear();
    for (const std::vector<Chunk>* key : keys) append_key(bytes, chunk_of(*key, row), row % kChunkRows);
    grouping.group_of_row[row] = known.try_emplace(bytes, known.size()).first->second;
  }
  grouping.groups = known.size();
  return grouping;
}

}  // namespace

Grouping group_rows(const std::vector<Program>& keys, const WholeColumns& whole) {
  std::vector<std::vector<Chunk>> values;
  values.reserve(keys.size());
  for (const Program& key : keys) values.push_back(evaluated(key, whole));
  std::vector<const std::vector<Chunk>*> pointers;
  pointers.reserve(keys.size());
  for (const std::vector<Chunk>& key : values) pointers.push_back(&key);
  return grouped(pointers, whole.rows);
}

Grouping group_rows(const std::vector<const Column*>& keys, std::size_t rows) {
  std::vector<const std::vector<Chunk>*> pointers;
  pointers.reserve(keys.size());
  for (const Column* key : keys) pointers.push_back(&key->chunks);
  return grouped(pointers, rows);
}

namespace {

// What each group of rows comes to.
std::vector<Outcome> reduced_groups(const Stage& stage, const std::vector<Chunk>& values,
                                    const Grouping& grouping, const WholeColumns& whole) {
  std::vector<Chunk> where;
  if (!stage.where.empty()) where = evaluated(stage.where.front(), whole);
  const std::vector<Group> groups = gathered(values, where, grouping);
  const Reducer reducer(stage, whole.own, whole.origins);
  std::vector<Outcome> outcomes;
  ReductionTally tally{stage.name, 0, 0};
  for (const Group& group : groups) {
    outcomes.push_back(reducer.run(group));
    tally.used += group.rows.size();
    tally.met += group.rows.size() + group.nulls;
  }
  if (stage.nulls.skip && stage.op <= Op::col_quantile && stage.op != Op::col_count) {
    whole.notes.tallies.push_back(tally);
  }
  return outcomes;
}

// Gives each row the outcome of its group.
std::vector<Chunk> spread_out(const Stage& stage, const std::vector<Outcome>& outcomes,
                              const Grouping& grouping, const std::shared_ptr<MadeTexts>& made) {
  const std::size_t rows = grouping.group_of_row.size();
  std::vector<Chunk> result;
  for (std::size_t begin = 0; begin < rows; begin += kChunkRows) {
    const std::size_t size = std::min(kChunkRows, rows - begin);
    Chunk chunk;
    chunk.made = made;
    if (stage.kind == Kind::text) {
      chunk.texts.resize(size);
    } else {
      chunk.numbers.resize(size);
    }
    for (std::size_t i = 0; i < size; ++i) {
      const Outcome& outcome = outcomes[grouping.group_of_row[begin + i]];
      if (stage.kind == Kind::text) {
        chunk.texts[i] = outcome.text;
      } else {
        chunk.numbers[i] = outcome.number;
      }
      if (!outcome.null) continue;
      if (chunk.nulls.empty()) chunk.nulls.resize(size);
      chunk.nulls[i] = outcome.null;
    }
    result.push_back(std::move(chunk));
  }
  return result;
}

// A reduction over the rows of another sheet: one value for all rows here, or one for each, of its group.
std::vector<Chunk> foreign_reduction(const Stage& stage, const WholeColumns& whole) {
  const SheetColumns there = whole.study->columns_of(stage.sheet);
  const WholeColumns other{there.columns, there.rows,  whole.own,  whole.origins,
                           whole.made,    whole.notes, whole.study};
  const std::vector<Chunk> values = evaluated(stage.value, other);
  note_inner_nulls(values, other);
  if (stage.groups_of < 0) {
    const std::vector<Outcome> outcomes = reduced_groups(stage, values, grouped({}, there.rows), other);
    return spread_out(stage, outcomes, grouped({}, whole.rows), whole.made);
  }
  const std::vector<Outcome> outcomes =
      reduced_groups(stage, values, whole.study->groups_of(stage.groups_of), other);
  Grouping each_its_own;
  each_its_own.group_of_row.resize(whole.rows);
  std::iota(each_its_own.group_of_row.begin(), each_its_own.group_of_row.end(), std::size_t{0});
  return spread_out(stage, outcomes, each_its_own, whole.made);
}

}  // namespace

std::vector<Chunk> whole_column(const Stage& stage, const WholeColumns& whole) {
  if (stage.sheet >= 0) return foreign_reduction(stage, whole);
  const std::vector<Chunk> values = evaluated(stage.value, whole);
  note_inner_nulls(values, whole);
  if (stage.fit >= 0) return whole.study->fitted_values(stage, values, whole.own);
  const Grouping grouping = group_rows(stage.keys, whole);
  if (is_sequence(stage.op)) {
    std::vector<Chunk> along;
    if (!stage.along.empty()) along = evaluated(stage.along.front(), whole);
    return sequence_values(stage, values, along, grouping, whole);
  }
  return spread_out(stage, reduced_groups(stage, values, grouping, whole), grouping, whole.made);
}

}  // namespace opensum
