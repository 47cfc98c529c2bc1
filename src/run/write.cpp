// Last step of a run: everything that is written.
#include "run/write.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <map>

#include "equation/tree.h"
#include "files/csv_writer.h"
#include "files/output.h"
#include "run/compute.h"
#include "run/figures.h"
#include "run/nulls.h"
#include "run/report.h"
#include "run/stream.h"
#include "study/file_names.h"

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
  return column_facts(column, sheet.streamed ? sheet.streamed->null_counts[index] : null_counts(column));
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
  facts.rows_of =
      (sheet.plan.grouped ? "for groups of rows of " : "of ") + prepared.shown_source(sheet).model->name;
  for (const TakenColumn& taken : sheet.plan.taken) {
    facts.taken.push_back(facts_of(sheet, taken.index));
  }
}

void gather_links(const PreparedStudy& prepared, const RunSheet& sheet, SheetFacts& facts) {
  for (std::size_t i = 0; i < sheet.links.size(); ++i) {
    const LinkPlan& plan = sheet.plan.links[i];
    if (plan.how == LinkHow::taken) continue;
    LinkFacts link;
    link.name = plan.name;
    link.sheet = prepared.sheets[static_cast<std::size_t>(plan.sheet)]->model->name;
    LinkCounts counts;
    if (sheet.streamed) {
      counts = sheet.streamed->links[i];
    } else {
      counts.add(sheet.links[i]);
    }
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

void gather_claims(const RunSheet& sheet, const Study& study, SheetFacts& facts) {
  for (std::size_t i = 0; i < sheet.claims.size(); ++i) {
    const ClaimResult& result = sheet.claims[i];
    const Claim& claim = sheet.plan.claims[i].claim;
    facts.claims.push_back({claim.text, print(*claim.condition), result.held, result.broken.rows.count,
                            result.undecided.rows.count,
                            sheet.model->claims_are_warnings.value_or(study.claims_are_warnings)});
  }
}

// The sheets that are to be written in a format.
std::vector<WrittenSheet> sheets_in(const PreparedStudy& prepared, const std::string& format) {
  std::vector<WrittenSheet> sheets;
  for (const RunSheet* sheet : prepared.shown_sheets()) {
    const std::vector<std::string>& formats = formats_of(*sheet->model, prepared.study);
    if (std::find(formats.begin(), formats.end(), format) == formats.end()) continue;
    sheets.push_back({sheet->model->name, &sheet->table(),
                      sheet->model->headers_are_symbols.value_or(prepared.study.headers_are_symbols),
                      derived_notes(prepared, *sheet)});
  }
  return sheets;
}

// The CSV files of sheets that are computed while they are written, by sheet: path and temporary path.
using StreamedFiles = std::map<const Table*, std::pair<std::string, std::string>>;

// Every sheet in every format that is asked for, but for the rows of those that are still to be computed;
// false after a reported error.
bool write_sheets(const PreparedStudy& prepared, const std::string& folder, OutputFiles& files,
                  StreamedFiles& streamed, Diagnostics& diagnostics) {
  for (const WrittenSheet& sheet : sheets_in(prepared, "csv")) {
    CsvOptions options;
    options.headers_are_symbols = sheet.headers_are_symbols;
    const std::string name = sheet.name + ".csv";
    if (prepared.find_sheet(sheet.name)->is_streamed()) {
      const std::string temporary = files.stage(folder + name, diagnostics);
      if (temporary.empty()) return false;
      streamed[sheet.table] = {folder + name, temporary};
    } else {
      const auto fill = [&](int descriptor) { return write_csv(*sheet.table, options, descriptor); };
      if (!files.write(folder + name, fill, diagnostics)) return false;
    }
    if (!files.write(folder + name + "-metadata.json", csvw_text(*sheet.table, name, sheet.notes, options),
                     diagnostics)) {
      return false;
    }
  }
  for (const WrittenSheet& sheet : sheets_in(prepared, "json")) {
    if (!files.write(folder + sheet.name + ".json", json_text(sheet), diagnostics)) return false;
  }
  for (const char* format : {"ods", "xlsx", "sqlite"}) {
    const std::vector<WrittenSheet> sheets = sheets_in(prepared, format);
    if (!sheets.empty() && !write_tables(folder + "tables." + format, format, sheets, files, diagnostics))
      return false;
  }
  return true;
}

}  // namespace

bool write_tables(const std::string& path, const std::string& format, const std::vector<WrittenSheet>& sheets,
                  OutputFiles& files, Diagnostics& diagnostics) {
  if (format != "sqlite") {
    for (const WrittenSheet& sheet : sheets) {
      if (sheet.table->rows <= kWorkbookRows) continue;
      diagnostics.add(Code::workbook_too_long,
                      {sheet.name, std::to_string(sheet.table->rows), std::to_string(kWorkbookRows)});
      return false;
    }
  }
  const std::string temporary = files.stage(path, diagnostics);
  if (temporary.empty()) return false;
  std::string fault;
  if (format == "xlsx") {
    const WrittenXlsx written = write_xlsx(temporary, sheets);
    fault = written.fault;
    if (written.shortened > 0) diagnostics.add(Code::xlsx_digits, {std::to_string(written.shortened), path});
  } else {
    fault = format == "ods" ? write_ods(temporary, sheets) : write_sqlite(temporary, sheets);
  }
  if (fault.empty()) return true;
  diagnostics.add(Code::cannot_write, {path, fault});
  return false;
}

std::vector<DerivedNote> derived_notes(const PreparedStudy& prepared, const RunSheet& sheet) {
  const SheetPlan& plan = sheet.plan;
  const Table& table = sheet.table();
  const std::string source = plan.source < 0 ? "" : prepared.shown_source(sheet).model->name;
  std::vector<DerivedNote> notes;
  for (const FillPlan& fill : plan.fills) {
    std::string rules;
    for (const Passage& text : fill.texts) rules += (rules.empty() ? "" : "; ") + text.text();
    notes.push_back(
        {table.columns[fill.filled].symbol, table.columns[fill.measured].symbol, "filled by " + rules});
  }
  for (const DerivedColumn& derived : plan.derived) {
    notes.push_back({derived.definition.name, equation_of(derived), derived.null_rule});
  }
  for (const TakenColumn& taken : plan.taken) {
    const Column& column = table.columns[taken.index];
    if (!column.measured) notes.push_back({column.symbol, source + "." + column.symbol, "taken over"});
  }
  return notes;
}

namespace {

// Computes a sheet and writes its rows and its nulls; the error number of a failure with the latter, else 0.
int stream_rows(PreparedStudy& prepared, RunSheet& sheet, const StreamedFiles& files, int nulls,
                Diagnostics& diagnostics) {
  CsvOptions options;
  options.headers_are_symbols = sheet.model->headers_are_symbols.value_or(prepared.study.headers_are_symbols);
  const auto number =
      static_cast<std::size_t>(std::find_if(prepared.sheets.begin(), prepared.sheets.end(),
                                            [&](const auto& s) { return s.get() == &sheet; }) -
                               prepared.sheets.begin());
  SheetStream stream(prepared, number);
  const auto file = files.find(&sheet.table());
  if (file == files.end()) return stream.run(nullptr, nulls, diagnostics);
  const auto& [path, temporary] = file->second;
  CsvSink csv{::open(temporary.c_str(), O_WRONLY | O_CLOEXEC), options, 0};
  if (csv.descriptor < 0) csv.error = errno;
  const int error = csv.error == 0 ? stream.run(&csv, nulls, diagnostics) : 0;
  if (csv.descriptor >= 0 && ::close(csv.descriptor) != 0 && csv.error == 0) csv.error = errno;
  if (csv.error != 0) diagnostics.add(Code::cannot_write, {path, system_reason(csv.error)});
  return error;
}

// Writes nulls.csv, and with it the rows of sheets that are computed only now; then fits their points.
bool write_nulls_and_streams(PreparedStudy& prepared, const std::string& path, const StreamedFiles& streamed,
                             OutputFiles& files, Diagnostics& diagnostics) {
  const auto fill = [&](int descriptor) {
    if (const int error = write_all(descriptor, kNullsHeader)) return error;
    for (RunSheet* sheet : prepared.shown_sheets()) {
      const int error = sheet->is_streamed()
                            ? stream_rows(prepared, *sheet, streamed, descriptor, diagnostics)
                            : write_nulls(prepared, *sheet, descriptor);
      if (error != 0) return error;
    }
    return 0;
  };
  if (!files.write(path, fill, diagnostics)) return false;
  for (const Task& task : prepared.order) {
    if (task.kind == Task::Kind::fit && prepared.sheets[task.sheet]->is_streamed())
      compute_fit(prepared, task, diagnostics);
  }
  return !diagnostics.has_errors();
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
          const Unit error_unit = difference_unit(fit.types[p].unit);
          parameter.error_unit = error_unit.text();
          if (fitted) {
            parameter.standard_error = curve.standard_errors[p];
            parameter.error_shown = conversion(fit.types[p].unit, error_unit, true)(curve.standard_errors[p]);
          }
          one.parameters.push_back(std::move(parameter));
        }
        one.points = curve.points;
        one.left_out = group.left_out;
        one.degrees_of_freedom = curve.degrees_of_freedom;
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
  const auto& inputs = prepared.inputs.all();
  for (std::size_t i = 0; i < inputs.size(); ++i) {
    facts.inputs.push_back({inputs[i]->path, prepared.inputs.digest(i)});
  }
  for (const RunSheet* sheet : prepared.shown_sheets()) {
    SheetFacts own;
    own.name = sheet->model->name;
    own.file = sheet->table().file;
    own.rows = sheet->table().rows;
    if (sheet->plan.source >= 0) gather_taken(prepared, *sheet, own);
    for (std::size_t number = 0; number < sheet->table().columns.size(); ++number) {
      const Column& column = sheet->table().columns[number];
      if (!column.measured || sheet->plan.source >= 0) continue;
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
    facts.sheets.push_back(std::move(own));
  }
  gather_fits(prepared, facts);
  return facts;
}

RunFacts write_results(PreparedStudy& prepared, Diagnostics& diagnostics) {
  OutputFiles files(prepared.inputs, true);
  const std::string folder = prepared.output + "/";
  StreamedFiles streamed;
  if (!write_sheets(prepared, folder, files, streamed, diagnostics) ||
      !write_nulls_and_streams(prepared, folder + kNullsFile, streamed, files, diagnostics))
    return {};
  warn_of_all_null(prepared, diagnostics);
  RunFacts facts = gather_facts(prepared);
  std::vector<BuiltFigure> figures = build_figures(prepared);
  draw_figures(figures);
  write_figures(prepared, figures, files, facts, diagnostics);
  if (diagnostics.has_errors()) return facts;
  if (!facts.fits.empty()) files.write(folder + kFitsFile, fits_csv(facts.fits), diagnostics);
  facts.written = files.paths();
  // Paths in the record are relative to it, so that the record is the same wherever the study lies.
  RunFacts recorded = facts;
  for (std::string& path : recorded.written) path.erase(0, folder.size());
  for (InputFacts& input : recorded.inputs) {
    if (input.path.starts_with(prepared.folder)) input.path.erase(0, prepared.folder.size());
  }
  for (SheetFacts& sheet : recorded.sheets) {
    if (sheet.file.starts_with(prepared.folder)) sheet.file.erase(0, prepared.folder.size());
  }
  files.write(folder + kRecordFile, record_json(recorded), diagnostics);
  files.write(folder + kReportFile, page_html(report_content(prepared, recorded, figures)), diagnostics);
  facts.written.push_back(folder + kRecordFile);
  facts.written.push_back(folder + kReportFile);
  prepared.inputs.report_changed(diagnostics);
  if (!diagnostics.has_errors()) files.commit(diagnostics);
  return facts;
}

}  // namespace opensum
