// Last step of a run: everything that is written.
#include "run/write.h"

#include <fmt/format.h>

#include <algorithm>
#include <cerrno>
#include <filesystem>
#include <fstream>
#include <optional>
#include <utility>

#include "equation/tree.h"
#include "explain/budget.h"
#include "files/csv_writer.h"
#include "files/database_address.h"
#include "files/database_tables.h"
#include "files/file_names.h"
#include "files/output.h"
#include "files/sha256.h"
#include "plot/figures.h"
#include "report/methods.h"
#include "report/record.h"
#include "report/words.h"
#include "results/nulls.h"
#include "results/report.h"
#include "results/sheet_files.h"
#include "results/written_sheets.h"
#include "server/in_database.h"
#include "study/where_computed.h"
#include "table/sql_source.h"

namespace opensum {
namespace {

std::string equation_of(const DerivedColumn& derived) { return print(*derived.definition.expression); }

// The rules of a fill as written, in order.
std::vector<std::string> rule_texts(const FillPlan& fill) {
  std::vector<std::string> texts;
  for (const Passage& text : fill.texts) texts.push_back(text.text());
  return texts;
}

void write_figures(const PreparedStudy& prepared, const std::vector<BuiltFigure>& figures, OutputFiles& files,
                   RunFacts& facts, Diagnostics& diagnostics) {
  for (const BuiltFigure& built : figures) {
    for (const std::string& format : built.formats) {
      const std::string path = prepared.output + "/figures/" + built.name + "." + format;
      const std::string& drawing = built.drawings.at(format);
      if (drawing.empty()) {
        diagnostics.add(Code::cannot_write, {path, "the drawing failed"});
        return;
      }
      if (!files.write(path, drawing, diagnostics)) return;
    }
    facts.notes.insert(facts.notes.end(), built.notes.begin(), built.notes.end());
  }
}

ColumnFacts facts_of(const RunSheet& sheet, std::size_t index) {
  const Column& column = sheet.table().columns[index];
  ColumnFacts facts = column_facts(column, sheet.facts.null_counts[index]);
  facts.used = !column.measured || sheet.used.empty() || sheet.used[index];
  return facts;
}

std::string tally_text(const std::string& symbol, const ReductionTally& tally) {
  return fmt::format("{}: {} of {} of {} values", symbol, tally.function, tally.used, tally.met);
}

void gather_skipped(const RunSheet& sheet, SheetFacts& facts) {
  for (const auto& [symbol, counts] : sheet.left_out) {
    facts.skipped.push_back(fmt::format("{} leaves out {} null{} in {} of {} rows", symbol, counts.first,
                                        counts.first == 1 ? "" : "s", counts.second, facts.rows));
  }
  for (const auto& [symbol, tallies] : sheet.tallies) {
    for (const ReductionTally& tally : tallies) facts.skipped.push_back(tally_text(symbol, tally));
  }
}

void gather_selection(const RunSheet& sheet, SheetFacts& facts) {
  if (!sheet.selection) return;
  const Selection& selection = *sheet.selection;
  facts.selection.push_back(
      fmt::format("{} of {} rows where {}", selection.kept(), selection.read, selection.condition));
  if (selection.undecided > 0) {
    facts.selection.push_back(
        fmt::format("{} of the rows left out because the condition is null there", selection.undecided));
  }
  for (const NullCost& cost : selection.costs) {
    facts.selection.push_back(fmt::format("nulls of {} cost {} row{}, {} of them alone", cost.symbol,
                                          cost.nulls, cost.nulls == 1 ? "" : "s", cost.alone));
  }
}

// Of which sheet a sheet has the rows, which of them, and what it takes over.
void gather_taken(const PreparedStudy& prepared, const RunSheet& sheet, SheetFacts& facts) {
  const RunSheet& source = prepared.source_of(sheet);
  if (source.model->hidden) gather_selection(source, facts);
  facts.rows_of = (sheet.plan.grouped        ? "for groups of rows of "
                   : sheet.plan.cell_headers ? "with one for each cell of "
                                             : "of ") +
                  prepared.shown_source(sheet).model->name;
  for (const TakenColumn& taken : sheet.plan.taken) {
    facts.taken.push_back(facts_of(sheet, taken.index));
  }
}

// How a link finds its rows, as in `values were interpolated linearly in temperature`.
std::string link_in_words(const LinkPlan& plan, const Table& table) {
  if (plan.how == LinkHow::row) return "taken row by row";
  std::vector<std::string> labels;
  for (const LinkPlan::Keys& key : plan.keys)
    labels.push_back(label_in_sentence(table.columns[key.here].label));
  if (labels.empty()) return "taken over";
  if (plan.how == LinkHow::equal) return "found by equal " + enumerated(labels);
  const std::string last = labels.back();
  labels.pop_back();
  const std::string before = labels.empty() ? "" : "found by equal " + enumerated(labels) + " and ";
  switch (plan.how) {
    case LinkHow::nearest:
      return before + "taken at the nearest " + last;
    case LinkHow::previous:
      return before + "taken at the last " + last + " before";
    default:
      return before + "interpolated linearly in " + last;
  }
}

void gather_links(const PreparedStudy& prepared, const RunSheet& sheet, SheetFacts& facts) {
  for (std::size_t i = 0; i < sheet.plan.links.size(); ++i) {
    const LinkPlan& plan = sheet.plan.links[i];
    if (!has_model(plan.how)) continue;
    LinkFacts link;
    link.name = plan.name;
    link.how = link_in_words(plan, sheet.table());
    link.sheet = prepared.sheets[*plan.sheet]->model->name;
    const LinkCounts& counts = sheet.facts.links[i];
    link.matched = counts.matched;
    link.unmatched = counts.unmatched;
    facts.links.push_back(std::move(link));
  }
}

void gather_fills(const RunSheet& sheet, SheetFacts& facts) {
  for (std::size_t i = 0; i < sheet.plan.fills.size(); ++i) {
    const FillPlan& plan = sheet.plan.fills[i];
    const FillResult& result = sheet.fills[i];
    FillFacts fill;
    fill.symbol = sheet.table().columns[plan.measured].symbol;
    fill.gaps = result.gaps;
    const std::vector<std::string> rules = rule_texts(plan);
    for (std::size_t rule = 0; rule < rules.size(); ++rule)
      fill.rules.emplace_back(rules[rule], result.closed[rule]);
    fill.left = result.left;
    facts.fills.push_back(std::move(fill));
    for (const ReductionTally& tally : result.notes.tallies) {
      if (tally.used < tally.met) {
        facts.skipped.push_back(tally_text("fill of " + facts.fills.back().symbol, tally));
      }
    }
  }
}

void gather_uncertainty(const RunSheet& sheet, SheetFacts& facts) {
  const SheetUncertainty& plan = sheet.plan.uncertainty;
  for (const ToldUncertainty& told : told_uncertainties(plan, sheet.table())) {
    std::vector<std::string> labels;
    for (const std::size_t column : told.columns)
      labels.push_back(label_in_sentence(sheet.table().columns[column].label));
    facts.uncertainties.push_back(fmt::format("{} for {}", told.text, enumerated(labels)));
  }
  facts.uncertain = plan.columns.size();
  for (const UncertainColumn& uncertain : plan.columns) {
    // What is not carried at all is said by a warning.
    if (std::find(plan.unknown.begin(), plan.unknown.end(), uncertain.column) != plan.unknown.end()) continue;
    const ColumnFacts of = facts_of(sheet, uncertain.column);
    const ColumnFacts u = facts_of(sheet, uncertain.index);
    if (u.known < of.known)
      facts.uncertainty_unknown.push_back(
          fmt::format("{} ({} of {})", of.symbol, of.known - u.known, of.known));
  }
}

void gather_claims(const RunSheet& sheet, const Study& study, SheetFacts& facts) {
  for (std::size_t i = 0; i < sheet.claims.size(); ++i) {
    const ClaimResult& result = sheet.claims[i];
    const Claim& claim = sheet.plan.claims[i].claim;
    facts.claims.push_back({claim.text, print(*claim.condition), result.held, result.broken.rows.count,
                            result.undecided.rows.count,
                            sheet.model->claims_are_warnings.value_or(study.claims_are_warnings)});
  }
}

}  // namespace

namespace {

void gather_fits(const PreparedStudy& prepared, RunFacts& facts) {
  for (std::size_t i = 0; i < prepared.fits.size(); ++i) {
    const FitPlan& fit = prepared.fits[i];
    for (std::size_t k = 0; k < fit.sheets.size(); ++k) {
      for (const FitGroup& group : prepared.fit_results[i][k].groups) {
        const Curve& curve = group.curve;
        const bool fitted = curve.state == CurveState::fitted;
        FitFacts one;
        one.name = fit.model->name;
        one.sheet = prepared.sheets[fit.sheets[k].sheet]->model->name;
        one.group = group.group;
        one.model = fit.model->model.text();
        one.x = fit.model->x.text();
        one.y = fit.model->y.text();
        one.y_unit = difference_unit(fit.y.unit).text();
        for (std::size_t p = 0; p < fit.curve.names.size(); ++p) {
          FitFacts::Parameter parameter;
          parameter.name = fit.curve.names[p];
          parameter.unit = fit.types[p].unit.text();
          if (fitted) parameter.value = curve.parameters[p];
          if (fitted) parameter.standard_error = curve.standard_errors[p];
          const Unit& unit = fit.types[p].unit;
          if (fitted && !curve.stated_errors.empty())
            parameter.by_stated = conversion(step_unit(unit), difference_unit(unit))(curve.stated_errors[p]);
          parameter.unit_of_uncertainty = difference_unit(unit).text();
          one.parameters.push_back(std::move(parameter));
        }
        one.guessed_start = curve.guessed_start;
        one.points = curve.points;
        one.left_out = group.left_out;
        one.degrees_of_freedom = curve.degrees_of_freedom;
        one.by_x = fit.sheets[k].x_error.has_value();
        if (fitted && curve.chi) one.reduced_chi2 = curve.residual_sd * curve.residual_sd;
        if (fitted && !curve.chi)
          one.residual_sd = conversion(step_unit(fit.y.unit), difference_unit(fit.y.unit))(curve.residual_sd);
        if (fitted) one.r2 = curve.r2;
        if (fitted) one.r = curve.r;
        facts.fits.push_back(std::move(one));
      }
    }
  }
}

}  // namespace

RunFacts gather_facts(const PreparedStudy& prepared) {
  RunFacts facts;
  facts.title = prepared.study.title;
  facts.policy = prepared.study.policy;
  facts.constants = prepared.constants;
  facts.settings.constants = prepared.constants_given;
  if (prepared.part) facts.settings.only = prepared.part->wanted;
  facts.settings.in_database = prepared.always_in_database;
  for (const auto& sheet : prepared.sheets) {
    if (sheet->there) facts.computed_there.push_back(sheet->table().file);
  }
  facts.changes = prepared.changes;
  facts.notes = prepared.study.notes;
  const auto& inputs = prepared.inputs.all();
  for (std::size_t i = 0; i < inputs.size(); ++i) {
    facts.inputs.push_back({inputs[i]->path, prepared.inputs.digest(i), inputs[i]->text.size()});
    if (i < prepared.texts) facts.texts.push_back({inputs[i]->path, std::string(inputs[i]->text)});
  }
  for (const RunSheet* sheet : prepared.shown_sheets()) {
    SheetFacts own;
    own.name = sheet->model->name;
    own.file = sheet->table().file;
    own.rows = sheet->table().rows;
    if (sheet->plan.source) gather_taken(prepared, *sheet, own);
    for (std::size_t number = 0; number < sheet->table().columns.size(); ++number) {
      const Column& column = sheet->table().columns[number];
      if (!column.measured || sheet->plan.source) continue;
      own.measured.push_back(facts_of(*sheet, number));
      if (column.kind == Kind::number && !column.unit_stated) own.without_unit.push_back(column.symbol);
    }
    for (const DerivedColumn& derived : sheet->plan.derived) {
      ColumnFacts column = facts_of(*sheet, derived.index);
      column.equation = equation_of(derived);
      own.derived.push_back(std::move(column));
    }
    gather_skipped(*sheet, own);
    gather_selection(*sheet, own);
    gather_links(prepared, *sheet, own);
    gather_fills(*sheet, own);
    gather_claims(*sheet, prepared.study, own);
    gather_uncertainty(*sheet, own);
    facts.sheets.push_back(std::move(own));
  }
  gather_fits(prepared, facts);
  return facts;
}

namespace {

// A path as it is seen from the study's folder, so that a record is the same wherever the study lies.
std::string from_folder(const std::string& path, const std::string& folder) {
  if (path.starts_with(folder)) return path.substr(folder.size());
  if (!is_relative_path(path)) return path;
  return std::filesystem::absolute(path).lexically_relative(std::filesystem::absolute(folder)).string();
}

// The facts with paths that do not depend on where the study lies: of what was read from the study's folder,
// of what was written from the folder of results.
RunFacts as_recorded(const RunFacts& facts, const PreparedStudy& prepared) {
  // Without the slash at its end.
  const std::filesystem::path here =
      (std::filesystem::absolute(".") / prepared.folder / "x").lexically_normal().parent_path();
  RunFacts recorded = facts;
  recorded.study_folder =
      here.lexically_relative(std::filesystem::absolute(prepared.output).lexically_normal()).string();
  for (std::string& path : recorded.written) path.erase(0, prepared.output.size() + 1);
  for (InputFacts& input : recorded.inputs) input.path = from_folder(input.path, prepared.folder);
  for (StudyText& text : recorded.texts) text.path = from_folder(text.path, prepared.folder);
  for (SheetFacts& sheet : recorded.sheets) sheet.file = from_folder(sheet.file, prepared.folder);
  return recorded;
}

std::vector<InputFacts> outputs_of(const OutputFiles& files, const std::string& folder,
                                   Diagnostics& diagnostics) {
  std::vector<InputFacts> outputs;
  for (const OutputFiles::Digest& digest : files.digests(diagnostics))
    outputs.push_back({digest.path.substr(folder.size()), digest.sha256, digest.bytes});
  return outputs;
}

// What stands in a folder of results beside what is written now.
std::vector<std::string> files_left(const std::string& folder, const std::vector<std::string>& written) {
  std::vector<std::string> left;
  for (const std::string& in : {folder, folder + "figures/"}) {
    std::error_code error;
    for (const auto& entry : std::filesystem::directory_iterator(in, error)) {
      const std::string path = in + entry.path().filename().string();
      const bool is_new = std::find(written.begin(), written.end(), path) != written.end();
      const bool beside = path.ends_with("-metadata.json");
      if (entry.is_regular_file(error) && !is_new && !beside && !is_temporary(path))
        left.push_back(path.substr(folder.size()));
    }
  }
  std::sort(left.begin(), left.end());
  return left;
}

std::string text_of_file(const std::string& path) {
  std::error_code none;
  const std::uintmax_t size = std::filesystem::file_size(path, none);
  if (none) return {};
  std::string text(size, '\0');
  std::ifstream file(path, std::ios::binary);
  file.read(text.data(), static_cast<std::streamsize>(size));
  text.resize(static_cast<std::size_t>(file.gcount()));
  return text;
}

}  // namespace

RunFacts write_results(PreparedStudy& prepared, Diagnostics& diagnostics,
                       std::optional<SamplingFacts> sampling) {
  OutputFiles files(prepared.inputs, true, Sharing::alone);
  const std::string folder = prepared.output + "/";
  DatabaseTables databases(
      "results of " +
      std::filesystem::absolute(prepared.inputs.all().front()->path).lexically_normal().string());
  if (computes_in_database(prepared) && !compute_in_database(prepared, databases, diagnostics)) return {};
  Executor executor(prepared, diagnostics);
  executor.prepare();
  if (diagnostics.has_errors() || !write_sheets(prepared, executor, files, databases, diagnostics)) return {};
  warn_of_all_null(prepared, diagnostics);
  RunFacts facts = gather_facts(prepared);
  facts.sampling = std::move(sampling);
  facts.budgets = budgets_of(prepared, diagnostics);
  if (diagnostics.has_errors()) return facts;
  std::vector<BuiltFigure> figures = build_figures(prepared, diagnostics);
  if (diagnostics.has_errors()) return facts;
  draw_figures(figures);
  write_figures(prepared, figures, files, facts, diagnostics);
  if (diagnostics.has_errors()) return facts;
  const bool whole = !prepared.part;
  if (whole && !facts.fits.empty()) files.write(folder + kFitsFile, fits_csv(facts.fits), diagnostics);
  if (!whole && prepared.part->fits)
    files.write(folder + kFitsFile, fits_csv_with(text_of_file(folder + kFitsFile), facts.fits), diagnostics);
  if (whole && facts.sampling)
    files.write(folder + kSamplingFile, sampling_csv(*facts.sampling), diagnostics);
  facts.written = files.paths();
  facts.tables = databases.written();
  RunFacts recorded = as_recorded(facts, prepared);
  if (whole) {
    const ReportContent content = report_content(prepared, recorded, figures);
    if (!sheets_in(prepared, "tex").empty()) {
      files.write(folder + kMethodsFile, methods_tex(content), diagnostics);
      facts.written.push_back(folder + kMethodsFile);
    }
    facts.page = page_html(content);
    constexpr int kReload = 2;
    files.write(folder + kReportFile, prepared.watched ? page_html(content, kReload) : facts.page,
                diagnostics);
  }
  if (diagnostics.has_errors()) return facts;
  recorded.outputs = outputs_of(files, folder, diagnostics);
  // The record is of the page as it is left when nobody watches any more.
  for (InputFacts& output : recorded.outputs) {
    if (output.path == kReportFile) output = {kReportFile, sha256(facts.page), facts.page.size()};
  }
  facts.outputs = recorded.outputs;
  facts.texts = recorded.texts;
  facts.study_folder = recorded.study_folder;
  const std::string record =
      whole ? record_json(recorded) : record_with_part(text_of_file(folder + kRecordFile), recorded);
  files.write(folder + kRecordFile, record, diagnostics);
  facts.written.push_back(folder + kRecordFile);
  if (whole) facts.written.push_back(folder + kReportFile);
  if (!whole) facts.left_as_was = files_left(folder, facts.written);
  prepared.inputs.report_changed(diagnostics);
  // The files are complete under their temporary names: what is most likely to fail comes first.
  if (!diagnostics.has_errors() && databases.commit(diagnostics)) files.commit(diagnostics);
  return facts;
}

}  // namespace opensum
