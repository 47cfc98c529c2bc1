// Uncertainties by sampling.
#include "again/monte_carlo.h"

#include <algorithm>
#include <cmath>

#include "base/parallel.h"
#include "base/result.h"
#include "compute/quantiles.h"
#include "equation/operation.h"
#include "run/compute.h"
#include "run/prepare.h"

namespace opensum {
namespace {

constexpr double kCoverage = 0.95;

// A derived column whose values are sampled.
struct Target {
  std::size_t sheet = 0;
  std::size_t column = 0;
  std::size_t uncertainty = 0;
  std::size_t first = 0;  // where the values of its rows begin
};

std::vector<Target> targets_of(const PreparedStudy& prepared) {
  std::vector<Target> targets;
  for (std::size_t i = 0; i < prepared.sheets.size(); ++i) {
    const RunSheet& sheet = *prepared.sheets[i];
    if (sheet.model->hidden) continue;
    for (const UncertainColumn& uncertain : sheet.plan.uncertainty.columns) {
      const bool number = sheet.table().columns[uncertain.column].kind == Kind::number;
      if (number && !sheet.table().columns[uncertain.index].linked)
        targets.push_back({i, uncertain.column, uncertain.index});
    }
  }
  return targets;
}

// Computes a study with its targets held.
void compute_targets(PreparedStudy& prepared, const std::vector<Target>& targets, Diagnostics& diagnostics) {
  std::vector<LastWishes> wishes(prepared.sheets.size());
  for (std::size_t i = 0; i < wishes.size(); ++i) {
    wishes[i].held.assign(prepared.sheets[i]->table().columns.size(), Held::nothing);
    wishes[i].lines = true;
  }
  for (const Target& target : targets) {
    wishes[target.sheet].held[target.column] = Held::values;
    wishes[target.sheet].held[target.uncertainty] = Held::values;
  }
  compute(prepared, wishes, diagnostics);
}

double value_in(const Column& column, std::size_t row) {
  return column.null(row) ? std::nan("") : column.number(row);
}

// The value at a fraction of sorted ones (JCGM 101:2008, 7.7.1).
double at_part(const std::vector<double>& sorted, double part) {
  const auto place = static_cast<std::size_t>(std::floor(part * static_cast<double>(sorted.size())));
  return sorted[std::min(place, sorted.size() - 1)];
}

// Mean, deviation and intervals of the known ones among what trials gave.
void judge(std::vector<double> values, SampledValue& cell) {
  values.erase(std::remove_if(values.begin(), values.end(), [](double v) { return std::isnan(v); }),
               values.end());
  cell.known = values.size();
  if (values.size() < 2) return;
  std::sort(values.begin(), values.end());
  const auto count = static_cast<double>(values.size());
  // Beside the value, so that no digits are lost.
  double sum = 0;
  double squares = 0;
  for (const double value : values) sum += value - cell.value;
  for (const double value : values) squares += std::pow(value - cell.value - sum / count, 2);
  cell.mean = cell.value + sum / count;
  cell.uncertainty = std::sqrt(squares / (count - 1));
  const auto width = static_cast<std::size_t>(std::ceil(kCoverage * count));
  std::size_t best = 0;
  for (std::size_t begin = 0; begin + width < values.size(); ++begin) {
    if (values[begin + width] - values[begin] < values[best + width] - values[best]) best = begin;
  }
  cell.low = values[best];
  cell.high = values[std::min(best + width, values.size() - 1)];
  if (!(cell.linear > 0)) return;
  const double reach = quantile(Op::normal_quantile, (1 + kCoverage) / 2, 0);
  const double tail = (1 - kCoverage) / 2;
  // Half of the last of two digits (8.1.1), and four standard errors of such an end for a normal
  // distribution.
  const double digit = std::pow(10, std::floor(std::log10(cell.linear)) - 1);
  const double density = 1 / slope_of_quantile(Op::normal_quantile, reach, 0);
  const double open = 4 * std::sqrt(tail * (1 - tail) / count) / density * cell.linear;
  const double off = std::max(std::fabs(cell.value - reach * cell.linear - at_part(values, tail)),
                              std::fabs(cell.value + reach * cell.linear - at_part(values, 1 - tail)));
  cell.differs = off > digit / 2 + open;
}

}  // namespace

Result<SamplingFacts> sample_study(const std::string& path, const SamplingOptions& options,
                                   const StudyChanges& changes, Diagnostics& diagnostics) {
  const auto linear = prepare_study_file(path, diagnostics, Rows::read, std::nullopt, changes);
  if (!linear || diagnostics.has_errors()) return std::nullopt;
  std::vector<Target> targets = targets_of(*linear);
  if (targets.empty()) {
    diagnostics.add(Code::nothing_uncertain, {path});
    return std::nullopt;
  }
  compute_targets(*linear, targets, diagnostics);
  if (diagnostics.has_errors()) return std::nullopt;
  std::size_t cells = 0;
  for (Target& target : targets) {
    target.first = cells;
    cells += linear->sheets[target.sheet]->table().rows;
  }
  // 400 MB.
  constexpr std::size_t kMostValues = 50'000'000;
  if (cells > kMostValues / options.trials) {
    diagnostics.add(Code::too_many_trials, {std::to_string(options.trials), std::to_string(cells),
                                            std::to_string(kMostValues / std::max<std::size_t>(cells, 1))});
    return std::nullopt;
  }
  SamplingFacts facts;
  facts.trials = options.trials;
  facts.seed = options.seed;
  std::vector<std::vector<double>> values(cells, std::vector<double>(options.trials, std::nan("")));
  std::vector<char> other_rows(options.trials, 0);
  for_each_part(options.trials, [&](std::size_t number) {
    Diagnostics of_trial;
    const auto prepared =
        prepare_study_file(path, of_trial, Rows::read, Trial{options.seed, number}, changes);
    if (!prepared || of_trial.has_errors()) return;
    compute_targets(*prepared, targets, of_trial);
    if (of_trial.has_errors()) return;
    for (const Target& target : targets) {
      const Table& table = prepared->sheets[target.sheet]->table();
      if (table.rows != linear->sheets[target.sheet]->table().rows) {
        other_rows[number] = 1;
        continue;
      }
      for (std::size_t row = 0; row < table.rows; ++row)
        values[target.first + row][number] = value_in(table.columns[target.column], row);
    }
  });
  facts.trials_with_other_rows =
      static_cast<std::size_t>(std::count(other_rows.begin(), other_rows.end(), 1));
  for (const Target& target : targets) {
    const RunSheet& sheet = *linear->sheets[target.sheet];
    const Table& table = sheet.table();
    const Column& column = table.columns[target.column];
    const Column& u = table.columns[target.uncertainty];
    const std::size_t first = facts.values.size();
    for (std::size_t row = 0; row < table.rows; ++row) {
      if (column.null(row)) continue;
      SampledValue& cell = facts.values.emplace_back();
      cell.sheet = sheet.model->name;
      cell.row = table.place_of(row) + 1;
      cell.column = column.symbol;
      cell.unit = column.unit.text();
      cell.unit_of_uncertainty = u.unit.text();
      cell.value = column.number(row);
      // A reading in °C has its uncertainty in K: both in steps of the reading here.
      const Conversion to_step = conversion(step_unit(u.unit), step_unit(column.unit));
      cell.linear = u.null(row) ? std::nan("") : to_step(u.number(row));
      cell.to_shown = conversion(step_unit(column.unit), step_unit(u.unit));
      judge(values[target.first + row], cell);
    }
    std::sort(facts.values.begin() + static_cast<std::ptrdiff_t>(first), facts.values.end(),
              [](const SampledValue& a, const SampledValue& b) { return a.row < b.row; });
  }
  return facts;
}

}  // namespace opensum
