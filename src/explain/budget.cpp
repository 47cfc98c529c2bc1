// The budget of an uncertainty.
#include "explain/budget.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "base/unicode.h"
#include "compute/quantiles.h"
#include "engine/known_uncertainty.h"
#include "equation/operation.h"
#include "table/number_text.h"
#include "table/value_with_error.h"

namespace opensum {
namespace {

constexpr int kDigits = 3;
constexpr int kDigitsOfU = 2;

std::string with_unit(double value, int digits, const Unit& unit) {
  // Rounded, and then written as other numbers are: 3600 and not 3.6e3.
  const std::string number = number_text(read_number(number_text(value, digits)).value, kShownDigits);
  return unit.is_one() ? number : number + " " + unit.text();
}

// What all unknowns of a family contribute.
struct Contribution {
  std::size_t family = 0;
  std::size_t place = 0;  ///< of the only one
  std::size_t count = 0;
  double by = 0;
  double variance = 0;
};

class BudgetMaker {
 public:
  BudgetMaker(const StudyRun& run, const RunSheet& sheet, const Column& of, std::size_t row)
      : run_(run),
        sheet_(sheet),
        row_(row),
        up_(difference_unit(of)),
        to_shown_(conversion(step_unit(of), up_)) {}

  // By source, the largest first.
  static std::vector<Contribution> contributions_of(const std::vector<Term>& terms) {
    std::vector<Contribution> contributions;
    for (const Term& term : terms) {
      const std::size_t family = family_of_unknown(term.unknown);
      if (contributions.empty() || contributions.back().family != family)
        contributions.push_back({family, place_of_unknown(term.unknown), 0, term.by, 0});
      ++contributions.back().count;
      contributions.back().variance += term.by * term.by;
    }
    std::stable_sort(contributions.begin(), contributions.end(),
                     [](const Contribution& a, const Contribution& b) { return a.variance > b.variance; });
    return contributions;
  }

  std::vector<BudgetLine> lines(const std::vector<Contribution>& contributions) const {
    double variance = 0;
    for (const Contribution& contribution : contributions) variance += contribution.variance;
    std::vector<BudgetLine> lines;
    // What falls out of a ratio or a difference leaves rounding behind.
    constexpr double kNegligible = 1e-18;
    for (const Contribution& contribution : contributions) {
      if (contribution.variance < kNegligible * variance) continue;
      BudgetLine line = described(contribution);
      line.contribution = with_unit(std::fabs(to_shown_(std::sqrt(contribution.variance))), kDigitsOfU, up_);
      line.share = contribution.variance / variance;
      lines.push_back(std::move(line));
    }
    return lines;
  }

  // For a share of certainty, with Student's t at the effective degrees of freedom (JCGM 100:2008, G.4.1).
  std::string expanded(const std::vector<Contribution>& contributions, double coverage) const {
    double variance = 0;
    double sum = 0;
    for (const Contribution& contribution : contributions) {
      variance += contribution.variance;
      if (const auto freedom = run_.uncertainty->origin(contribution.family).freedom)
        sum += contribution.variance * contribution.variance / *freedom;
    }
    const double freedom = sum > 0 ? std::floor(variance * variance / sum) : HUGE_VAL;
    const double p = (1 + coverage) / 2;
    const double k = std::isfinite(freedom) ? quantile(Op::t_quantile, p, std::max(freedom, 1.0))
                                            : quantile(Op::normal_quantile, p, 1);
    return fmt::format("{} for {} %, k = {}, {} effective degrees of freedom",
                       with_unit(std::fabs(to_shown_(k * std::sqrt(variance))), kDigitsOfU, up_),
                       number_text(100 * coverage, 4), number_text(k, 3),
                       std::isfinite(freedom) ? number_text(freedom) : "infinitely many");
  }

 private:
  BudgetLine described(const Contribution& contribution) const {
    const UnknownOrigin& origin = run_.uncertainty->origin(contribution.family);
    BudgetLine line;
    line.source = origin.name;
    if (origin.cells) {
      const RunSheet& sheet = *run_.sheets[origin.cells->first];
      if (&sheet != &sheet_ && !sheet.model->hidden) line.source = sheet.model->name + "." + line.source;
      if (contribution.count > 1) {
        line.source += fmt::format(", {} cells", contribution.count);
      } else {
        if (&sheet != &sheet_ || contribution.place != row_)
          line.source += fmt::format(", row {}", sheet.table().place_of(contribution.place) + 1);
        describe_cell(sheet, sheet.table().columns[origin.cells->second], contribution, line);
      }
      return line;
    }
    line.own = stated_by(contribution.family);
    const auto constant =
        std::find_if(run_.constants.begin(), run_.constants.end(), [&](const ScopeConstant& each) {
          return each.name == origin.name && each.parts.size() == 1 &&
                 run_.uncertainty->family_of_number(each.parts.front().number) == contribution.family;
        });
    if (constant != run_.constants.end())
      describe(std::fabs(constant->parts.front().by), step_unit(constant->type.unit),
               difference_unit(constant->type.unit), contribution.by, line);
    return line;
  }

  // What is stated of a shared unknown, where that is the same of all columns.
  std::string stated_by(std::size_t family) const {
    std::string text;
    for (std::size_t i = 0; i < run_.sheets.size(); ++i) {
      const RunSheet& sheet = *run_.sheets[i];
      for (const StatedUncertainty& stated : sheet.plan.uncertainty.stated) {
        if (run_.uncertainty->family_of_source(i, stated.source) != family) continue;
        const std::string own = stated_text(stated, sheet.table());
        if (!text.empty() && own != text) return {};
        text = own;
      }
    }
    return text;
  }

  void describe_cell(const RunSheet& sheet, const Column& input, const Contribution& contribution,
                     BudgetLine& line) const {
    const SheetUncertainty& plan = sheet.plan.uncertainty;
    const UnknownOrigin& origin = run_.uncertainty->origin(contribution.family);
    if (!origin.stated || input.chunks.empty() || input.null(contribution.place)) return;
    const StatedUncertainty& stated = plan.stated[*origin.stated];
    double said = 0;
    if (stated.from) {
      const Column& from = sheet.table().columns[*stated.from];
      if (from.chunks.empty() || from.null(contribution.place)) return;
      said = from.number(contribution.place);
    }
    describe(stated.of(input.number(contribution.place), said,
                       uncertainty_in_cell(stated, input, contribution.place)),
             step_unit(input), difference_unit(input), contribution.by, line);
  }

  void describe(double own, const Unit& step, const Unit& difference, double by, BudgetLine& line) const {
    line.own = with_unit(conversion(step, difference)(own), kDigitsOfU, difference);
    line.sensitivity = with_unit(to_shown_(by) / own, kDigits, quotient(up_, step));
  }

  const StudyRun& run_;
  const RunSheet& sheet_;
  std::size_t row_;
  Unit up_;
  Conversion to_shown_;
};

}  // namespace

Budget budget_of(const StudyRun& run, const RunSheet& sheet, std::size_t column, std::size_t row) {
  const SheetUncertainty& plan = sheet.plan.uncertainty;
  const Table& table = sheet.table();
  const auto own = std::find_if(plan.columns.begin(), plan.columns.end(),
                                [&](const UncertainColumn& u) { return u.column == column; });
  const auto kept = sheet.budget.find(column);
  if (own == plan.columns.end() || kept == sheet.budget.end()) return {};
  const Column& of = table.columns[column];
  const Column& u = table.columns[own->index];
  if (u.chunks.empty() || u.null(row)) return {};
  const BudgetMaker maker(run, sheet, of, row);
  const std::vector<Contribution> contributions =
      BudgetMaker::contributions_of(run.uncertainty->unknowns().resolved(kept->second.row(row)));
  Budget budget;
  budget.value =
      of.kind == Kind::date
          ? cell_text(of, row)
          : value_with_error(of.number(row), conversion(step_unit(u.unit), step_unit(of))(u.number(row)));
  if (!of.unit.is_one()) budget.value += " " + of.unit.text();
  budget.uncertainty = with_unit(u.number(row), kDigitsOfU, u.unit);
  budget.of = fmt::format("{}.{}, row {}", sheet.model->name, of.symbol, table.place_of(row) + 1);
  budget.lines = maker.lines(contributions);
  if (run.study.coverage) budget.expanded = maker.expanded(contributions, *run.study.coverage);
  return budget;
}

std::string budget_text(const StudyRun& run, const RunSheet& sheet, std::size_t column, std::size_t row) {
  const Budget budget = budget_of(run, sheet, column, row);
  if (budget.lines.empty()) return {};
  using Cells = std::array<std::string, 5>;
  std::vector<Cells> lines;
  std::array<std::size_t, 5> widths{};
  for (const BudgetLine& line : budget.lines) {
    const Cells cells = {line.source, line.own.empty() ? "" : "u = " + line.own,
                         line.sensitivity.empty() ? "" : "sensitivity " + line.sensitivity,
                         "contributes " + line.contribution, fmt::format("{:.3g} %", 100 * line.share)};
    for (std::size_t k = 0; k < widths.size(); ++k)
      widths.at(k) = std::max(widths.at(k), display_width(cells.at(k)));
    lines.push_back(cells);
  }
  std::string out = fmt::format("\nstandard uncertainty {}, from\n", budget.uncertainty);
  for (const Cells& line : lines) {
    std::string text = "  ";
    for (std::size_t k = 0; k < widths.size(); ++k) {
      const std::size_t pad = widths.at(k) - display_width(line.at(k));
      // Shares stand under one another.
      text += k + 1 == widths.size() ? std::string(pad, ' ') + line.at(k)
                                     : line.at(k) + std::string(widths.at(k) == 0 ? 0 : pad + 2, ' ');
    }
    out += text + '\n';
  }
  if (!budget.expanded.empty()) out += "expanded uncertainty " + budget.expanded + '\n';
  return out;
}

std::vector<BudgetWish> budgets_asked(const PreparedStudy& prepared, Diagnostics& diagnostics) {
  std::vector<BudgetWish> wishes;
  // What follows from a fault that is reported is no fault of its own.
  const bool is_sound = !diagnostics.has_errors();
  for (const Passage& asked : prepared.study.budgets) {
    std::string name = asked.text();
    BudgetWish wish;
    wish.place = asked.place();
    if (const std::size_t at = name.rfind(" row "); at != std::string::npos) {
      const NumberReading row = read_number(name.substr(at + std::string(" row ").size()));
      if (row.fault != NumberFault::none || row.value < 1 || row.value != std::floor(row.value)) {
        diagnostics.add(Code::budget_form, wish.place, {name});
        continue;
      }
      wish.row = static_cast<std::size_t>(row.value) - 1;
      name.erase(at);
    }
    // A column of the only sheet need not name it.
    std::size_t found = 0;
    std::string sheets;
    const std::size_t point = name.find('.');
    for (std::size_t i = 0; i < prepared.sheets.size(); ++i) {
      const RunSheet& sheet = *prepared.sheets[i];
      if (sheet.model->hidden || (point != std::string::npos && sheet.model->name != name.substr(0, point)))
        continue;
      const auto column =
          sheet.plan.scope.find_column(point == std::string::npos ? name : name.substr(point + 1), false);
      if (!column) continue;
      wish.sheet = i;
      wish.column = sheet.plan.scope.meant_by(*column);
      sheets += (sheets.empty() ? "" : ", ") + sheet.model->name + "." + name.substr(point + 1);
      ++found;
    }
    if (found != 1) {
      diagnostics.add(found == 0 ? Code::budget_of_nothing : Code::budget_of_several, wish.place,
                      {name, sheets});
      continue;
    }
    const auto& known = prepared.sheets[wish.sheet]->plan.uncertainty.columns;
    if (std::none_of(known.begin(), known.end(),
                     [&](const UncertainColumn& each) { return each.column == wish.column; })) {
      if (is_sound) diagnostics.add(Code::uncertainty_none, wish.place, {name});
      continue;
    }
    wishes.push_back(std::move(wish));
  }
  return wishes;
}

std::vector<Budget> budgets_of(const PreparedStudy& prepared, Diagnostics& diagnostics) {
  std::vector<Budget> budgets;
  for (const BudgetWish& wish : prepared.budgets) {
    const RunSheet& sheet = *prepared.sheets[wish.sheet];
    const Table& table = sheet.table();
    if (wish.row && *wish.row >= table.rows) {
      diagnostics.add(Code::budget_row, wish.place,
                      {std::to_string(*wish.row + 1), sheet.model->name, std::to_string(table.rows)});
      continue;
    }
    const auto& columns = sheet.plan.uncertainty.columns;
    const Column& u =
        table.columns[std::find_if(columns.begin(), columns.end(), [&](const UncertainColumn& each) {
                        return each.column == wish.column;
                      })->index];
    std::size_t place = wish.row.value_or(0);
    while (!wish.row && place + 1 < table.rows && u.null(table.row_at(place))) ++place;
    if (table.rows == 0) continue;
    Budget budget = budget_of(prepared, sheet, wish.column, table.row_at(place));
    if (budget.of.empty())
      budget.of =
          fmt::format("{}.{}, row {}", sheet.model->name, table.columns[wish.column].symbol, place + 1);
    budgets.push_back(std::move(budget));
  }
  return budgets;
}

}  // namespace opensum
