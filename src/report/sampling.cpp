// What sampling found, for people and as CSV.
#include <fmt/format.h>

#include <cmath>

#include "files/csv_writer.h"
#include "report/summary.h"
#include "table/number_text.h"

namespace opensum {

std::string sampling_text(const SamplingFacts& facts) {
  std::string out = fmt::format("by sampling, {} trials, seed {}: ", facts.trials, facts.seed);
  const std::size_t differing = facts.differing();
  out += differing == 0
             ? fmt::format("the 95 % intervals of all {} values agree with the linear propagation\n",
                           facts.values.size())
             : fmt::format("the 95 % intervals of {} of {} values differ from the linear propagation\n",
                           differing, facts.values.size());
  constexpr std::size_t kListed = 5;
  std::size_t listed = 0;
  for (const SampledValue& cell : facts.values) {
    if (!cell.differs || listed++ >= kListed) continue;
    const auto u = [&](double size) { return number_text(cell.to_shown(size), 2); };
    const std::string unit = cell.unit == "1" ? "" : " " + cell.unit;
    const std::string unit_of_u = cell.unit_of_uncertainty == "1" ? "" : " " + cell.unit_of_uncertainty;
    out += fmt::format("  {}.{} row {}: {}{}, u {} linear, {}{} sampled, 95 % from {} to {}{}\n", cell.sheet,
                       cell.column, cell.row, number_text(cell.value, 5), unit, u(cell.linear),
                       u(cell.uncertainty), unit_of_u, number_text(cell.low, 5), number_text(cell.high, 5),
                       unit);
  }
  if (differing > kListed) out += "  all of them stand in monte-carlo.csv\n";
  if (facts.trials_with_other_rows > 0)
    out += fmt::format("  in {} trials a sheet had other rows, which do not count\n",
                       facts.trials_with_other_rows);
  return out;
}

std::string sampling_csv(const SamplingFacts& facts) {
  std::string out =
      "sheet,row,column,value,unit,u_linear,u_sampled,unit_of_u,mean,low_95,high_95,trials,linear_agrees\n";
  const auto number = [](double value) { return std::isnan(value) ? "" : number_text(value, 6); };
  for (const SampledValue& cell : facts.values) {
    std::string line;
    const auto field = [&](const std::string& text) {
      if (!line.empty()) line += ',';
      append_field(line, text, ',');
    };
    field(cell.sheet);
    field(std::to_string(cell.row));
    field(cell.column);
    field(number_text(cell.value));
    field(cell.unit);
    field(number(cell.to_shown(cell.linear)));
    field(number(cell.to_shown(cell.uncertainty)));
    field(cell.unit_of_uncertainty);
    for (const double value : {cell.mean, cell.low, cell.high}) {
      field(std::isnan(value) ? "" : number_text(value, 8));
    }
    field(std::to_string(cell.known));
    field(!(cell.linear > 0) || cell.known < 2 ? "" : cell.differs ? "no" : "yes");
    out += line + '\n';
  }
  return out;
}

}  // namespace opensum
