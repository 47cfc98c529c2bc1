// Standard uncertainties in a block of rows.
#include "engine/block_uncertainty.h"

#include <algorithm>
#include <cmath>

#include "compute/derivatives.h"
#include "equation/operation.h"
#include "fit/curve_sensitivity.h"

namespace opensum {
namespace {

double number_in(const std::vector<Chunk>& chunks, std::size_t row) {
  const Chunk& chunk = chunks[row / kChunkRows];
  return chunk.null_at(row % kChunkRows) ? std::nan("") : chunk.numbers[row % kChunkRows];
}

// By how much the value of a column in one row is above that in another; NaN for nulls.
double difference_of(const Column& column, std::size_t row, std::size_t other) {
  if (column.null(row) || column.null(other)) return std::nan("");
  return seconds_between(column.instant(other), column.instant(row));
}

std::vector<double>& part_of(UncertaintyParts& parts, std::size_t family, std::size_t rows) {
  std::vector<double>& part = parts.own[family];
  if (part.empty()) part.assign(rows, 0);
  return part;
}

double factor_of(const Conversion& change) { return change.multiply / change.divide; }

// Something on which a program depends, and how much it moves itself.
struct Variable {
  Operand operand;
  const UncertaintyParts* parts = nullptr;
};

}  // namespace

BlockUncertainty::BlockUncertainty(const StudyRun& run, const Known& known, std::size_t sheet)
    : run_(run),
      known_(known),
      uncertainty_(*run.uncertainty),
      sheet_(*run.sheets[sheet]),
      plan_(sheet_.plan.uncertainty),
      programs_([&run](std::size_t of,
                       std::size_t column) { return run.sheets[of]->plan.uncertainty.reaches(column); },
                run.fits, run.uncertainty->in_use()),
      number_(sheet),
      unknown_(sheet_.table().columns.size(), false),
      uncertainty_of_(sheet_.table().columns.size()) {
  for (const std::size_t column : plan_.unknown) unknown_[column] = true;
  for (const UncertainColumn& uncertain : plan_.columns) uncertainty_of_[uncertain.column] = uncertain.index;
}

void BlockUncertainty::begin(ComputedBlock& block) const {
  block.parts.clear();
  add_stated(block);
  add_taken(block);
  for (std::size_t column = 0; column < uncertainty_of_.size(); ++column) {
    const bool given = std::none_of(sheet_.plan.derived.begin(), sheet_.plan.derived.end(),
                                    [&](const DerivedColumn& derived) { return derived.index == column; });
    if (uncertainty_of_[column] && given) write(column, block);
  }
}

void BlockUncertainty::carry(const Task& task, const BlockValues& values, ComputedBlock& block) const {
  switch (task.kind) {
    case Task::Kind::link:
      carry_link(task.index, block);
      for (const BorrowedColumn& borrowed : sheet_.plan.borrowed) {
        if (borrowed.link == task.index) write(borrowed.index, block);
      }
      return;
    case Task::Kind::fill:
      carry_fill(task.index, values, block);
      return write(sheet_.plan.fills[task.index].filled, block);
    case Task::Kind::derived: {
      const DerivedColumn& derived = sheet_.plan.derived[task.index];
      if (!plan_.reaches(derived.index)) return;
      const OriginId own = block.table.columns[derived.index].origin;
      if (derived.good && !unknown_[derived.index])
        block.parts[derived.index] = parts_of(derived.program, own, values, block);
      return write(derived.index, block);
    }
    case Task::Kind::rows:
    case Task::Kind::taken:
    case Task::Kind::fit:
      return;
  }
}

void BlockUncertainty::add_stated(ComputedBlock& block) const {
  const std::size_t rows = block.table.rows;
  for (const StatedUncertainty& stated : plan_.stated) {
    const Column& column = block.table.columns[stated.column];
    if (column.chunks.empty()) continue;
    const std::size_t family = uncertainty_.family_of_source(number_, stated.source);
    std::vector<double>& part = part_of(block.parts[stated.column], family, rows);
    for (std::size_t row = 0; row < rows; ++row) {
      const double said = stated.from ? block.table.columns[*stated.from].number_or_nan(row) : 0;
      const double u = stated.of(column.number_or_nan(row), said, uncertainty_in_cell(stated, column, row));
      // A negative one says nothing.
      part[row] += u >= 0 ? u : std::nan("");
    }
  }
}

// Of rows of another sheet they are those of the cells there.
void BlockUncertainty::add_taken(ComputedBlock& block) const {
  for (const TakenColumn& taken : sheet_.plan.taken) {
    if (!plan_.reaches(taken.index) || block.table.columns[taken.index].chunks.empty()) continue;
    FormRows& rest = block.parts[taken.index].rest;
    std::vector<Term> terms;
    for (std::size_t row = 0; row < block.table.rows; ++row) {
      const std::size_t from = sheet_.taken_rows[block.first_row + row];
      const std::size_t cell = sheet_.taken_cells.empty() ? 0 : sheet_.taken_cells[block.first_row + row];
      terms.clear();
      if (const FormRows* there = uncertainty_.column(*sheet_.plan.source, taken.there_of(cell)))
        add_times(terms, there->row(from), taken.cells.empty() ? 1 : factor_of(taken.to_first[cell]));
      rest.add(terms);
    }
  }
}

// How fast the value of an interpolation changes with its last key. On a row of the table it is the mean of
// the slopes of the lines to both sides, at an end that of the one line.
double BlockUncertainty::slope(const LinkPlan& plan, std::size_t link, std::size_t borrowed, std::size_t row,
                               const ComputedBlock& block) const {
  const RowMap& map = block.links[link];
  const Table& other = run_.sheets[*plan.sheet]->table();
  const Column& there = other.columns[sheet_.plan.borrowed[borrowed].there];
  const LinkPlan::Keys& keys = plan.keys.back();
  const Column& key = other.columns[keys.there];
  const auto line = [&](std::size_t from, std::size_t to) {
    if (from == RowMap::kNone || to == RowMap::kNone) return std::nan("");
    const double along = difference_of(key, to, from) * factor_of(keys.conversion);
    return difference_of(there, to, from) / along;
  };
  const std::size_t at = map.first[row];
  if (map.second[row] != RowMap::kNone) return line(at, map.second[row]);
  std::vector<const Column*> here;
  for (const LinkPlan::Keys& each : plan.keys) here.push_back(&block.table.columns[each.here]);
  const auto [before, after] = known_.links[number_][link].by_keys->around(here, row);
  const double left = line(before, at);
  const double right = line(at, after);
  if (std::isnan(left)) return right;
  return std::isnan(right) ? left : (left + right) / 2;
}

void BlockUncertainty::carry_link(std::size_t link, ComputedBlock& block) const {
  const LinkPlan& plan = sheet_.plan.links[link];
  const std::size_t rows = block.table.rows;
  const RowMap& map = block.links[link];
  const bool interpolates = plan.how == LinkHow::interpolate && !plan.keys.empty();
  for (std::size_t i = 0; i < sheet_.plan.borrowed.size(); ++i) {
    const BorrowedColumn& borrowed = sheet_.plan.borrowed[i];
    const std::optional<LinkedValues>& values = known_.linked[number_][i];
    if (borrowed.link != link || !plan_.reaches(borrowed.index) || !values || map.first.empty()) continue;
    const FormRows* of_values = uncertainty_.column(*plan.sheet, borrowed.there);
    const FormRows* of_keys = nullptr;
    const UncertaintyParts* here = nullptr;
    std::vector<double> slopes;
    if (interpolates) {
      of_keys = uncertainty_.column(*plan.sheet, plan.keys.back().there);
      const auto found = block.parts.find(plan.keys.back().here);
      if (found != block.parts.end() && !found->second.none()) here = &found->second;
      slopes.assign(rows, std::nan(""));
      for (std::size_t row = 0; row < rows && (here != nullptr || of_keys != nullptr); ++row) {
        if (map.first[row] != RowMap::kNone) slopes[row] = slope(plan, link, i, row, block);
      }
    }
    UncertaintyParts parts;
    std::vector<Term> terms;
    for (std::size_t row = 0; row < rows; ++row) {
      terms.clear();
      const bool found = map.first[row] != RowMap::kNone;
      const bool two = found && !map.second.empty() && map.second[row] != RowMap::kNone;
      const double share = two ? map.part[row] : 0;
      if (found && of_values != nullptr) {
        add_times(terms, of_values->row(map.first[row]), 1 - share);
        if (two) add_times(terms, of_values->row(map.second[row]), share);
      }
      if (found && of_keys != nullptr) {
        // A place in the table that is off moves the lines through it.
        const double along = -slopes[row] * factor_of(plan.keys.back().conversion);
        add_times(terms, of_keys->row(map.first[row]), along * (1 - share));
        if (two) add_times(terms, of_keys->row(map.second[row]), along * share);
      }
      if (here != nullptr && here->rest.rows() > 0) add_times(terms, here->rest.row(row), slopes[row]);
      gather_terms(terms);
      parts.rest.add(terms);
    }
    if (here != nullptr) {
      for (const auto& [family, key_part] : here->own) {
        std::vector<double>& part = part_of(parts, family, rows);
        for (std::size_t row = 0; row < rows; ++row) part[row] += slopes[row] * key_part[row];
      }
    }
    if (parts.rest.no_terms()) parts.rest = {};
    block.parts[borrowed.index] = std::move(parts);
  }
}

// A cell that was filled has the deviations of its rule. Of a rule without any nothing is known.
void BlockUncertainty::carry_fill(std::size_t fill, const BlockValues& values, ComputedBlock& block) const {
  const FillPlan& plan = sheet_.plan.fills[fill];
  if (!plan_.reaches(plan.filled)) return;
  const std::size_t rows = block.table.rows;
  const OriginId own = block.table.columns[plan.filled].origin;
  const auto measured = block.parts.find(plan.measured);
  std::vector<UncertaintyParts> sources(1 + plan.rules.size());
  if (measured != block.parts.end()) sources[0] = measured->second;
  for (std::size_t rule = 0; rule < plan.rules.size(); ++rule)
    sources[1 + rule] = parts_of(plan.rules[rule], own, values, block);
  std::vector<std::size_t> source_of(rows, 0);
  for (const FilledCell& cell : block.fills[fill].cells) {
    if (cell.rule) source_of[cell.row] = 1 + *cell.rule;
  }
  UncertaintyParts parts;
  std::vector<Term> terms;
  for (std::size_t k = 0; k < sources.size(); ++k) {
    for (const auto& [family, by] : sources[k].own) {
      std::vector<double>& part = part_of(parts, family, rows);
      for (std::size_t row = 0; row < rows; ++row) {
        if (source_of[row] == k) part[row] = by[row];
      }
    }
  }
  for (std::size_t row = 0; row < rows; ++row) {
    const UncertaintyParts& source = sources[source_of[row]];
    if (source.none() && source_of[row] > 0 && !parts.own.empty()) {
      parts.own.begin()->second[row] = std::nan("");
    }
    if (source.rest.rows() > 0) {
      parts.rest.add(source.rest.row(row));
    } else {
      parts.rest.add({});
    }
  }
  if (parts.rest.no_terms()) parts.rest = {};
  block.parts[plan.filled] = std::move(parts);
}

UncertaintyParts BlockUncertainty::stage_parts(const Stage& stage, OriginId own, const BlockValues& values,
                                               const ComputedBlock& block) const {
  if (stage.curve) return curve_parts(stage, own, values, block);
  UncertaintyParts parts;
  const WholeForms* forms = uncertainty_.stage(stage);
  if (forms == nullptr) return parts;
  const std::size_t rows = block.table.rows;
  if (!forms->sums) {
    for (std::size_t row = 0; row < rows; ++row) parts.rest.add(forms->rows.row(block.first_row + row));
    return parts;
  }
  const std::vector<std::size_t> groups = values.groups_in(stage, own, block);
  if (groups.empty()) {
    parts.own[*forms->sums].assign(rows, 1);
    return parts;
  }
  for (const std::size_t group : groups) {
    const Term term{unknown_of(*forms->sums, group), 1};
    parts.rest.add({&term, 1});
  }
  return parts;
}

UncertaintyParts BlockUncertainty::curve_parts(const Stage& stage, OriginId own, const BlockValues& values,
                                               const ComputedBlock& block) const {
  UncertaintyParts parts;
  const std::size_t number = stage.curve->fit;
  const FitPlan& fit = run_.fits[number];
  std::size_t place = 0;
  while (fit.sheets[place].sheet != stage.curve->sheet) ++place;
  const FitForms* forms = uncertainty_.fit(number, place);
  if (forms == nullptr) return parts;
  const FitResult& result = run_.fit_results[number][place];
  const std::size_t rows = block.table.rows;
  const bool dated = fit.x.kind == Kind::date;
  const std::vector<Chunk> at = values.values(stage.value, own, block);
  const std::vector<Chunk> gives = values.stage_values(stage, own, block);
  const UncertaintyParts inner = parts_of(stage.value, own, values, block);
  std::vector<double> by_value(rows, 0);
  std::vector<Term> terms;
  for (std::size_t row = 0; row < rows; ++row) {
    terms.clear();
    const std::size_t index = stage.curve->own ? result.group_of_row[block.first_row + row] : 0;
    const double outcome = number_in(gives, row);
    if (!std::isnan(outcome)) {
      const FitGroup& group = result.groups[index];
      const auto from_origin = [&](const std::vector<Chunk>& chunks) {
        if (!dated) return number_in(chunks, row);
        return seconds_between(group.origin, chunks[row / kChunkRows].instant_at(row % kChunkRows));
      };
      std::vector<double> gradient;
      if (stage.op == Op::fit_parameter) {
        gradient =
            parameters_by_numbers(fit.curve, group.curve)[std::get<ParameterIndex>(stage.setting).index];
      } else {
        const bool solves = stage.op == Op::fit_solve;
        const double x = from_origin(solves ? gives : at);
        gradient = gradient_at(fit.curve, group.curve, x);
        const double slope = slope_at(fit.curve, group.curve, x);
        by_value[row] = solves ? 1 / slope : slope;
        for (double& each : gradient) each *= solves ? -1 / slope : 1;
      }
      for (std::size_t k = 0; k < gradient.size(); ++k)
        terms.push_back({unknown_of(forms->family, index * forms->count + k), gradient[k]});
    }
    if (inner.rest.rows() > 0) add_times(terms, inner.rest.row(row), by_value[row]);
    gather_terms(terms);
    parts.rest.add(terms);
  }
  for (const auto& [family, inner_part] : inner.own) {
    std::vector<double>& part = part_of(parts, family, rows);
    for (std::size_t row = 0; row < rows; ++row) {
      if (by_value[row] != 0) part[row] = by_value[row] * inner_part[row];
    }
  }
  return parts;
}

UncertaintyParts BlockUncertainty::parts_of(const Program& program, OriginId own, const BlockValues& values,
                                            const ComputedBlock& block) const {
  const std::size_t rows = block.table.rows;
  UncertaintyParts parts;
  std::vector<Variable> variables;
  std::vector<UncertaintyParts> of_stages(program.stages.size());
  std::vector<UncertaintyParts> of_numbers(program.uncertain.size());
  for (std::size_t k = 0; k < program.inputs.size(); ++k) {
    const auto found = block.parts.find(program.inputs[k]);
    if (found != block.parts.end() && !found->second.none())
      variables.push_back({{Operand::Source::input, static_cast<std::uint32_t>(k)}, &found->second});
  }
  for (std::size_t k = 0; k < program.stages.size(); ++k) {
    if (!programs_.is_uncertain(program.stages[k], number_)) continue;
    of_stages[k] = stage_parts(program.stages[k], own, values, block);
    variables.push_back({{Operand::Source::stage, static_cast<std::uint32_t>(k)}, &of_stages[k]});
  }
  for (std::size_t k = 0; k < program.uncertain.size(); ++k) {
    for (const NumberPart& part : program.uncertain[k].parts)
      of_numbers[k].own[uncertainty_.family_of_number(part.number)].assign(rows, part.by);
    variables.push_back({{Operand::Source::number, program.uncertain[k].index}, &of_numbers[k]});
  }
  if (variables.empty()) return parts;
  const bool has_rest = std::any_of(variables.begin(), variables.end(), [](const Variable& variable) {
    return !variable.parts->rest.no_terms();
  });
  std::vector<Operand> by;
  for (const Variable& variable : variables) by.push_back(variable.operand);
  const std::vector<std::vector<Chunk>> stages = values.stages_of(program, own, block);
  TangentEvaluator evaluator(program, by);
  std::vector<Term> terms;
  for (std::size_t begin = 0; begin < rows; begin += kChunkRows) {
    const std::size_t index = begin / kChunkRows;
    const std::size_t count = std::min(kChunkRows, rows - begin);
    std::vector<const Chunk*> inputs;
    inputs.reserve(program.inputs.size());
    for (const std::size_t input : program.inputs)
      inputs.push_back(&block.table.columns[input].chunks[index]);
    std::vector<const Chunk*> stage_chunks;
    stage_chunks.reserve(stages.size());
    for (const std::vector<Chunk>& stage : stages) stage_chunks.push_back(&stage[index]);
    const Tangents tangents = evaluator.run(inputs, stage_chunks, count);
    for (std::size_t k = 0; k < variables.size(); ++k) {
      const std::vector<double>& derivatives = tangents.derivatives[k];
      for (const auto& [family, input_part] : variables[k].parts->own) {
        std::vector<double>& part = part_of(parts, family, rows);
        for (std::size_t i = 0; i < count; ++i) {
          // What does not depend on an input has nothing of it, known or not.
          if (derivatives[i] != 0) part[begin + i] += derivatives[i] * input_part[begin + i];
        }
      }
    }
    for (std::size_t i = 0; has_rest && i < count; ++i) {
      terms.clear();
      for (std::size_t k = 0; k < variables.size() && !std::isnan(tangents.values[i]); ++k) {
        const FormRows& rest = variables[k].parts->rest;
        if (rest.rows() > 0) add_times(terms, rest.row(begin + i), tangents.derivatives[k][i]);
      }
      gather_terms(terms);
      parts.rest.add(terms);
    }
  }
  return parts;
}

void BlockUncertainty::write(std::size_t index, ComputedBlock& block) const {
  if (!uncertainty_of_[index]) return;
  const std::size_t rows = block.table.rows;
  const Column& of = block.table.columns[index];
  Column& column = block.table.columns[*uncertainty_of_[index]];
  column.chunks.clear();
  column.rows = rows;
  if (of.chunks.empty()) return;
  const Conversion to_shown = conversion(step_unit(of), column.unit);
  const auto parts = block.parts.find(index);
  const std::vector<double> sizes = parts == block.parts.end()
                                        ? std::vector<double>(rows, std::nan(""))
                                        : uncertainty_.sizes_of(parts->second, rows, block.first_row);
  for (std::size_t begin = 0; begin < rows; begin += kChunkRows) {
    const std::size_t count = std::min(kChunkRows, rows - begin);
    Chunk& chunk = column.chunks.emplace_back();
    chunk.numbers.assign(count, 0);
    for (std::size_t i = 0; i < count; ++i) {
      const double u = to_shown(sizes[begin + i]);
      const Null null = of.chunks[begin / kChunkRows].null_at(i);
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

}  // namespace opensum
