// First step of a run: read the study and its tables, and check them.
#include "run/prepare.h"

#include "files/csv_reader.h"
#include "files/study_reader.h"
#include "run/figures.h"

namespace opensum {
namespace {

std::string resolved(const std::string& folder, const std::string& path) {
  if (path == "-" || path.starts_with('/')) return path;
  return folder + path;
}

}  // namespace

RunSheet* PreparedStudy::find_sheet(const std::string& name) {
  for (const auto& sheet : sheets) {
    if (sheet->model->name == name) return sheet.get();
  }
  return nullptr;
}

std::unique_ptr<PreparedStudy> prepare_study_file(const std::string& path, Diagnostics& diagnostics) {
  Inputs inputs;
  const auto file = inputs.read(path, {}, diagnostics, Code::study_not_found);
  if (!file) return nullptr;
  auto study = read_study(std::make_shared<const Source>(file->path, file->text), diagnostics);
  if (!study) return nullptr;
  const std::size_t solidus = path.rfind('/');
  std::string folder = solidus == std::string::npos ? "" : path.substr(0, solidus + 1);
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
  std::vector<std::string> names;
  for (const SheetModel& sheet : model.sheets) names.push_back(sheet.name);
  for (const SheetModel& sheet : model.sheets) {
    const auto file = prepared->inputs.read(resolved(prepared->folder, sheet.data->text()),
                                            sheet.data->place(), diagnostics);
    if (!file) continue;
    const auto raw = read_csv(file, sheet.read, diagnostics);
    if (!raw) continue;
    auto run = std::make_unique<RunSheet>();
    run->model = &sheet;
    run->encoding = raw->encoding;
    run->delimiter = raw->delimiter;
    run->header_line = raw->header_line;
    run->source = build_table(sheet, *raw, prepared->units, prepared->origins, diagnostics);
    const PlanContext context{prepared->constants, names, prepared->units, model.policy, prepared->origins};
    // Equations that the condition needs are checked twice; their errors are reported once.
    Diagnostics of_keep;
    run->selection = select_rows(sheet, run->source, context, of_keep);
    run->plan = plan_sheet(sheet, run->source, context, diagnostics);
    diagnostics.append(of_keep);
    prepared->sheets.push_back(std::move(run));
  }
  // A plot of a sheet that could not be read would only repeat that fault.
  if (prepared->sheets.size() == model.sheets.size()) check_plots(*prepared, diagnostics);
  return prepared;
}

}  // namespace opensum
