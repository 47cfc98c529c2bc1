// The sheets of a study as they are written.
#include "results/written_sheets.h"

#include <algorithm>

#include "equation/tree.h"
#include "files/file_names.h"
#include "study/where_computed.h"

namespace opensum {

std::vector<Held> all_written(const RunSheet& sheet) {
  const Table& table = sheet.table();
  std::vector<Held> held(table.columns.size(), Held::nothing);
  const std::vector<const Column*> written = table.written();
  for (std::size_t i = 0; i < held.size(); ++i) {
    if (std::find(written.begin(), written.end(), &table.columns[i]) != written.end())
      held[i] = Held::with_source;
  }
  return held;
}

std::vector<DerivedNote> derived_notes(const PreparedStudy& prepared, const RunSheet& sheet) {
  const SheetPlan& plan = sheet.plan;
  const Table& table = sheet.table();
  const std::string source = !plan.source ? "" : prepared.shown_source(sheet).model->name;
  std::vector<DerivedNote> notes;
  for (const FillPlan& fill : plan.fills) {
    std::string rules;
    for (const Passage& text : fill.texts) rules += (rules.empty() ? "" : "; ") + text.text();
    notes.push_back(
        {table.columns[fill.filled].symbol, table.columns[fill.measured].symbol, "filled by " + rules});
  }
  for (const DerivedColumn& derived : plan.derived) {
    notes.push_back({derived.definition.name, print(*derived.definition.expression), derived.null_rule});
  }
  for (const TakenColumn& taken : plan.taken) {
    const Column& column = table.columns[taken.index];
    if (taken.of_headers) {
      notes.push_back({column.symbol, "headers of " + source, "taken over"});
    } else if (!taken.cells.empty()) {
      notes.push_back({column.symbol, "cells of " + source, "taken over"});
    } else if (!column.measured) {
      notes.push_back({column.symbol, source + "." + column.symbol, "taken over"});
    }
  }
  return notes;
}

std::vector<WrittenSheet> sheets_in(const PreparedStudy& prepared, const std::string& format) {
  std::vector<WrittenSheet> sheets;
  for (const RunSheet* sheet : prepared.shown_sheets()) {
    const std::vector<std::string>& formats = formats_of(*sheet->model, prepared.study);
    if (sheet->in_database && !comes_here(prepared, *sheet)) continue;
    if (std::find(formats.begin(), formats.end(), format) == formats.end()) continue;
    sheets.push_back({sheet->model->name, &sheet->table(),
                      sheet->model->headers_are_symbols.value_or(prepared.study.headers_are_symbols),
                      derived_notes(prepared, *sheet)});
  }
  return sheets;
}

}  // namespace opensum
