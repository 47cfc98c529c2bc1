// Standard uncertainties of measured columns.
#include "plan/uncertainty.h"

#include <cmath>

#include "table/column.h"
#include "table/number_text.h"

namespace opensum {

double StatedUncertainty::of(double value, double said) const {
  const double own = from ? to_own(said) : relative * std::fabs(value) + absolute;
  return own / divide_by;
}

std::string stated_text(const StatedUncertainty& stated, const Table& table) {
  constexpr int kDigits = 4;
  const Column& column = table.columns[stated.column];
  if (stated.from) return "by " + table.columns[*stated.from].symbol;
  std::string text;
  if (stated.relative > 0) text = number_text(100 * stated.relative / stated.divide_by, kDigits) + " %";
  if (stated.absolute > 0) {
    const Unit unit = difference_unit(column.unit);
    const double size = conversion(step_unit(column.unit), unit)(stated.absolute / stated.divide_by);
    text +=
        (text.empty() ? "" : " + ") + number_text(size, kDigits) + (unit.is_one() ? "" : " " + unit.text());
  }
  return text;
}

}  // namespace opensum
