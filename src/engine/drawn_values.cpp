// Measured values as a trial draws them.
#include "engine/drawn_values.h"

#include <cmath>
#include <stdexcept>

#include "engine/known_uncertainty.h"

namespace opensum {
namespace {

// By how much each value of a column is off by one statement.
std::vector<double> drawn(const StudyRun& run, std::size_t sheet, const StatedUncertainty& stated) {
  const Table& table = run.sheets[sheet]->table();
  const Column& column = table.columns[stated.column];
  if (column.chunks.empty() && table.rows > 0)
    throw std::logic_error("a trial over rows that are not in memory");
  const std::size_t family = run.uncertainty->family_of_source(sheet, stated.source);
  std::vector<double> by;
  for (std::size_t row = 0; row < table.rows; ++row) {
    const double said = stated.from ? table.columns[*stated.from].number_or_nan(row) : 0;
    const double u = stated.of(column.number_or_nan(row), said, uncertainty_in_cell(stated, column, row));
    const std::size_t place = run.uncertainty->is_scalar(family) ? 0 : row;
    by.push_back(
        u * (stated.rectangular ? run.trial->rectangular(family, place) : run.trial->normal(family, place)));
  }
  return by;
}

}  // namespace

void draw_measured(StudyRun& run) {
  for (std::size_t sheet = 0; sheet < run.sheets.size(); ++sheet) {
    // Shares are of the values as measured, whatever else is stated of them.
    std::vector<std::pair<std::size_t, std::vector<double>>> moves;
    for (const StatedUncertainty& stated : run.sheets[sheet]->plan.uncertainty.stated)
      moves.emplace_back(stated.column, drawn(run, sheet, stated));
    for (const auto& [index, by] : moves) {
      Column& column = run.sheets[sheet]->table().columns[index];
      for (std::size_t row = 0; row < by.size(); ++row) {
        if (std::isnan(by[row])) continue;
        Chunk& chunk = column.chunks[row / kChunkRows];
        const std::size_t i = row % kChunkRows;
        if (column.kind == Kind::date) {
          chunk.set_instant(i, later(chunk.instant_at(i), by[row]));
        } else {
          chunk.numbers[i] += by[row];
        }
      }
    }
  }
}

}  // namespace opensum
