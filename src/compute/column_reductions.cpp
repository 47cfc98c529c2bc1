// The reductions down the column.
#include "compute/column_reductions.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <span>
#include <string>
#include <unordered_map>

#include "compute/evaluator.h"
#include "compute/kernels.h"
#include "compute/sequences.h"

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

double sum_of(std::span<const double> values) {
  CompensatedSum sum;
  for (const double value : values) sum.add(value);
  return sum.value();
}

double mean_of(std::span<const double> values) { return sum_of(values) / static_cast<double>(values.size()); }

// The sample standard deviation in two passes, with the correction of Chan, Golub and LeVeque (1983) for the
// rounding of the mean.
double deviation_of(std::span<const double> values) {
  const double count = static_cast<double>(values.size());
  const double mean = mean_of(values);
  CompensatedSum squares;
  CompensatedSum rest;
  for (const double value : values) {
    squares.add((value - mean) * (value - mean));
    rest.add(value - mean);
  }
  const double left = rest.value() * rest.value() / count;
  return std::sqrt(std::max(squares.value() - left, 0.0) / (count - 1));
}

// Order statistics interpolated linearly at (n - 1) p.
double quantile_of(std::vector<double> values, double p) {
  std::sort(values.begin(), values.end());
  const double at = static_cast<double>(values.size() - 1) * p;
  const auto below = static_cast<std::size_t>(std::floor(at));
  const double part = at - std::floor(at);
  if (part == 0) return values[below];
  return values[below] + part * (values[below + 1] - values[below]);
}

double reduced(Op op, const std::vector<double>& values, double parameter) {
  switch (op) {
    case Op::col_sum:
      return sum_of(values);
    case Op::col_mean:
      return mean_of(values);
    case Op::col_median:
      return quantile_of(values, 0.5);
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

}  // namespace

std::vector<Chunk> reduce_column(const Stage& stage, const std::vector<const Column*>& columns,
                                 std::size_t rows, OriginId own, Origins& origins,
                                 std::vector<ReductionTally>& tallies) {
  const auto evaluated = [&](const Program& program) {
    Evaluator evaluator(program, own);
    std::vector<Chunk> chunks = evaluator.run_column(columns, rows, origins);
    tallies.insert(tallies.end(), evaluator.tallies().begin(), evaluator.tallies().end());
    return chunks;
  };
  const std::vector<Chunk> values = evaluated(stage.value);
  std::vector<std::vector<Chunk>> where;
  for (const Program& program : stage.where) where.push_back(evaluated(program));
  std::vector<std::vector<Chunk>> keys;
  for (const Program& program : stage.keys) keys.push_back(evaluated(program));

  std::vector<Group> groups(1);
  std::vector<std::size_t> group_of_row(rows, 0);
  std::unordered_map<std::string, std::size_t> known_keys;
  if (!keys.empty()) groups.clear();
  std::string bytes;
  for (std::size_t row = 0; row < rows; ++row) {
    const std::size_t i = row % kChunkRows;
    if (!keys.empty()) {
      bytes.clear();
      for (const std::vector<Chunk>& key : keys) append_key(bytes, chunk_of(key, row), i);
      const auto [found, is_new] = known_keys.try_emplace(bytes, groups.size());
      if (is_new) groups.emplace_back();
      group_of_row[row] = found->second;
    }
    if (!where.empty()) {
      const Chunk& condition = chunk_of(where.front(), row);
      if (condition.null_at(i) || condition.numbers[i] == 0) continue;
    }
    Group& group = groups[group_of_row[row]];
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

  if (is_sequence(stage.op)) return sequence_values(stage, values, group_of_row, groups.size(), own, origins);
  const Reducer reducer(stage, own, origins);
  std::vector<Outcome> outcomes;
  ReductionTally tally{stage.name, 0, 0};
  for (const Group& group : groups) {
    outcomes.push_back(reducer.run(group));
    tally.used += group.rows.size();
    tally.met += group.rows.size() + group.nulls;
  }
  if (stage.nulls.skip && stage.op <= Op::col_quantile && stage.op != Op::col_count) tallies.push_back(tally);
  std::vector<Chunk> result;
  for (std::size_t begin = 0; begin < rows; begin += kChunkRows) {
    const std::size_t size = std::min(kChunkRows, rows - begin);
    Chunk chunk;
    if (stage.kind == Kind::text) {
      chunk.texts.resize(size);
    } else {
      chunk.numbers.resize(size);
    }
    for (std::size_t i = 0; i < size; ++i) {
      const Outcome& outcome = outcomes[group_of_row[begin + i]];
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

}  // namespace opensum
