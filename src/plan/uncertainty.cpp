// Standard uncertainties of measured columns.
#include "plan/uncertainty.h"

#include <algorithm>
#include <cmath>

#include "table/column.h"
#include "table/number_form.h"
#include "table/number_text.h"

namespace opensum {

double StatedUncertainty::of(double value, double said, double in_cell) const {
  if (cells_divided_by && !std::isnan(in_cell)) return in_cell / *cells_divided_by;
  if (!from && relative == 0 && absolute == 0) return std::nan("");
  const double own = from ? to_own(said) : relative * std::fabs(value) + absolute;
  return own / divide_by;
}

double uncertainty_in_cell(const StatedUncertainty& stated, const Column& column, std::size_t row) {
  const Chunk& chunk = column.chunks[row / kChunkRows];
  if (!stated.cells_divided_by || !chunk.has_source()) return std::nan("");
  const Unit& unit = column.unit;
  const bool percent = unit.is_dimensionless() && unit.factor == Factor::integer(1) / Factor::integer(100);
  return uncertainty_in_cell(chunk.source_at(row % kChunkRows), column.style, percent);
}

std::string stated_text(const StatedUncertainty& stated, const Table& table) {
  constexpr int kDigits = 4;
  const Column& column = table.columns[stated.column];
  if (stated.from) return "by " + table.columns[*stated.from].symbol;
  std::string text;
  if (stated.relative > 0) text = number_text(100 * stated.relative / stated.divide_by, kDigits) + " %";
  if (stated.cells_divided_by && text.empty() && stated.absolute == 0) return "by its cells";
  if (stated.absolute > 0) {
    const Unit unit = difference_unit(column);
    const double size = conversion(step_unit(column), unit)(stated.absolute / stated.divide_by);
    text +=
        (text.empty() ? "" : " + ") + number_text(size, kDigits) + (unit.is_one() ? "" : " " + unit.text());
  }
  return text;
}

std::vector<ToldUncertainty> told_uncertainties(const SheetUncertainty& plan, const Table& table) {
  std::vector<std::pair<std::size_t, std::string>> by_column;
  for (const StatedUncertainty& stated : plan.stated) {
    const UncertainSource& source = plan.sources[stated.source];
    std::string text = stated_text(stated, table);
    if (source.shared) text += source.instrument ? " of the " + source.name : " shared by all values";
    if (by_column.empty() || by_column.back().first != stated.column) {
      by_column.emplace_back(stated.column, text);
    } else {
      by_column.back().second += " and " + text;
    }
  }
  std::vector<ToldUncertainty> told;
  for (const auto& [column, text] : by_column) {
    const auto same = std::find_if(told.begin(), told.end(),
                                   [&, of = &text](const ToldUncertainty& each) { return each.text == *of; });
    if (same == told.end()) {
      told.push_back({{column}, text});
    } else {
      same->columns.push_back(column);
    }
  }
  return told;
}

}  // namespace opensum
