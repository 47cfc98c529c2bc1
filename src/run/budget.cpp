// The budget of an uncertainty.
#include "run/budget.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "base/unicode.h"
#include "table/number_text.h"

namespace opensum {
namespace {

std::string with_unit(double value, int digits, const Unit& unit) {
  const std::string number = number_text(value, digits);
  return unit.is_one() ? number : number + " " + unit.text();
}

struct Line {
  std::array<std::string, 5> cells;
  double size = 0;
};

}  // namespace

std::string budget_text(const RunSheet& sheet, std::size_t column, std::size_t row) {
  const SheetUncertainty& plan = sheet.plan.uncertainty;
  const Table& table = sheet.table();
  const auto own = std::find_if(plan.columns.begin(), plan.columns.end(),
                                [&](const UncertainColumn& u) { return u.column == column; });
  if (own == plan.columns.end() || sheet.budget.empty()) return {};
  const Column& of = table.columns[column];
  const Column& u = table.columns[own->index];
  if (u.chunks.empty() || u.null(row)) return {};
  double variance = 0;
  for (const auto& [source, parts] : sheet.budget) variance += parts[row] * parts[row];
  if (!(variance > 0)) return {};
  constexpr int kDigits = 3;
  constexpr int kDigitsOfU = 2;
  const Unit up = difference_unit(of.unit);
  const Conversion to_shown = conversion(step_unit(of.unit), up);
  std::vector<Line> lines;
  for (const auto& contribution : sheet.budget) {
    const std::size_t number = contribution.first;
    const UncertainSource& source = plan.sources[number];
    const double part = contribution.second[row];
    if (part == 0) continue;
    Line line;
    line.size = std::fabs(part);
    line.cells[0] = source.name;
    const auto stated = std::find_if(plan.stated.begin(), plan.stated.end(),
                                     [&](const StatedUncertainty& s) { return s.source == number; });
    const Column& input = table.columns[source.column];
    const bool single = stated != plan.stated.end() && !input.chunks.empty() && !input.null(row) &&
                        std::count_if(plan.stated.begin(), plan.stated.end(),
                                      [&](const StatedUncertainty& s) { return s.source == number; }) == 1;
    if (single) {
      const double said = stated->from ? table.columns[*stated->from].number(row) : 0;
      const double own_u = stated->of(input.number(row), said);
      const Unit step = step_unit(input.unit);
      line.cells[1] = "u = " + with_unit(own_u, kDigitsOfU, difference_unit(input.unit));
      line.cells[2] = "sensitivity " + with_unit(to_shown(part) / own_u, kDigits, quotient(up, step));
    }
    line.cells[3] = "contributes " + with_unit(std::fabs(to_shown(part)), kDigitsOfU, up);
    line.cells[4] = fmt::format("{:.3g} %", 100 * part * part / variance);
    lines.push_back(std::move(line));
  }
  std::stable_sort(lines.begin(), lines.end(), [](const Line& a, const Line& b) { return a.size > b.size; });
  std::array<std::size_t, 5> widths{};
  for (const Line& line : lines) {
    for (std::size_t k = 0; k < widths.size(); ++k)
      widths.at(k) = std::max(widths.at(k), display_width(line.cells.at(k)));
  }
  std::string out =
      fmt::format("\nstandard uncertainty {}, from\n", with_unit(u.number(row), kDigitsOfU, u.unit));
  for (const Line& line : lines) {
    std::string text = "  ";
    for (std::size_t k = 0; k < widths.size(); ++k) {
      const std::size_t pad = widths.at(k) - display_width(line.cells.at(k));
      // Shares stand under one another.
      text += k + 1 == widths.size() ? std::string(pad, ' ') + line.cells.at(k)
                                     : line.cells.at(k) + std::string(widths.at(k) == 0 ? 0 : pad + 2, ' ');
    }
    out += text + '\n';
  }
  return out;
}

}  // namespace opensum
