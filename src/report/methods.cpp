// A paragraph for the methods section of a paper, written from the facts of a run.
#include <fmt/format.h>

#include <algorithm>

#include "report/page.h"
#include "version.h"

namespace opensum {
namespace {

// `a, b and c`.
std::string listed(const std::vector<std::string>& items) {
  std::string out;
  for (std::size_t i = 0; i < items.size(); ++i) {
    if (i > 0) out += i + 1 == items.size() ? " and " : ", ";
    out += items[i];
  }
  return out;
}

std::string in_unit(const std::string& unit) { return unit.empty() || unit == "1" ? "" : " in " + unit; }

// The quantities that a sheet measures, `coolant flow in L/min`.
std::vector<std::string> quantities(const std::vector<ColumnFacts>& columns) {
  std::vector<std::string> items;
  items.reserve(columns.size());
  for (const ColumnFacts& column : columns) {
    items.push_back(column.label + (column.kind == "number" ? in_unit(column.unit) : ""));
  }
  return items;
}

// Sheets that measure the same quantities are named together.
std::string measured_text(const RunFacts& facts) {
  std::vector<std::pair<std::vector<std::string>, std::vector<std::string>>> groups;
  for (const SheetFacts& sheet : facts.sheets) {
    if (!sheet.rows_of.empty() || sheet.measured.empty()) continue;
    const std::vector<std::string> items = quantities(sheet.measured);
    const std::string where =
        fmt::format("{} ({} row{})", sheet.name, sheet.rows, sheet.rows == 1 ? "" : "s");
    const auto same =
        std::find_if(groups.begin(), groups.end(), [&](const auto& g) { return g.first == items; });
    if (same != groups.end()) {
      same->second.push_back(where);
    } else {
      groups.push_back({items, {where}});
    }
  }
  std::string out;
  for (const auto& [items, sheets] : groups)
    out += fmt::format("{}In {} the columns read were {}.", out.empty() ? "" : " ", listed(sheets),
                       listed(items));
  return out;
}

std::string constants_text(const RunFacts& facts) {
  std::vector<std::string> items;
  for (const ScopeConstant& constant : facts.constants) {
    if (constant.type.kind != Kind::number) continue;
    const std::string unit = constant.type.unit.text();
    items.push_back(fmt::format("{} = {}{}", constant.label.empty() ? constant.name : constant.label,
                                number_text(constant.number), unit == "1" ? "" : " " + unit));
  }
  return items.empty() ? "" : fmt::format(" Constants were {}.", listed(items));
}

std::string derived_text(const ReportContent& content) {
  std::string out;
  for (const ReportEquations& group : content.equations) {
    std::vector<std::string> items;
    for (const ReportEquation& equation : group.equations) {
      items.push_back(fmt::format("{}{} as {} = {}", equation.label, in_unit(equation.unit), equation.name,
                                  equation.text));
    }
    if (!items.empty())
      out += fmt::format(" For {} were derived: {}.", listed(group.sheets),
                         fmt::format("{}", fmt::join(items, "; ")));
  }
  return out;
}

std::string links_text(const RunFacts& facts) {
  std::vector<std::string> items;
  for (const SheetFacts& sheet : facts.sheets) {
    for (const LinkFacts& link : sheet.links) {
      items.push_back(
          fmt::format("{} in {} ({} of {} rows)", sheet.name, link.sheet, link.matched, sheet.rows));
    }
  }
  return items.empty() ? "" : fmt::format(" Values of other tables were looked up for {}.", listed(items));
}

// How gaps were treated: the policy, the fills, and what reductions left out.
std::string gaps_text(const RunFacts& facts) {
  std::string out = " Missing values were kept as such: a quantity derived from a missing value is missing";
  std::vector<std::string> skips;
  if (facts.policy.row_skips) skips.emplace_back("row-wise reductions");
  if (facts.policy.column_skips) skips.emplace_back("reductions down a column");
  if (facts.policy.sequence_skips) skips.emplace_back("running functions");
  out += skips.empty() ? "." : fmt::format(", while {} pass over missing values.", listed(skips));
  std::vector<std::string> fills;
  for (const SheetFacts& sheet : facts.sheets) {
    for (const FillFacts& fill : sheet.fills) {
      for (const auto& [rule, count] : fill.rules) {
        fills.push_back(
            fmt::format("{} of {} gaps of {} ({}) by {}", count, fill.gaps, fill.symbol, sheet.name, rule));
      }
    }
  }
  if (!fills.empty()) out += fmt::format(" Filled were {}.", listed(fills));
  for (const SheetFacts& sheet : facts.sheets) {
    if (!sheet.selection.empty())
      out += fmt::format(" Of {} were used {}.", sheet.name, sheet.selection.front());
  }
  return out;
}

std::string fits_text_of(const RunFacts& facts) {
  std::string out;
  for (const FitFacts& fit : facts.fits) {
    std::vector<std::string> parameters;
    for (const FitFacts::Parameter& parameter : fit.parameters) {
      if (!parameter.value) continue;
      const std::string unit = parameter.unit == "1" || parameter.unit.empty() ? "" : " " + parameter.unit;
      parameters.push_back(fmt::format("{} = ({} ± {}){}", parameter.name, number_text(*parameter.value, 6),
                                       number_text(parameter.standard_error, 2), unit));
    }
    const std::string where = fit.sheet + (fit.group.empty() ? "" : ", " + fit.group);
    if (parameters.empty()) {
      out += fmt::format(" The model {} could not be fitted to {} against {} for {}.", fit.model, fit.y,
                         fit.x, where);
      continue;
    }
    out += fmt::format(
        " The model {} was fitted to {} against {} for {} by least squares (n = {}): {} (± standard error).",
        fit.model, fit.y, fit.x, where, fit.points, listed(parameters));
  }
  return out;
}

}  // namespace

std::string methods_text(const ReportContent& content) {
  return measured_text(content.facts) + constants_text(content.facts) + links_text(content.facts) +
         derived_text(content) + gaps_text(content.facts) + fits_text_of(content.facts) +
         fmt::format(" Units were checked and converted, and all values computed, with Open Sum {}.",
                     kVersion);
}

}  // namespace opensum
