// First step of a run: read the study and its tables, and check them.
#include "run/prepare.h"

#include <algorithm>

#include "files/csv_reader.h"
#include "files/study_reader.h"
#include "run/figures.h"

namespace opensum {
namespace {

// Only rows, numbered from 1, and no columns.
RawTable planned_rows(const SheetModel& sheet) {
  RawTable table;
  table.file = "sheet " + sheet.name;
  for (std::size_t row = 1; row <= *sheet.rows; ++row) table.lines.push_back(row);
  return table;
}

std::string resolved(const std::string& folder, const std::string& path) {
  if (path == "-" || path.starts_with('/')) return path;
  return folder + path;
}

// The table of text that a sheet is made of.
std::optional<RawTable> read_source(const SheetModel& sheet, PreparedStudy& prepared,
                                    Diagnostics& diagnostics) {
  if (sheet.rows) return planned_rows(sheet);
  if (sheet.table) {
    auto typed = std::make_shared<InputFile>();
    typed->path = "table of " + sheet.name;
    typed->text = sheet.table->text();
    return read_csv(typed, sheet.read, diagnostics);
  }
  const auto file =
      prepared.inputs.read(resolved(prepared.folder, sheet.data->text()), sheet.data->place(), diagnostics);
  if (!file) return std::nullopt;
  return read_csv(file, sheet.read, diagnostics);
}

}  // namespace

RunSheet* PreparedStudy::find_sheet(const std::string& name) {
  for (const auto& sheet : sheets) {
    if (sheet->model->name == name) return sheet.get();
  }
  return nullptr;
}

SheetColumns PreparedColumns::columns_of(int sheet) const {
  return columns_of(*prepared_.sheets[static_cast<std::size_t>(sheet)]);
}

SheetColumns PreparedColumns::columns_of(const RunSheet& sheet) {
  SheetColumns columns;
  for (const Column& column : sheet.table().columns) columns.columns.push_back(&column);
  columns.rows = sheet.table().rows;
  return columns;
}

int PlannedOthers::linked(const Node& member, const Passage& /*passage*/, Diagnostics& /*diagnostics*/) {
  for (const BorrowedColumn& borrowed : sheet_.plan.borrowed) {
    const std::string& name = sheet_.plan.scope.columns[borrowed.index].symbol;
    if (name == member.owner + "." + member.text) return static_cast<int>(borrowed.index);
  }
  return -1;
}

const Scope* PlannedOthers::scope_of(const std::string& sheet, int& number) const {
  for (std::size_t i = 0; i < prepared_.sheets.size(); ++i) {
    if (prepared_.sheets[i]->model->name != sheet) continue;
    number = static_cast<int>(i);
    return &prepared_.sheets[i]->plan.scope;
  }
  number = -1;
  return nullptr;
}

bool PlannedOthers::has_link(const std::string& name) const {
  return std::any_of(sheet_.plan.links.begin(), sheet_.plan.links.end(),
                     [&](const LinkPlan& link) { return link.name == name; });
}

std::unique_ptr<PreparedStudy> prepare_study_file(const std::string& path, Diagnostics& diagnostics) {
  Inputs inputs;
  const auto file = inputs.read(path, {}, diagnostics, Code::study_not_found);
  if (!file) return nullptr;
  const std::size_t solidus = path.rfind('/');
  std::string folder = solidus == std::string::npos ? "" : path.substr(0, solidus + 1);
  auto study = read_study(std::make_shared<const Source>(file->path, file->text), inputs, diagnostics);
  if (!study) return nullptr;
  return prepare(std::move(*study), std::move(folder), std::move(inputs), diagnostics);
}

std::unique_ptr<PreparedStudy> prepare(Study study, std::string folder, Inputs inputs,
                                       Diagnostics& diagnostics) {
  auto prepared = std::make_unique<PreparedStudy>();
  prepared->study = std::move(study);
  prepared->folder = std::move(folder);
  prepared->inputs = std::move(inputs);
  prepared->output = resolved(prepared->folder, prepared->study.output);
  const Study& model = prepared->study;
  prepared->units = plan_units(model.units, diagnostics);
  prepared->constants = plan_constants(model.constants, prepared->units, model.policy, diagnostics);
  prepared->formulas = plan_formulas(model.formulas, diagnostics);
  std::vector<std::string> names;
  for (const SheetModel& sheet : model.sheets) names.push_back(sheet.name);
  const PlanContext context{prepared->constants, prepared->formulas, names,
                            prepared->units,     model.policy,       prepared->origins};
  // Equations that a condition for rows needs are checked twice; their errors are reported once.
  Diagnostics of_keep;
  for (const SheetModel& sheet : model.sheets) {
    const auto raw = read_source(sheet, *prepared, diagnostics);
    if (!raw) continue;
    auto run = std::make_unique<RunSheet>();
    run->model = &sheet;
    run->encoding = raw->encoding;
    run->delimiter = raw->delimiter;
    run->header_line = raw->header_line;
    diagnostics.set_sheet(sheet.name);
    of_keep.set_sheet(sheet.name);
    run->source = build_table(sheet, *raw, prepared->units, prepared->origins, diagnostics);
    run->selection = select_rows(sheet, run->source, context, of_keep);
    prepared->sheets.push_back(std::move(run));
  }
  diagnostics.set_sheet("");
  // What leads to a sheet that could not be read would only repeat that fault.
  if (prepared->sheets.size() < model.sheets.size() && model.sheets.size() > 1) {
    diagnostics.append(of_keep);
    return prepared;
  }
  std::vector<SheetInput> inputs_to_plan;
  for (const auto& sheet : prepared->sheets) inputs_to_plan.push_back({sheet->model, &sheet->source});
  StudyPlan plan = plan_study(inputs_to_plan, context, diagnostics);
  for (std::size_t i = 0; i < prepared->sheets.size(); ++i)
    prepared->sheets[i]->plan = std::move(plan.sheets[i]);
  prepared->order = std::move(plan.order);
  diagnostics.append(of_keep);
  diagnostics.merge_repeated();
  // A plot of a sheet that could not be read would only repeat that fault.
  if (prepared->sheets.size() == model.sheets.size()) check_plots(*prepared, diagnostics);
  return prepared;
}

}  // namespace opensum
