// Last step of a run: everything that is written.
#include "run/write.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "equation/tree.h"
#include "files/csv_writer.h"
#include "files/output.h"
#include "run/figures.h"
#include "run/report.h"

namespace opensum {
namespace {

std::string equation_of(const DerivedColumn& derived) { return print(*derived.definition.expression); }

// The rules of a fill as written, in order.
std::vector<std::string> rule_texts(const FillPlan& fill) {
  std::vector<std::string> texts;
  for (const Passage& text : fill.texts) texts.push_back(text.text());
  return texts;
}

// What nulls.csv says of a null beside its place: what became of it, by which rule, and the value.
struct NullNote {
  const char* state = "null";
  std::string rule;
  std::string value;
};

// The notes on the gaps of a measured column, by row.
std::map<std::size_t, NullNote> fill_notes(const RunSheet& sheet, std::size_t column) {
  std::map<std::size_t, NullNote> notes;
  for (std::size_t i = 0; i < sheet.plan.fills.size(); ++i) {
    const FillPlan& fill = sheet.plan.fills[i];
    if (fill.measured != column) continue;
    const std::vector<std::string> rules = rule_texts(fill);
    for (const FilledCell& cell : sheet.fills[i].cells) {
      NullNote note;
      if (cell.rule >= 0) {
        note.state = "filled";
        note.rule = rules[static_cast<std::size_t>(cell.rule)];
        note.value = cell_text(sheet.table().columns[fill.filled], cell.row);
      } else {
        note.rule = fmt::format("{}: {}", fmt::join(rules, "; "), reason_name(cell.left.reason()));
      }
      notes[cell.row] = std::move(note);
    }
  }
  return notes;
}

// The nulls of a study, a column of a sheet at a time and in parts of as many rows as a chunk has.
class NullsWriter {
 public:
  explicit NullsWriter(const PreparedStudy& study) : study_(study) {
    for (const auto& sheet : study.sheets) by_name_[sheet->model->name] = sheet.get();
    for (const RunSheet* sheet : study.shown_sheets()) {
      for (std::size_t index = 0; index < sheet->table().columns.size(); ++index) add_column(*sheet, index);
    }
  }

  std::size_t parts() const { return parts_.size(); }

  void append_part(std::string& out, std::size_t part) const {
    const auto& [number, begin] = parts_[part];
    const NullColumn& own = columns_[number];
    const Table& table = own.sheet->table();
    const Column& column = table.columns[own.index];
    const std::size_t end = std::min(begin + kChunkRows, column.rows);
    for (std::size_t place = begin; place < end; ++place) {
      const std::size_t row = table.row_at(place);
      if (const Null null = column.null(row)) append_null(out, own, column, place, row, null);
    }
  }

 private:
  struct NullColumn {
    const RunSheet* sheet = nullptr;
    std::size_t index = 0;
    std::map<std::size_t, NullNote> notes;
  };

  void add_column(const RunSheet& sheet, std::size_t index) {
    const Table& table = sheet.table();
    const Column& column = table.columns[index];
    if (!column.fills.empty() || column.linked) return;
    const bool any = std::any_of(column.chunks.begin(), column.chunks.end(),
                                 [](const Chunk& chunk) { return chunk.has_nulls(); });
    if (!any) return;
    columns_.push_back({&sheet, index, fill_notes(sheet, index)});
    for (std::size_t begin = 0; begin < column.rows; begin += kChunkRows) {
      // In the order of the source a part is a chunk.
      if (table.order.empty() && !column.chunks[begin / kChunkRows].has_nulls()) continue;
      parts_.emplace_back(columns_.size() - 1, begin);
    }
  }

  void append_null(std::string& out, const NullColumn& own, const Column& column, std::size_t place,
                   std::size_t row, Null null) const {
    const Table& table = own.sheet->table();
    const char* state = "null";
    const std::string* rule = nullptr;
    std::string_view value;
    const Chunk& chunk = column.chunks[row / kChunkRows];
    if (!chunk.source.empty()) value = chunk.source[row % kChunkRows];
    if (const auto found = own.notes.find(row); found != own.notes.end()) {
      state = found->second.state;
      rule = &found->second.rule;
      if (!found->second.value.empty()) value = found->second.value;
    }
    append_field(out, own.sheet->model->name, ',');
    out += ',';
    append_number(out, static_cast<double>(place + 1));
    out += ',';
    // Of several files a line alone would not say enough.
    if (table.file_of.empty()) {
      append_number(out, static_cast<double>(table.lines[row]));
    } else {
      append_field(out, table.place_text(row), ',');
    }
    out += ',';
    append_field(out, column.symbol, ',');
    out += ',';
    out += state;
    out += ',';
    out += reason_name(null.reason());
    out += ',';
    if (rule != nullptr) append_field(out, *rule, ',');
    out += ',';
    append_field(out, value, ',');
    out += ',';
    append_origin(out, study_.origins[null.origin()], row);
    out += '\n';
  }

  // The cell in which a null of a row began, with its row as written.
  void append_origin(std::string& out, const Origins::Origin& origin, std::size_t row) const {
    std::size_t place = origin.row.value_or(row);
    if (const auto found = by_name_.find(origin.sheet); found != by_name_.end())
      place = found->second->table().place_of(place);
    std::string cell = origin.sheet + "." + origin.column + " row ";
    append_number(cell, static_cast<double>(place + 1));
    append_field(out, cell, ',');
  }

  const PreparedStudy& study_;
  std::map<std::string, const RunSheet*> by_name_;
  std::vector<NullColumn> columns_;
  std::vector<std::pair<std::size_t, std::size_t>> parts_;
};

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
    facts.taken.push_back(column_facts(sheet.table().columns[taken.index]));
  }
}

void gather_links(const PreparedStudy& prepared, const RunSheet& sheet, SheetFacts& facts) {
  for (std::size_t i = 0; i < sheet.links.size(); ++i) {
    const LinkPlan& plan = sheet.plan.links[i];
    const RowMap& map = sheet.links[i];
    if (plan.how == LinkHow::taken) continue;
    LinkFacts link;
    link.name = plan.name;
    link.sheet = prepared.sheets[static_cast<std::size_t>(plan.sheet)]->model->name;
    link.matched = map.matched;
    for (std::size_t row = 0; row < map.first.size(); ++row) {
      if (map.first[row] == RowMap::kNone) ++link.unmatched[reason_name(map.why[row])];
    }
    facts.links.push_back(std::move(link));
  }
}

void gather_fills(const RunSheet& sheet, SheetFacts& facts) {
  for (std::size_t i = 0; i < sheet.plan.fills.size(); ++i) {
    const FillPlan& plan = sheet.plan.fills[i];
    const FillResult& result = sheet.fills[i];
    FillFacts fill;
    fill.symbol = sheet.table().columns[plan.measured].symbol;
    fill.gaps = result.cells.size();
    for (const std::string& rule : rule_texts(plan)) fill.rules.push_back({rule, 0});
    for (const FilledCell& cell : result.cells) {
      if (cell.rule >= 0) {
        ++fill.rules[static_cast<std::size_t>(cell.rule)].second;
      } else {
        ++fill.left[reason_name(cell.left.reason())];
      }
    }
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
    facts.claims.push_back({claim.text, print(*claim.condition), result.held, result.broken.count,
                            result.undecided.count,
                            sheet.model->claims_are_warnings.value_or(study.claims_are_warnings)});
  }
}

// The sheets that are to be written in a format.
std::vector<WrittenSheet> sheets_in(const PreparedStudy& prepared, const std::string& format) {
  std::vector<WrittenSheet> sheets;
  for (const RunSheet* sheet : prepared.shown_sheets()) {
    const std::vector<std::string>& formats = sheet->model->write.value_or(prepared.study.write);
    if (std::find(formats.begin(), formats.end(), format) == formats.end()) continue;
    sheets.push_back({sheet->model->name, &sheet->table(),
                      sheet->model->headers_are_symbols.value_or(prepared.study.headers_are_symbols),
                      derived_notes(prepared, *sheet)});
  }
  return sheets;
}

// Every sheet in every format that is asked for; false after a reported error.
bool write_sheets(const PreparedStudy& prepared, const std::string& folder, OutputFiles& files,
                  Diagnostics& diagnostics) {
  for (const WrittenSheet& sheet : sheets_in(prepared, "csv")) {
    CsvOptions options;
    options.headers_are_symbols = sheet.headers_are_symbols;
    const std::string name = sheet.name + ".csv";
    const auto fill = [&](int descriptor) { return write_csv(*sheet.table, options, descriptor); };
    if (!files.write(folder + name, fill, diagnostics) ||
        !files.write(folder + name + "-metadata.json", csvw_text(*sheet.table, name, sheet.notes, options),
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
  const std::string fault = format == "ods"    ? write_ods(temporary, sheets)
                            : format == "xlsx" ? write_xlsx(temporary, sheets)
                                               : write_sqlite(temporary, sheets);
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

int write_nulls(const PreparedStudy& prepared, int descriptor) {
  if (const int error = write_all(descriptor, "sheet,row,line,column,state,reason,rule,value,began\n"))
    return error;
  const NullsWriter writer(prepared);
  return write_in_parts(descriptor, writer.parts(),
                        [&](std::string& out, std::size_t part) { writer.append_part(out, part); });
}

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
          one.parameters.push_back(std::move(parameter));
        }
        one.points = curve.points;
        one.left_out = group.left_out;
        one.degrees_of_freedom = curve.degrees_of_freedom;
        if (fitted) one.residual_sd = curve.residual_sd;
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
    for (const Column& column : sheet->table().columns) {
      if (!column.measured || sheet->plan.source >= 0) continue;
      own.measured.push_back(column_facts(column));
      if (column.kind == Kind::number && !column.unit_stated) own.without_unit.push_back(column.symbol);
    }
    for (const DerivedColumn& derived : sheet->plan.derived) {
      ColumnFacts column = column_facts(sheet->table().columns[derived.index]);
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
  RunFacts facts = gather_facts(prepared);
  OutputFiles files(prepared.inputs, true);
  const std::string folder = prepared.output + "/";
  if (!write_sheets(prepared, folder, files, diagnostics)) return facts;
  std::vector<BuiltFigure> figures = build_figures(prepared);
  draw_figures(figures);
  write_figures(prepared, figures, files, facts, diagnostics);
  if (diagnostics.has_errors()) return facts;
  files.write(
      folder + "nulls.csv", [&](int descriptor) { return write_nulls(prepared, descriptor); }, diagnostics);
  if (!facts.fits.empty()) files.write(folder + "fits.csv", fits_csv(facts.fits), diagnostics);
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
  files.write(folder + "record.json", record_json(recorded), diagnostics);
  files.write(folder + "report.html", page_html(report_content(prepared, recorded, figures)), diagnostics);
  facts.written.push_back(folder + "record.json");
  facts.written.push_back(folder + "report.html");
  if (diagnostics.has_errors() || !files.commit(diagnostics)) return facts;
  return facts;
}

}  // namespace opensum
