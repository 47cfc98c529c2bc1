// The budget of an uncertainty.
#include "run/budget.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "base/unicode.h"
#include "engine/known_uncertainty.h"
#include "table/number_text.h"

namespace opensum {
namespace {

constexpr int kDigits = 3;
constexpr int kDigitsOfU = 2;

std::string with_unit(double value, int digits, const Unit& unit) {
  const std::string number = number_text(value, digits);
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
        up_(difference_unit(of.unit)),
        to_shown_(conversion(step_unit(of.unit), up_)) {}

  std::vector<BudgetLine> lines(const std::vector<Term>& terms) const {
    std::vector<Contribution> contributions;
    double variance = 0;
    for (const Term& term : terms) {
      const std::size_t family = family_of_unknown(term.unknown);
      if (contributions.empty() || contributions.back().family != family)
        contributions.push_back({family, place_of_unknown(term.unknown), 0, term.by, 0});
      ++contributions.back().count;
      contributions.back().variance += term.by * term.by;
      variance += term.by * term.by;
    }
    std::stable_sort(contributions.begin(), contributions.end(),
                     [](const Contribution& a, const Contribution& b) { return a.variance > b.variance; });
    std::vector<BudgetLine> lines;
    for (const Contribution& contribution : contributions) {
      BudgetLine line = described(contribution);
      line.contribution = with_unit(std::fabs(to_shown_(std::sqrt(contribution.variance))), kDigitsOfU, up_);
      line.share = contribution.variance / variance;
      lines.push_back(std::move(line));
    }
    return lines;
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
    const auto constant =
        std::find_if(run_.constants.begin(), run_.constants.end(), [&](const ScopeConstant& each) {
          return each.name == origin.name && each.parts.size() == 1 &&
                 run_.uncertainty->family_of_number(each.parts.front().number) == contribution.family;
        });
    if (constant != run_.constants.end())
      describe(std::fabs(constant->parts.front().by), constant->type.unit, contribution.by, line);
    return line;
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
             input.unit, contribution.by, line);
  }

  void describe(double own, const Unit& unit, double by, BudgetLine& line) const {
    line.own =
        with_unit(conversion(step_unit(unit), difference_unit(unit))(own), kDigitsOfU, difference_unit(unit));
    line.sensitivity = with_unit(to_shown_(by) / own, kDigits, quotient(up_, step_unit(unit)));
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
  const std::vector<Term> terms = run.uncertainty->unknowns().resolved(kept->second.row(row));
  Budget budget;
  budget.value = with_unit(of.number(row), kDigits + kDigitsOfU, of.unit);
  budget.uncertainty = with_unit(u.number(row), kDigitsOfU, u.unit);
  budget.lines = BudgetMaker(run, sheet, of, row).lines(terms);
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
  return out;
}

}  // namespace opensum
