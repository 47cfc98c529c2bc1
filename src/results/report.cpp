// What the report page shows of a computed study.
#include "results/report.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "figure/draw.h"
#include "table/cell_text.h"
#include "table/number_text.h"
#include "table/value_with_error.h"

namespace opensum {
namespace {

constexpr int kShownDigits = 6;

std::vector<ReportEquation> equations_of(const RunSheet& sheet) {
  std::vector<ReportEquation> equations;
  for (const DerivedColumn& derived : sheet.plan.derived) {
    const Column& column = sheet.table().columns[derived.index];
    ReportEquation equation;
    equation.name = derived.definition.name;
    equation.label = column.label;
    if (column.kind == Kind::number && !column.unit.parts.empty()) equation.unit = column.unit.typeset();
    equation.expression = derived.definition.expression.get();
    equation.text = print(*derived.definition.expression);
    equation.null_rule = derived.null_rule;
    equations.push_back(std::move(equation));
  }
  return equations;
}

// Names joined by commas, each once.
std::string names_text(const std::vector<std::string>& names) {
  std::vector<std::string> once;
  for (const std::string& name : names) {
    if (!name.empty() && std::find(once.begin(), once.end(), name) == once.end()) once.push_back(name);
  }
  return fmt::format("{}", fmt::join(once, ", "));
}

// Without the marks of raised and lowered letters, which plain words have not.
std::string without_raised(std::string text) {
  for (const char* mark : {"^{", "_{", "}"}) {
    for (std::size_t at = text.find(mark); at != std::string::npos; at = text.find(mark, at))
      text.replace(at, std::string(mark).size(), mark[0] == '^' ? "^" : "");
  }
  return text;
}

// A figure in words.
std::string description_of(const BuiltFigure& built) {
  return without_raised(
      fmt::format("Axes: {}. Shown: {}.", names_text(built.axes), names_text(built.legend)));
}

// What stands under a figure: as the study has it, or its title, or else what stands against what; and which
// series are shown.
std::string caption_of(const BuiltFigure& built) {
  if (!built.caption.empty()) return built.caption;
  const auto sentence = [](std::string text) {
    if (!text.empty() && text.back() != '.') text += '.';
    return text;
  };
  std::string text = sentence(built.title);
  if (text.empty() && built.axes.size() > 1) text = sentence(built.axes[1] + " against " + built.axes[0]);
  if (built.series.size() > 1) text += fmt::format(" Shown: {}.", names_text(built.series));
  return without_raised(text);
}

// A note without the name of its plot, under whose figure it stands.
std::string note_below(const BuiltFigure& built, const std::string& note) {
  const std::string begin = "plot " + built.name + ": ";
  return note.starts_with(begin) ? note.substr(begin.size()) : note;
}

// A cell as the page shows it: derived numbers with fewer digits than the files have.
std::string shown_cell(const Column& column, const Column* u, std::size_t row) {
  if (u != nullptr && column.kind == Kind::number && !column.null(row) && !u->null(row))
    return value_with_error(column.number(row),
                            conversion(step_unit(u->unit), step_unit(column.unit))(u->number(row)));
  const bool rounded = column.kind == Kind::number && !column.measured && column.digits == 0;
  if (!rounded || column.null(row)) return cell_text(column, row);
  return number_text(column.number(row), kShownDigits);
}

ReportTable first_rows_of(const RunSheet& sheet) {
  ReportTable shown;
  shown.sheet = sheet.model->name;
  shown.total = sheet.table().rows;
  const Table& table = sheet.facts.first_rows;
  std::vector<const Column*> columns = table.written();
  // An uncertainty stands behind its value, in brackets.
  const auto& uncertain = sheet.plan.uncertainty.columns;
  std::map<const Column*, const Column*> u_of;
  for (const UncertainColumn& one : uncertain) u_of[&table.columns[one.column]] = &table.columns[one.index];
  std::erase_if(columns, [&](const Column* column) {
    return std::any_of(uncertain.begin(), uncertain.end(),
                       [&](const UncertainColumn& one) { return &table.columns[one.index] == column; });
  });
  for (const Column* column : columns) {
    shown.headers.push_back(column->title());
    shown.numbers.push_back(column->kind == Kind::number);
  }
  for (std::size_t place = 0; place < table.rows; ++place) {
    std::vector<std::string>& row = shown.rows.emplace_back();
    for (const Column* column : columns) {
      const auto u = u_of.find(column);
      row.push_back(shown_cell(*column, u == u_of.end() ? nullptr : u->second, table.row_at(place)));
    }
  }
  return shown;
}

}  // namespace

ReportContent report_content(const PreparedStudy& prepared, const RunFacts& facts,
                             const std::vector<BuiltFigure>& figures) {
  ReportContent content;
  content.facts = facts;
  for (const RunSheet* sheet : prepared.shown_sheets()) {
    content.tables.push_back(first_rows_of(*sheet));
    std::vector<ReportEquation> equations = equations_of(*sheet);
    if (equations.empty()) continue;
    const auto same =
        std::find_if(content.equations.begin(), content.equations.end(),
                     [&](const ReportEquations& group) { return group.equations == equations; });
    if (same != content.equations.end()) {
      same->sheets.push_back(sheet->model->name);
    } else {
      content.equations.push_back({{sheet->model->name}, std::move(equations)});
    }
  }
  std::size_t number = 0;
  for (ReportEquations& group : content.equations) {
    for (ReportEquation& equation : group.equations) equation.number = ++number;
  }
  for (const BuiltFigure& built : figures) {
    ReportFigure figure;
    figure.name = built.name;
    figure.title = built.title;
    figure.description = description_of(built);
    figure.caption = caption_of(built);
    figure.svg =
        svg_element(built.drawings.at("svg"), "figure-" + std::to_string(content.figures.size() + 1) + "-");
    for (const std::string& note : built.notes) figure.notes.push_back(note_below(built, note));
    content.figures.push_back(std::move(figure));
  }
  return content;
}

}  // namespace opensum
