// The lines of nulls.csv.
#include "run/nulls.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

#include "files/csv_writer.h"
#include "report/summary.h"
#include "table/number_text.h"

namespace opensum {

NullsText::NullsText(const StudyRun& study, const RunSheet& sheet) : study_(study), sheet_(sheet) {
  append_field(sheet_field_, sheet.model->name, ',');
  for (const auto& other : study.sheets) by_name_[other->model->name] = other.get();
  const Table& table = sheet.table();
  for (std::size_t index = 0; index < table.columns.size(); ++index) {
    const Column& column = table.columns[index];
    if (!column.fills.empty() || column.linked) continue;
    NullColumn& own = columns_.emplace_back();
    own.index = index;
    append_field(own.field, column.symbol, ',');
    for (std::size_t i = 0; i < sheet.plan.fills.size(); ++i) {
      if (sheet.plan.fills[i].measured == index) own.fills.push_back(i);
    }
  }
  began_.resize(study.origins.count());
  for (OriginId id = 0; id < began_.size(); ++id) {
    const Origins::Origin& origin = study.origins[id];
    const std::string cell = origin.sheet + "." + origin.column + " row ";
    std::string field;
    append_field(field, cell + "1", ',');
    // One that needs quotes, and one in a certain row, is written each time.
    if (!origin.row && field.front() != '"') began_[id] = cell;
  }
}

std::string NullsText::rule_of(const NullColumn& own, const Table& table,
                               const std::vector<FillResult>& fills, std::size_t row, bool& filled,
                               std::string& value) const {
  for (const std::size_t number : own.fills) {
    const std::vector<FilledCell>& cells = fills[number].cells;
    const auto cell = std::lower_bound(cells.begin(), cells.end(), row,
                                       [](const FilledCell& c, std::size_t r) { return c.row < r; });
    if (cell == cells.end() || cell->row != row) continue;
    const FillPlan& plan = sheet_.plan.fills[number];
    filled = cell->rule >= 0;
    if (filled) {
      value = cell_text(table.columns[plan.filled], row);
      return plan.texts[static_cast<std::size_t>(cell->rule)].text();
    }
    std::string rules;
    for (const Passage& text : plan.texts) rules += (rules.empty() ? "" : "; ") + text.text();
    return rules + ": " + reason_name(cell->left.reason());
  }
  return {};
}

void NullsText::append_null(std::string& out, const ComputedBlock& block, const Cell& cell, Null null) const {
  const Table& table = block.table;
  const Chunk& chunk = cell.column.chunks[cell.row / kChunkRows];
  bool filled = false;
  std::string value;
  const std::string rule = rule_of(cell.own, table, block.fills, cell.row, filled, value);
  out += sheet_field_;
  out += ',';
  append_number(out, static_cast<double>(cell.place + 1));
  out += ',';
  // Of several files a line alone would not say enough.
  if (table.file_of.empty()) {
    append_number(out, static_cast<double>(table.lines[cell.row]));
  } else {
    append_field(out, table.place_text(cell.row), ',');
  }
  out += ',';
  out += cell.own.field;
  out += filled ? ",filled," : ",null,";
  out += reason_name(null.reason());
  out += ',';
  append_field(out, rule, ',');
  out += ',';
  if (!value.empty()) {
    append_field(out, value, ',');
  } else if (!chunk.source.empty()) {
    append_field(out, chunk.source[cell.row % kChunkRows], ',');
  }
  out += ',';
  append_origin(out, null, block.first_row + cell.row);
  out += '\n';
}

// The cell in which a null of a row began, with its row as written.
void NullsText::append_origin(std::string& out, Null null, std::size_t row) const {
  const Origins::Origin& origin = study_.origins[null.origin()];
  std::size_t place = origin.row.value_or(row);
  const auto there = by_name_.find(origin.sheet);
  if (there != by_name_.end()) place = there->second->table().place_of(place);
  const std::string& began = null.origin() < began_.size() ? began_[null.origin()] : std::string();
  if (!began.empty()) {
    out += began;
    append_number(out, static_cast<double>(place + 1));
    return;
  }
  std::string cell = origin.sheet + "." + origin.column + " row ";
  append_number(cell, static_cast<double>(place + 1));
  append_field(out, cell, ',');
}

void NullsText::append(std::string& out, const ComputedBlock& block, std::vector<std::size_t>* ends) const {
  const Table& table = block.table;
  const Table& whole = sheet_.table();
  for (std::size_t begin = 0; begin < table.rows; begin += kChunkRows) {
    const std::size_t end = std::min(begin + kChunkRows, table.rows);
    std::vector<const NullColumn*> some;
    for (const NullColumn& own : columns_) {
      if (table.columns[own.index].chunks[begin / kChunkRows].has_nulls()) some.push_back(&own);
    }
    if (some.empty() && ends == nullptr) continue;
    for (std::size_t row = begin; row < end; ++row) {
      for (const NullColumn* own : some) {
        const Column& column = table.columns[own->index];
        if (const Null null = column.null(row))
          append_null(out, block, {*own, column, row, whole.place_of(block.first_row + row)}, null);
      }
      if (ends != nullptr) ends->push_back(out.size());
    }
  }
}

void warn_of_all_null(const StudyRun& study, Diagnostics& diagnostics) {
  for (const RunSheet* sheet : study.shown_sheets()) {
    for (const DerivedColumn& derived : sheet->plan.derived) {
      const Column& column = sheet->table().columns[derived.index];
      const ColumnFacts facts = column_facts(column, sheet->facts.null_counts[derived.index]);
      if (facts.rows < 2 || facts.known > 0) continue;
      const Definition& definition = derived.definition;
      diagnostics.set_sheet(sheet->model->name);
      diagnostics.add(Code::all_null, definition.passage.place(definition.name_span),
                      {column.symbol, std::to_string(facts.rows), null_counts_text(facts.nulls)});
    }
  }
  diagnostics.set_sheet("");
}

}  // namespace opensum
