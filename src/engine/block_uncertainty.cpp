// Standard uncertainties in a block of rows.
#include "engine/block_uncertainty.h"

#include <algorithm>
#include <cmath>

#include "compute/derivatives.h"

namespace opensum {
namespace {

// The value of a column in a row; NaN for a null.
double value_at(const Column& column, std::size_t row) {
  return column.null(row) ? std::nan("") : column.number(row);
}

double number_in(const std::vector<Chunk>& chunks, std::size_t row) {
  const Chunk& chunk = chunks[row / kChunkRows];
  return chunk.null_at(row % kChunkRows) ? std::nan("") : chunk.numbers[row % kChunkRows];
}

// A column with its values moved by some amount each.
Column moved(const Column& column, const std::vector<double>& by) {
  Column other = column;
  for (std::size_t row = 0; row < column.rows; ++row)
    other.chunks[row / kChunkRows].numbers[row % kChunkRows] += by[row];
  return other;
}

std::vector<double>& part_of(UncertaintyParts& parts, std::size_t source, std::size_t rows) {
  std::vector<double>& part = parts[source];
  if (part.empty()) part.assign(rows, 0);
  return part;
}

}  // namespace

BlockUncertainty::BlockUncertainty(const StudyRun& run, const Known& known, std::size_t sheet)
    : run_(run),
      known_(known),
      sheet_(*run.sheets[sheet]),
      plan_(sheet_.plan.uncertainty),
      number_(sheet),
      unknown_(sheet_.table().columns.size(), false) {
  for (const std::size_t column : plan_.unknown) unknown_[column] = true;
}

void BlockUncertainty::compute(const std::vector<Task>& tasks, const BlockValues& values,
                               ComputedBlock& block) const {
  block.parts.clear();
  add_stated(block);
  for (const Task& task : tasks) {
    if (task.kind == Task::Kind::link) carry_link(task.index, block);
    if (task.kind == Task::Kind::fill) carry_fill(task.index, block);
    if (task.kind == Task::Kind::derived) carry_derived(sheet_.plan.derived[task.index], values, block);
  }
  write_columns(block);
}

void BlockUncertainty::add_stated(ComputedBlock& block) const {
  const std::size_t rows = block.table.rows;
  for (const StatedUncertainty& stated : plan_.stated) {
    const Column& column = block.table.columns[stated.column];
    if (column.chunks.empty()) continue;
    std::vector<double>& part = part_of(block.parts[stated.column], stated.source, rows);
    for (std::size_t row = 0; row < rows; ++row) {
      const double said = stated.from ? value_at(block.table.columns[*stated.from], row) : 0;
      const double u = stated.of(value_at(column, row), said);
      // A negative one says nothing.
      part[row] += u >= 0 ? u : std::nan("");
    }
  }
}

// How fast the values of an interpolation change with its last key: half the difference of those a little
// before and behind, so that on a row of the table it is the mean of the slopes on both sides.
std::vector<double> BlockUncertainty::slope(const LinkPlan& plan, std::size_t link,
                                            const LinkedValues& linked, const ComputedBlock& block) const {
  const std::size_t rows = block.table.rows;
  const Column& key = block.table.columns[plan.keys.back().here];
  // A small part of its uncertainty, which is what it may be off.
  constexpr double kLittle = 1e-3;
  std::vector<double> by(rows, 0);
  for (const auto& source : block.parts.at(plan.keys.back().here)) {
    for (std::size_t row = 0; row < rows; ++row) by[row] += source.second[row] * source.second[row];
  }
  for (double& step : by) step = std::isfinite(step) ? kLittle * std::sqrt(step) : 0;
  std::vector<double> ahead = by;
  std::vector<double> back(rows);
  std::transform(by.begin(), by.end(), back.begin(), [](double step) { return -step; });
  std::vector<const Column*> here;
  for (const LinkPlan::Keys& each : plan.keys) here.push_back(&block.table.columns[each.here]);
  const auto values_with = [&](const std::vector<double>& step) {
    const Column other = moved(key, step);
    here.back() = &other;
    return linked.of(known_.links[number_][link].by_keys->find(here, rows));
  };
  const std::vector<Chunk> before = values_with(back);
  const std::vector<Chunk> behind = values_with(ahead);
  const std::vector<Chunk> at = linked.of(block.links[link]);
  std::vector<double> slopes(rows, std::nan(""));
  for (std::size_t row = 0; row < rows; ++row) {
    const double low = number_in(before, row);
    const double high = number_in(behind, row);
    const double middle = number_in(at, row);
    if (by[row] == 0) continue;
    // At an end of the table there is one side only.
    if (std::isfinite(low) && std::isfinite(high)) {
      slopes[row] = (high - low) / (2 * by[row]);
    } else if (std::isfinite(high)) {
      slopes[row] = (high - middle) / by[row];
    } else if (std::isfinite(low)) {
      slopes[row] = (middle - low) / by[row];
    }
  }
  return slopes;
}

void BlockUncertainty::carry_link(std::size_t link, ComputedBlock& block) const {
  const LinkPlan& plan = sheet_.plan.links[link];
  const std::size_t rows = block.table.rows;
  const RowMap& map = block.links[link];
  for (const LinkedUncertainty& linked : plan_.linked) {
    const BorrowedColumn& borrowed = sheet_.plan.borrowed[linked.borrowed];
    const std::optional<LinkedValues>& values = known_.linked[number_][linked.borrowed];
    if (borrowed.link != link || !values || map.first.empty()) continue;
    UncertaintyParts& parts = block.parts[borrowed.index];
    const bool by_key = plan.how == LinkHow::interpolate && block.parts.contains(plan.keys.back().here);
    if (by_key) {
      const std::vector<double> slopes = slope(plan, link, *values, block);
      for (const auto& [source, key_part] : block.parts.at(plan.keys.back().here)) {
        std::vector<double>& part = part_of(parts, source, rows);
        for (std::size_t row = 0; row < rows; ++row) part[row] += slopes[row] * key_part[row];
      }
    }
    if (!linked.there) continue;
    const Column& there = run_.sheets[*plan.sheet]->table().columns[borrowed.there];
    std::vector<double>& first = part_of(parts, linked.there->source, rows);
    for (std::size_t row = 0; row < rows; ++row) {
      const bool found = map.first[row] != RowMap::kNone;
      const bool two = found && !map.second.empty() && map.second[row] != RowMap::kNone;
      const double share = two ? map.part[row] : 0;
      if (!found) continue;
      first[row] += (1 - share) * linked.there->of(value_at(there, map.first[row]), 0);
      if (!two) continue;
      std::vector<double>& second = part_of(parts, *linked.second_source, rows);
      second[row] += share * linked.there->of(value_at(there, map.second[row]), 0);
    }
  }
}

// Of a cell that was filled nothing is known.
void BlockUncertainty::carry_fill(std::size_t fill, ComputedBlock& block) const {
  const FillPlan& plan = sheet_.plan.fills[fill];
  const auto measured = block.parts.find(plan.measured);
  if (measured == block.parts.end()) return;
  UncertaintyParts parts = measured->second;
  const Column& column = block.table.columns[plan.measured];
  for (auto& [source, part] : parts) {
    for (std::size_t row = 0; row < block.table.rows; ++row) {
      if (column.null(row)) part[row] = std::nan("");
    }
  }
  block.parts[plan.filled] = std::move(parts);
}

void BlockUncertainty::carry_derived(const DerivedColumn& derived, const BlockValues& values,
                                     ComputedBlock& block) const {
  if (!derived.good || unknown_[derived.index]) return;
  const Program& program = derived.program;
  std::vector<std::size_t> by;
  for (std::size_t k = 0; k < program.inputs.size(); ++k) {
    if (block.parts.contains(program.inputs[k])) by.push_back(k);
  }
  if (by.empty()) return;
  const std::size_t rows = block.table.rows;
  const OriginId own = block.table.columns[derived.index].origin;
  const std::vector<std::vector<Chunk>> stages = values.stages_of(program, own, block);
  TangentEvaluator evaluator(program, by);
  UncertaintyParts& parts = block.parts[derived.index];
  for (std::size_t begin = 0; begin < rows; begin += kChunkRows) {
    const std::size_t index = begin / kChunkRows;
    const std::size_t count = std::min(kChunkRows, rows - begin);
    std::vector<const Chunk*> inputs;
    inputs.reserve(program.inputs.size());
    for (const std::size_t input : program.inputs)
      inputs.push_back(&block.table.columns[input].chunks[index]);
    std::vector<const Chunk*> of_stages;
    of_stages.reserve(stages.size());
    for (const std::vector<Chunk>& stage : stages) of_stages.push_back(&stage[index]);
    const Tangents tangents = evaluator.run(inputs, of_stages, count);
    for (std::size_t k = 0; k < by.size(); ++k) {
      for (const auto& [source, input_part] : block.parts.at(program.inputs[by[k]])) {
        std::vector<double>& part = part_of(parts, source, rows);
        for (std::size_t i = 0; i < count; ++i) {
          const double derivative = tangents.derivatives[k][i];
          // What does not depend on an input has nothing of it, known or not.
          if (derivative != 0) part[begin + i] += derivative * input_part[begin + i];
        }
      }
    }
  }
}

void BlockUncertainty::write_columns(ComputedBlock& block) const {
  const std::size_t rows = block.table.rows;
  for (const UncertainColumn& uncertain : plan_.columns) {
    const Column& of = block.table.columns[uncertain.column];
    Column& column = block.table.columns[uncertain.index];
    const Conversion to_shown = conversion(step_unit(of.unit), column.unit);
    const auto parts = block.parts.find(uncertain.column);
    const bool known = parts != block.parts.end();
    // Squares of large ones would be beyond what doubles hold.
    std::vector<double> sums(rows, known ? 0 : std::nan(""));
    if (known) {
      for (const auto& source : parts->second) {
        for (std::size_t row = 0; row < rows; ++row) sums[row] = std::hypot(sums[row], source.second[row]);
      }
    }
    column.chunks.clear();
    for (std::size_t begin = 0; begin < rows; begin += kChunkRows) {
      const std::size_t count = std::min(kChunkRows, rows - begin);
      Chunk& chunk = column.chunks.emplace_back();
      chunk.numbers.assign(count, 0);
      for (std::size_t i = 0; i < count; ++i) {
        const double u = to_shown(sums[begin + i]);
        const Null null = of.null(begin + i);
        if (!null && std::isfinite(u)) {
          chunk.numbers[i] = u;
          continue;
        }
        if (chunk.nulls.empty()) chunk.nulls.resize(count);
        // The uncertainty of a null is null for its reason; one that is not known is missing.
        chunk.nulls[i] = null ? null : Null(Reason::missing, column.origin);
      }
    }
  }
}

}  // namespace opensum
