// Last step of a run: everything that is written.
#include "run/write.h"

#include <fmt/format.h>

#include "equation/tree.h"
#include "figure/draw.h"
#include "files/csv_writer.h"
#include "files/output.h"
#include "run/figures.h"

namespace opensum {
namespace {

std::string equation_of(const DerivedColumn& derived) { return print(*derived.definition.expression); }

std::vector<DerivedNote> derived_notes(const SheetPlan& plan) {
  std::vector<DerivedNote> notes;
  for (const DerivedColumn& derived : plan.derived) {
    notes.push_back({derived.definition.name, equation_of(derived), derived.null_rule});
  }
  return notes;
}

void append_nulls(std::string& out, const RunSheet& sheet, const Origins& origins) {
  const Table& table = sheet.table();
  for (const Column& column : table.columns) {
    for (std::size_t row = 0; row < column.rows; ++row) {
      const Null null = column.null(row);
      if (!null) continue;
      const Origins::Origin& origin = origins[null.origin()];
      const Chunk& chunk = column.chunks[row / kChunkRows];
      const std::string began =
          fmt::format("{}.{} row {}", origin.sheet, origin.column, origin.row.value_or(row) + 1);
      const std::string_view source =
          chunk.source.empty() ? std::string_view() : chunk.source[row % kChunkRows];
      append_field(out, sheet.model->name, ',');
      out += fmt::format(",{},{},", row + 1, table.lines[row]);
      append_field(out, column.symbol, ',');
      out += fmt::format(",null,{},,", reason_name(null.reason()));
      append_field(out, source, ',');
      out += ',';
      append_field(out, began, ',');
      out += '\n';
    }
  }
}

void write_figures(PreparedStudy& prepared, OutputFiles& files, RunFacts& facts, Diagnostics& diagnostics) {
  for (const BuiltFigure& built : build_figures(prepared)) {
    for (const std::string& format : built.formats) {
      const std::string path = prepared.output + "/figures/" + built.name + "." + format;
      const std::string temporary = files.stage(path, diagnostics);
      if (temporary.empty()) return;
      if (!draw_figure(built.figure, format, temporary)) {
        diagnostics.add(Code::cannot_write, {path, "the drawing failed"});
        return;
      }
    }
    facts.notes.insert(facts.notes.end(), built.notes.begin(), built.notes.end());
  }
}

}  // namespace

std::string nulls_csv(const PreparedStudy& prepared) {
  std::string out = "sheet,row,line,column,state,reason,rule,value,began\n";
  for (const auto& sheet : prepared.sheets) append_nulls(out, *sheet, prepared.origins);
  return out;
}

RunFacts gather_facts(const PreparedStudy& prepared) {
  RunFacts facts;
  facts.title = prepared.study.title;
  facts.policy = prepared.study.policy;
  facts.constants = prepared.constants;
  for (const auto& file : prepared.inputs.all()) facts.inputs.push_back({file->path, sha256(file->text)});
  for (const auto& sheet : prepared.sheets) {
    SheetFacts own;
    own.name = sheet->model->name;
    own.file = sheet->table().file;
    own.rows = sheet->table().rows;
    for (const Column& column : sheet->table().columns) {
      if (!column.measured) continue;
      own.measured.push_back(column_facts(column));
      if (column.kind == Kind::number && !column.unit_stated) own.without_unit.push_back(column.symbol);
    }
    for (const DerivedColumn& derived : sheet->plan.derived) {
      ColumnFacts column = column_facts(sheet->table().columns[derived.index]);
      column.equation = equation_of(derived);
      own.derived.push_back(std::move(column));
    }
    for (const auto& [symbol, counts] : sheet->left_out) {
      own.skipped.push_back(fmt::format("{} leaves out {} null{} in {} of {} rows", symbol, counts.first,
                                        counts.first == 1 ? "" : "s", counts.second, own.rows));
    }
    for (const auto& [symbol, tallies] : sheet->tallies) {
      for (const ReductionTally& tally : tallies) {
        own.skipped.push_back(
            fmt::format("{}: {} of {} of {} values", symbol, tally.function, tally.used, tally.met));
      }
    }
    facts.sheets.push_back(std::move(own));
  }
  return facts;
}

RunFacts write_results(PreparedStudy& prepared, Diagnostics& diagnostics) {
  RunFacts facts = gather_facts(prepared);
  OutputFiles files(prepared.inputs, true);
  const std::string folder = prepared.output + "/";
  for (const auto& sheet : prepared.sheets) {
    CsvOptions options;
    options.headers_are_symbols =
        sheet->model->headers_are_symbols.value_or(prepared.study.headers_are_symbols);
    const std::string name = sheet->model->name + ".csv";
    if (!files.write(folder + name, csv_text(sheet->table(), options), diagnostics) ||
        !files.write(folder + name + "-metadata.json",
                     csvw_text(sheet->table(), name, derived_notes(sheet->plan), options), diagnostics)) {
      return facts;
    }
  }
  write_figures(prepared, files, facts, diagnostics);
  if (diagnostics.has_errors()) return facts;
  files.write(folder + "nulls.csv", nulls_csv(prepared), diagnostics);
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
  facts.written.push_back(folder + "record.json");
  if (diagnostics.has_errors() || !files.commit(diagnostics)) return facts;
  return facts;
}

}  // namespace opensum
