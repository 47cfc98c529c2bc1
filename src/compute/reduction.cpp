// The state of a reduction down the column.
#include "compute/reduction.h"

#include <algorithm>
#include <cmath>

#include "equation/operation.h"

namespace opensum {
namespace {

bool is_sum(Op op) { return op == Op::col_sum || op == Op::col_mean || op == Op::col_geometric_mean; }
bool is_spread(Op op) { return op == Op::col_sd || op == Op::col_sem; }
bool is_extreme(Op op) { return op == Op::col_min || op == Op::col_max || op == Op::col_range; }
bool keeps_values(Op op) { return op == Op::col_median || op == Op::col_quantile || op == Op::col_mad; }
bool is_cell(Op op) { return family_of(op) == OpFamily::cell_of_column; }

// How many values it takes to say anything.
std::size_t least_values(Op op) {
  return is_spread(op) || op == Op::col_correlation || op == Op::col_area ? 2 : 1;
}

// Half of the values are nearer to their median than this.
double median_distance(std::vector<double>& values) {
  const double middle = median_of(values);
  for (double& value : values) value = std::fabs(value - middle);
  return median_of(values);
}

// Whether the condition holds in row i of a chunk; where there is none it does.
bool takes_part(const std::vector<Chunk>& where, std::size_t chunk, std::size_t i) {
  return where.empty() || (!where[chunk].null_at(i) && where[chunk].numbers[i] != 0);
}

}  // namespace

void Reduction::make_groups(std::size_t groups) {
  if (groups <= counts_.size()) return;
  counts_.resize(groups);
  if (is_sum(stage_.op)) sums_.resize(groups);
  if (is_spread(stage_.op)) spreads_.resize(groups);
  if (is_extreme(stage_.op)) extremes_.resize(groups);
  if (of_dates_) dates_.resize(groups);
  if (stage_.op == Op::col_rms) squares_.resize(groups);
  if (stage_.op == Op::col_geometric_mean) not_positive_.resize(groups);
  if (stage_.op == Op::col_weighted_mean) weighted_.resize(groups);
  if (stage_.op == Op::col_correlation) common_.resize(groups);
  if (stage_.op == Op::col_area) strips_.resize(groups);
  if (keeps_values(stage_.op)) values_.resize(groups);
  if (is_cell(stage_.op)) cells_.resize(groups);
}

// Counts the rows that take part and hands known numbers on.
template <typename Known>
void Reduction::take(const ReducedRows& rows, const Known& known) {
  for (std::size_t row = 0; row < rows.rows; ++row) {
    const std::size_t chunk = row / kChunkRows;
    const std::size_t i = row % kChunkRows;
    if (!takes_part(rows.where, chunk, i)) continue;
    const std::size_t group = rows.group_of_row.empty() ? 0 : rows.group_of_row[row];
    Count& count = counts_[group];
    Null null = rows.values[chunk].null_at(i);
    if (!null && !rows.beside.empty()) null = rows.beside[chunk].null_at(i);
    if (null) {
      if (count.nulls++ == 0) {
        count.first_null = null;
        count.first_null_row = rows.first_row + row;
      }
      continue;
    }
    ++count.known;
    known(group, rows.values[chunk].numbers.data(), i, row);
  }
}

void Reduction::add_weighted(std::size_t group, double value, double weight) {
  Weighted& mean = weighted_[group];
  if (counts_[group].known == 1) mean.first = value;
  mean.products.add(weight * (value - mean.first));
  mean.weights.add(weight);
  mean.negative = mean.negative || weight < 0;
}

void Reduction::add_strip(std::size_t group, double y, const Instant& x, std::size_t row) {
  Strips& strips = strips_[group];
  if (counts_[group].known > 1) {
    strips.sum.add(seconds_between(strips.x, x) * (strips.y / 2 + y / 2));
    if (!(x > strips.x)) {
      strips.disordered = true;
      order_fault_.add(row);
    }
  }
  strips.x = x;
  strips.y = y;
}

// Keeps the one row of each group that is asked for.
void Reduction::take_cells(const ReducedRows& rows) {
  const bool of_known = stage_.op == Op::col_first_known || stage_.op == Op::col_last_known;
  const bool last = stage_.op == Op::col_last || stage_.op == Op::col_last_known;
  const std::size_t wanted = stage_.op == Op::col_at ? std::get<RowNumber>(stage_.setting).number - 1 : 0;
  for (std::size_t row = 0; row < rows.rows; ++row) {
    const std::size_t i = row % kChunkRows;
    if (!takes_part(rows.where, row / kChunkRows, i)) continue;
    const std::size_t group = rows.group_of_row.empty() ? 0 : rows.group_of_row[row];
    const Chunk& values = rows.values[row / kChunkRows];
    const Null null = values.null_at(i);
    Count& count = counts_[group];
    const std::size_t place = of_known ? count.known : count.known + count.nulls;
    ++(null ? count.nulls : count.known);
    if ((of_known && null) || (!last && place != wanted)) continue;
    Cell& cell = cells_[group] ? *cells_[group] : cells_[group].emplace();
    cell.null = null;
    cell.row = rows.first_row + row;
    if (null) continue;
    if (values.texts.empty()) {
      cell.number = values.instant_at(i);
    } else {
      cell.text = values.texts[i];
    }
  }
}

void Reduction::take_dates(const ReducedRows& rows) {
  const Op op = stage_.op;
  take(rows, [&](std::size_t group, const double*, std::size_t i, std::size_t row) {
    const Instant instant = rows.values[row / kChunkRows].instant_at(i);
    Dates& dates = dates_[group];
    if (counts_[group].known == 1) dates.first = dates.least = dates.greatest = instant;
    dates.least = std::min(dates.least, instant);
    dates.greatest = std::max(dates.greatest, instant);
    if (is_sum(op)) sums_[group].add(seconds_between(dates.first, instant));
    if (is_spread(op)) spreads_[group].add(seconds_between(dates.first, instant));
    if (keeps_values(op)) dates.values.push_back(instant);
  });
}

void Reduction::add(const ReducedRows& rows) {
  inner_.note(rows.values, own_, rows.first_row);
  const Op op = stage_.op;
  if (is_cell(op)) {
    take_cells(rows);
  } else if (of_dates_) {
    take_dates(rows);
  } else if (op == Op::col_geometric_mean) {
    take(rows, [&](std::size_t group, const double* numbers, std::size_t i, std::size_t) {
      if (numbers[i] > 0) {
        sums_[group].add(std::log(numbers[i]));
      } else {
        not_positive_[group] = true;
      }
    });
  } else if (is_sum(op)) {
    take(rows, [&](std::size_t group, const double* numbers, std::size_t i, std::size_t) {
      sums_[group].add(numbers[i]);
    });
  } else if (is_spread(op)) {
    take(rows, [&](std::size_t group, const double* numbers, std::size_t i, std::size_t) {
      spreads_[group].add(numbers[i]);
    });
  } else if (is_extreme(op)) {
    take(rows, [&](std::size_t group, const double* numbers, std::size_t i, std::size_t) {
      const double value = numbers[i];
      Extremes& extremes = extremes_[group];
      const bool first = counts_[group].known == 1;
      if (first || value < extremes.least) extremes.least = value;
      if (first || value > extremes.greatest) extremes.greatest = value;
    });
  } else if (keeps_values(op)) {
    take(rows, [&](std::size_t group, const double* numbers, std::size_t i, std::size_t) {
      values_[group].push_back(numbers[i]);
    });
  } else if (op == Op::col_rms) {
    take(rows, [&](std::size_t group, const double* numbers, std::size_t i, std::size_t) {
      squares_[group].add(numbers[i]);
    });
  } else if (!rows.beside.empty()) {
    take(rows, [&](std::size_t group, const double* numbers, std::size_t i, std::size_t row) {
      const Instant second = rows.beside[row / kChunkRows].instant_at(i);
      if (op == Op::col_weighted_mean) add_weighted(group, numbers[i], second.seconds);
      if (op == Op::col_correlation) common_[group].add(numbers[i], second.seconds);
      if (op == Op::col_area) add_strip(group, numbers[i], second, rows.first_row + row);
    });
  } else {
    take(rows, [](std::size_t, const double*, std::size_t, std::size_t) {});
  }
}

Outcome Reduction::cell_outcome(const Cell& cell, Origins& origins) const {
  Outcome outcome;
  outcome.number = cell.number;
  outcome.text = cell.text;
  if (cell.null) outcome.null = origins.in_row(cell.null, cell.row, own_);
  return outcome;
}

double Reduction::value(std::size_t group) {
  const double known = static_cast<double>(counts_[group].known);
  switch (stage_.op) {
    case Op::col_sum:
      return sums_[group].value();
    case Op::col_mean:
      return sums_[group].over(known);
    case Op::col_geometric_mean:
      return std::exp(sums_[group].over(known));
    case Op::col_rms:
      return squares_[group].root_mean(known);
    case Op::col_mad:
      return median_distance(values_[group]);
    case Op::col_weighted_mean:
      return weighted_[group].first + weighted_[group].products.value() / weighted_[group].weights.value();
    case Op::col_correlation:
      return common_[group].correlation().value_or(0);
    case Op::col_area:
      return strips_[group].sum.value();
    case Op::col_median:
      return median_of(values_[group]);
    case Op::col_quantile:
      return quantile_of(values_[group], std::get<QuantileFraction>(stage_.setting).share);
    case Op::col_min:
      return extremes_[group].least;
    case Op::col_max:
      return extremes_[group].greatest;
    case Op::col_range:
      return extremes_[group].greatest - extremes_[group].least;
    case Op::col_sd:
      return spreads_[group].deviation();
    case Op::col_sem:
      return spreads_[group].deviation() / std::sqrt(known);
    default:
      not_computed(stage_.op, "Reduction::value");
  }
}

Instant Reduction::value_of_dates(std::size_t group) {
  Dates& dates = dates_[group];
  switch (stage_.op) {
    case Op::col_mean:
      return later(dates.first, sums_[group].over(static_cast<double>(counts_[group].known)));
    case Op::col_median:
      return median_of(dates.values);
    case Op::col_quantile:
      return quantile_of(dates.values, std::get<QuantileFraction>(stage_.setting).share);
    case Op::col_min:
      return dates.least;
    case Op::col_max:
      return dates.greatest;
    case Op::col_range:
      return {seconds_between(dates.least, dates.greatest), 0};
    case Op::col_mad: {
      const Instant middle = median_of(dates.values);
      std::vector<double> distances;
      for (const Instant& value : dates.values)
        distances.push_back(std::fabs(seconds_between(middle, value)));
      return {median_of(distances), 0};
    }
    default:
      return {value(group), 0};
  }
}

Reason Reduction::undefined(std::size_t group) const {
  switch (stage_.op) {
    case Op::col_geometric_mean:
      return not_positive_[group] ? Reason::domain : Reason::none;
    case Op::col_weighted_mean:
      if (weighted_[group].negative) return Reason::domain;
      return weighted_[group].weights.value() == 0 ? Reason::divide_by_zero : Reason::none;
    case Op::col_correlation:
      // Where one of the two is always the same, the quotient is 0 over 0.
      return !common_[group].correlation() ? Reason::divide_by_zero : Reason::none;
    case Op::col_area:
      return strips_[group].disordered ? Reason::domain : Reason::none;
    default:
      return Reason::none;
  }
}

Outcome Reduction::outcome(std::size_t group, Origins& origins) {
  const Count& count = counts_[group];
  Outcome outcome;
  if (stage_.op == Op::col_count) {
    outcome.number.seconds = static_cast<double>(count.known);
    return outcome;
  }
  if (is_cell(stage_.op)) {
    if (cells_[group]) return cell_outcome(*cells_[group], origins);
    outcome.null = Null(Reason::too_few, own_);
    return outcome;
  }
  if (count.nulls > 0 && !stage_.nulls.skip) {
    outcome.null = origins.in_row(count.first_null, count.first_null_row, own_);
    return outcome;
  }
  const std::size_t least =
      std::max<std::size_t>(static_cast<std::size_t>(stage_.nulls.at_least), least_values(stage_.op));
  if (count.known < least) {
    outcome.null = Null(Reason::too_few, own_);
    return outcome;
  }
  if (const Reason reason = undefined(group); reason != Reason::none) {
    outcome.null = Null(reason, own_);
    return outcome;
  }
  outcome.number = of_dates_ ? value_of_dates(group) : Instant{value(group), 0};
  if (!std::isfinite(outcome.number.seconds)) {
    outcome.number = {};
    outcome.null = Null(Reason::overflow, own_);
  }
  return outcome;
}

std::vector<Outcome> Reduction::outcomes(Origins& origins) {
  std::vector<Outcome> all;
  all.reserve(counts_.size());
  for (std::size_t group = 0; group < counts_.size(); ++group) all.push_back(outcome(group, origins));
  return all;
}

bool Reduction::leaves_out() const {
  return stage_.nulls.skip && !is_cell(stage_.op) && stage_.op != Op::col_count;
}

ReductionTally Reduction::tally() const {
  ReductionTally tally{stage_.name, 0, 0};
  for (const Count& count : counts_) {
    tally.used += count.known;
    tally.met += count.known + count.nulls;
  }
  return tally;
}

void InnerFaults::note(const std::vector<Chunk>& values, OriginId own, std::size_t first_row) {
  for (std::size_t chunk = 0; chunk < values.size(); ++chunk) {
    const std::vector<Null>& nulls = values[chunk].nulls;
    for (std::size_t i = 0; i < nulls.size(); ++i) {
      const std::size_t row = first_row + chunk * kChunkRows + i;
      if (nulls[i] == Null(Reason::divide_by_zero, own)) divided_by_zero_.add(row);
      if (nulls[i] == Null(Reason::domain, own)) out_of_domain_.add(row);
    }
  }
}

std::vector<InnerNulls> InnerFaults::found() const {
  std::vector<InnerNulls> found;
  if (divided_by_zero_.count > 0) found.push_back({Reason::divide_by_zero, divided_by_zero_});
  if (out_of_domain_.count > 0) found.push_back({Reason::domain, out_of_domain_});
  return found;
}

std::vector<Chunk> spread_out(Kind kind, const std::vector<Outcome>& outcomes,
                              const std::vector<std::size_t>& group_of_row, std::size_t rows) {
  std::vector<Chunk> result((rows + kChunkRows - 1) / kChunkRows);
  for (std::size_t part = 0; part < result.size(); ++part) {
    const std::size_t begin = part * kChunkRows;
    const std::size_t size = std::min(kChunkRows, rows - begin);
    Chunk& chunk = result[part];
    if (kind == Kind::text) {
      chunk.texts.resize(size);
    } else {
      chunk.numbers.resize(size);
    }
    for (std::size_t i = 0; i < size; ++i) {
      const Outcome& outcome = outcomes[group_of_row.empty() ? 0 : group_of_row[begin + i]];
      if (kind == Kind::text) {
        chunk.texts[i] = outcome.text;
      } else {
        chunk.set_instant(i, outcome.number);
      }
      if (!outcome.null) continue;
      if (chunk.nulls.empty()) chunk.nulls.resize(size);
      chunk.nulls[i] = outcome.null;
    }
  }
  return result;
}

}  // namespace opensum
