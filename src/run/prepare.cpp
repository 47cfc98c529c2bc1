// First step of a run: read the study and its tables, and check them.
#include "run/prepare.h"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "base/result.h"
#include "equation/parser.h"
#include "explain/budget.h"
#include "files/database_address.h"
#include "files/file_names.h"
#include "files/formats.h"
#include "files/study_reader.h"
#include "message/nearest.h"
#include "plan/fit_plan.h"
#include "plan/keep_needs.h"
#include "plan/part_of_study.h"
#include "plan/sheet_planner.h"
#include "plot/figures.h"
#include "plot/plot_columns.h"
#include "server/in_database.h"
#include "study/sources.h"
#include "table/value_with_error.h"

namespace opensum {
namespace {

// A sheet with one row per group goes over the rows of its source as they are. Where they are chosen or
// sorted before, a sheet of its own between the two does that.
void add_rows_between(Study& study) {
  std::vector<SheetModel> between;
  for (SheetModel& sheet : study.sheets) {
    if (!sheet.one_row_per || !sheet.rows_of) continue;
    const auto source = std::find_if(study.sheets.begin(), study.sheets.end(),
                                     [&](const SheetModel& s) { return s.name == sheet.rows_of->text(); });
    const bool sorted = source != study.sheets.end() && !source->sort_by.empty();
    if (!sheet.keep && !sorted) continue;
    SheetModel rows;
    rows.name = "rows of " + sheet.name;
    rows.place = sheet.place;
    rows.rows_of = sheet.rows_of;
    rows.keep = std::move(sheet.keep);
    rows.hidden = true;
    sheet.keep.reset();
    sheet.rows_of = Passage(sheet.rows_of->place().source, sheet.rows_of->place().span.begin, rows.name);
    between.push_back(std::move(rows));
  }
  for (SheetModel& rows : between) study.sheets.push_back(std::move(rows));
}

// Plots that name a model have it fitted to each of their y.
void add_implied_fits(Study& study, Diagnostics& diagnostics) {
  std::vector<std::string> names;
  for (const FitModel& fit : study.fits) names.push_back(fit.name);
  for (const PlotModel& plot : study.plots) {
    for (FitModel& fit : implied_fits(plot)) {
      if (std::find(names.begin(), names.end(), fit.model.text()) != names.end()) continue;
      Diagnostics of_parsing;
      const NodePtr equation = parse_expression(fit.model, of_parsing);
      const bool is_equation = equation && equation->kind() != NodeKind::name;
      if (named_model(fit.model.text()) || is_equation) {
        study.fits.push_back(std::move(fit));
        continue;
      }
      // A lone word may be the name of a fit, or a model.
      const std::string near = nearest_name(fit.model.text(), names);
      diagnostics.add(Code::unknown_fit, fit.model.place(),
                      {fit.model.text(),
                       near.empty() ? models_in_words(fit.model.text()) : "did you mean " + near + "?"});
      break;
    }
  }
}

// Leaves the rows that the conditions of the sheets say; those that look into other sheets by links are left
// to computing.
class RowChooser {
 public:
  RowChooser(PreparedStudy& prepared, const PlanContext& context, Diagnostics& diagnostics)
      : prepared_(prepared), context_(context), diagnostics_(diagnostics) {}

  void run() {
    for (const auto& sheet : prepared_.sheets) choose(*sheet);
  }

 private:
  void choose(RunSheet& run) {
    if (!run.model->keep || run.model->rows_of) return;
    diagnostics_.set_sheet(run.model->name);
    const bool through_link = keep_looks_through_links(*run.model, run.table());
    if (run.in_database) {
      if (through_link) {
        refuse_in_database(*run.model, run.model->name, "`keep` looks through a link",
                           run.model->keep->place(), diagnostics_);
      } else if (auto keep = plan_keep(*run.model, run.source, context_, diagnostics_)) {
        run.keep_there = std::make_shared<const KeepPlan>(std::move(*keep));
      }
      return;
    }
    if (through_link) return;
    const auto keep = plan_keep(*run.model, run.source, context_, diagnostics_);
    if (!keep) return;
    const std::unique_ptr<BlockSource> rows = blocks_of(run, *keep);
    std::vector<bool> kept;
    run.selection = select_rows(*run.model, *keep, *rows, kept, &run.table(), diagnostics_);
    keep_rows(run.source, kept);
  }

  // The rows over which a condition is to go.
  static std::unique_ptr<BlockSource> blocks_of(const RunSheet& run, const KeepPlan& keep) {
    const Table& table = keep.table.table;
    if (run.source.left_in_file) return std::make_unique<FileBlocks>(*run.source.left_in_file, table);
    std::vector<bool> given;
    for (const Column& column : table.columns) given.push_back(!column.chunks.empty());
    return std::make_unique<HeldBlocks>(table, std::move(given));
  }

  PreparedStudy& prepared_;
  const PlanContext& context_;
  Diagnostics& diagnostics_;
};

// A constant's value as people write it.
std::string value_text(const ScopeConstant& constant) {
  if (constant.type.kind == Kind::text) return '"' + constant.text + '"';
  const std::string number = constant.parts.empty()
                                 ? number_text(constant.number)
                                 : value_with_error(constant.number, constant.uncertainty());
  const bool plain = constant.type.kind != Kind::number || constant.type.unit.is_one();
  return plain ? number : number + " " + constant.type.unit.text();
}

std::string type_in_words(const Type& type) {
  if (type.kind != Kind::number) return fmt::format("a {}", kind_name(type.kind));
  return type.unit.is_one() ? "a plain number" : "in " + type.unit.text();
}

// Gives constants the values of the command line: each must be one of the study, of the same dimension.
void change_constants(PreparedStudy& prepared, Diagnostics& diagnostics) {
  const Study& model = prepared.study;
  const std::vector<ScopeConstant> before = prepared.constants;
  prepared.uncertain = {};
  prepared.uncertain.trial = prepared.trial;
  prepared.constants = plan_constants(model.constants, model.other_constants, prepared.units, model.policy,
                                      prepared.uncertain, diagnostics);
  std::vector<std::string> names;
  names.reserve(before.size());
  for (const ScopeConstant& constant : before) names.push_back(constant.name);
  for (const Passage& passage : model.other_constants) {
    Diagnostics reported_before;
    for (const Definition& definition : parse_definitions(passage, reported_before)) {
      const auto place = std::find(names.begin(), names.end(), definition.name) - names.begin();
      const auto number = static_cast<std::size_t>(place);
      const Place where = passage.place(definition.name_span);
      if (number == names.size()) {
        diagnostics.add(Code::no_such_constant, where,
                        {definition.name, nearest_name(definition.name, names)});
        continue;
      }
      const ScopeConstant& old = before[number];
      ScopeConstant& now = prepared.constants[number];
      if (now.label.empty()) now.label = old.label;
      if (now.broken || old.broken) continue;
      if (now.type.kind != old.type.kind || mismatch(now.type.unit, old.type.unit)) {
        diagnostics.add(Code::constant_of_other_unit, passage.place(definition.span),
                        {definition.name, type_in_words(old.type), type_in_words(now.type),
                         definition.name + (old.type.kind == Kind::number && !old.type.unit.parts.empty()
                                                ? " [" + old.type.unit.text() + "]"
                                                : "")});
        continue;
      }
      prepared.constants_given.push_back(passage.text());
      prepared.changes.push_back(fmt::format("{} is {} in this run, in place of {}", definition.name,
                                             value_text(now), value_text(old)));
    }
  }
}

// What of a run is asked for; nothing after a reported error. Workbooks hold the sheets of a whole run.
Result<PartOfRun> part_of_run(Study& study, const std::vector<Passage>& only, Diagnostics& diagnostics) {
  const PartOfStudy wanted = take_part(study, only, diagnostics);
  if (diagnostics.has_errors()) return std::nullopt;
  PartOfRun part;
  for (const Passage& name : only) part.wanted.push_back(name.text());
  part.sheets.assign(wanted.sheets.begin(), wanted.sheets.end());
  part.fits = !wanted.fits.empty();
  for (SheetModel& sheet : study.sheets) {
    if (!wanted.sheets.contains(sheet.name)) continue;
    std::vector<std::string> formats = formats_of(sheet, study);
    std::erase_if(formats, [](const std::string& name) {
      const WrittenFormat* format = format_named(name);
      return format != nullptr && format->holds == FileHolds::sheets;
    });
    sheet.write = std::move(formats);
  }
  return part;
}

// Whether the rows of a sheet can stay in their file: it is a single one, and nothing is typed beside it.
bool may_stay_in_file(const SheetModel& sheet) {
  const bool has_typed_cells = std::any_of(sheet.columns.begin(), sheet.columns.end(),
                                           [](const ColumnSettings& settings) { return settings.values; });
  return !sheet.data.empty() && !has_typed_cells;
}

// Whether something must know the rows of sheets before any pass over them: links by row, and conditions for
// rows that look into other sheets.
bool needs_known_rows(const Study& study) {
  return std::any_of(study.sheets.begin(), study.sheets.end(), [](const SheetModel& sheet) {
    const bool by_row = std::any_of(sheet.links.begin(), sheet.links.end(),
                                    [](const LinkModel& link) { return link.by_row; });
    // Standard input can be read only once.
    const bool from_input = std::any_of(sheet.data.begin(), sheet.data.end(),
                                        [](const Passage& data) { return data.text() == "-"; });
    return by_row || from_input || (sheet.keep && !sheet.links.empty());
  });
}

// Whether a sheet is computed where its rows are.
bool is_computed_there(const SheetModel& sheet, InDatabase where) {
  const bool is_there = sheet.data.size() == 1 && is_database_address(sheet.data.front().text());
  if (where == InDatabase::never || !is_there) return false;
  return sheet.compute_in_database.value_or(where == InDatabase::always);
}

// Sheets with rows of those that are computed in a database are computed there, too.
void follow_into_database(PreparedStudy& prepared) {
  // A sheet stands after the one of which it has the rows, or before it.
  for (std::size_t round = 0; round < prepared.sheets.size(); ++round) {
    for (const auto& sheet : prepared.sheets) {
      if (sheet->plan.source && prepared.source_of(*sheet).in_database)
        sheet->in_database = sheet->model->compute_in_database.value_or(true);
    }
  }
}

// Reads the tables of a sheet; false after a reported error.
bool read_sheet(PreparedStudy& prepared, RunSheet& run, Rows rows, Diagnostics& diagnostics) {
  const SheetModel& sheet = *run.model;
  Diagnostics found;
  std::vector<RawTable> tables = read_sources(sheet, prepared.folder, prepared.inputs, found, rows);
  const bool readable = !tables.empty();
  if (readable) {
    run.format = tables.front().format;
    run.encoding = tables.front().encoding;
    run.delimiter = tables.front().delimiter;
    run.comment = tables.front().comment;
    run.before = tables.front().before;
    run.header_line = tables.front().header_line;
    run.there = tables.front().left_in_database;
    run.in_database = run.there != nullptr;
    found.set_sheet(sheet.name);
    const LookedAt look = rows == Rows::left_unseen ? LookedAt::first_rows : LookedAt::all_rows;
    run.source = build_table(sheet, std::move(tables), prepared.units, prepared.origins, look, found);
    if (!run.source.rows_are_plain) return read_sheet(prepared, run, Rows::read, diagnostics);
  }
  diagnostics.append(found);
  return readable;
}

}  // namespace

bool is_guess(const PreparedStudy& prepared) {
  return std::any_of(prepared.sheets.begin(), prepared.sheets.end(), [](const auto& sheet) {
    return sheet->source.left_in_file && sheet->source.left_in_file->guessed;
  });
}

int with_first_look(const std::function<std::optional<int>(Rows)>& work) {
  try {
    if (const auto code = work(Rows::left_unseen)) return *code;
  } catch (const LaterRowsDiffer&) {
    // What was written so far is gone with what held it.
  }
  return work(Rows::left_if_long).value_or(0);
}

std::unique_ptr<PreparedStudy> prepare_study_file(const std::string& path, Diagnostics& diagnostics,
                                                  Rows rows, std::optional<Trial> trial,
                                                  const StudyChanges& changes) {
  Inputs inputs;
  const auto file = inputs.read(path, {}, diagnostics, Code::study_not_found);
  if (!file) return nullptr;
  const std::size_t solidus = path.rfind('/');
  std::string folder = solidus == std::string::npos ? "" : path.substr(0, solidus + 1);
  auto study =
      read_study(std::make_shared<const Source>(file->path, std::string(file->text)), inputs, diagnostics);
  if (!study) return nullptr;
  study->other_constants = changes.constants;
  std::optional<PartOfRun> part;
  if (!changes.only.empty()) {
    part = part_of_run(*study, changes.only, diagnostics);
    if (!part) return nullptr;
  }
  const std::size_t texts = inputs.all().size();
  auto prepared = prepare(std::move(*study), std::move(folder), std::move(inputs), diagnostics, rows, trial,
                          changes.in_database);
  prepared->texts = texts;
  prepared->part = std::move(part);
  prepared->always_in_database = changes.in_database == InDatabase::always;
  return prepared;
}

std::unique_ptr<PreparedStudy> prepare(Study study, std::string folder, Inputs inputs,
                                       Diagnostics& diagnostics, Rows rows, std::optional<Trial> trial,
                                       InDatabase in_database) {
  auto prepared = std::make_unique<PreparedStudy>();
  prepared->trial = trial;
  prepared->uncertain.trial = trial;
  prepared->study = std::move(study);
  add_rows_between(prepared->study);
  add_implied_fits(prepared->study, diagnostics);
  prepared->folder = std::move(folder);
  prepared->inputs = std::move(inputs);
  prepared->output = resolved(prepared->folder, prepared->study.output);
  const Study& model = prepared->study;
  check_file_names(model, diagnostics);
  prepared->units = plan_units(model.units, diagnostics);
  prepared->constants =
      plan_constants(model.constants, {}, prepared->units, model.policy, prepared->uncertain, diagnostics);
  if (!model.other_constants.empty()) change_constants(*prepared, diagnostics);
  prepared->formulas = plan_formulas(model.formulas, diagnostics);
  std::vector<std::string> names;
  for (const SheetModel& sheet : model.sheets) {
    if (!sheet.hidden) names.push_back(sheet.name);
  }
  const PlanContext context{prepared->constants, prepared->formulas, names,
                            model.fits,          model.plots,        prepared->units,
                            model.policy,        prepared->origins,  prepared->uncertain};
  // Equations that a condition for rows needs are checked twice; their errors are reported once.
  Diagnostics of_keep;
  if (rows == Rows::left_unseen && needs_known_rows(model)) rows = Rows::left_if_long;
  for (const SheetModel& sheet : model.sheets) {
    auto run = std::make_unique<RunSheet>();
    run->model = &sheet;
    run->source.table.name = sheet.name;
    if (!sheet.rows_of) {
      const Rows left = is_computed_there(sheet, in_database) ? Rows::left_in_database
                        : may_stay_in_file(sheet)             ? rows
                                                              : Rows::read;
      if (!read_sheet(*prepared, *run, left, diagnostics)) continue;
    }
    prepared->sheets.push_back(std::move(run));
  }
  diagnostics.set_sheet("");
  RowChooser(*prepared, context, of_keep).run();
  // What leads to a sheet that could not be read would only repeat that fault, and without sheets there is
  // nothing to plan.
  if (prepared->sheets.empty() || prepared->sheets.size() < model.sheets.size()) {
    diagnostics.append(of_keep);
    return prepared;
  }
  std::vector<SheetInput> inputs_to_plan;
  for (const auto& sheet : prepared->sheets) inputs_to_plan.push_back({sheet->model, &sheet->source});
  StudyPlan plan = plan_study(inputs_to_plan, context, diagnostics);
  if (plan.sheets.size() < prepared->sheets.size()) {
    diagnostics.append(of_keep);
    return prepared;
  }
  for (std::size_t i = 0; i < prepared->sheets.size(); ++i)
    prepared->sheets[i]->plan = std::move(plan.sheets[i]);
  prepared->order = std::move(plan.order);
  follow_into_database(*prepared);
  prepared->fits = std::move(plan.fits);
  prepared->plot_keeps = std::move(plan.plots);
  for (const FitPlan& fit : prepared->fits) prepared->fit_results.emplace_back(fit.sheets.size());
  diagnostics.append(of_keep);
  diagnostics.merge_repeated();
  // A plot of a sheet that could not be read would only repeat that fault.
  if (prepared->sheets.size() == model.sheets.size()) check_plots(*prepared, diagnostics);
  prepared->budgets = budgets_asked(*prepared, diagnostics);
  return prepared;
}

}  // namespace opensum
