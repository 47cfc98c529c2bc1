// The lines of nulls.csv.
#include "results/nulls.h"

#include <fmt/format.h>

#include <algorithm>
#include <utility>

#include "files/csv_writer.h"
#include "report/summary.h"

namespace opensum {

NullsText::NullsText(const StudyRun& study, const RunSheet& sheet) : study_(study), sheet_(sheet) {
  append_field(sheet_field_, sheet.model->name, ',');
  for (const auto& other : study.sheets) by_name_[other->model->name] = other.get();
  const Table& table = sheet.table();
  for (std::size_t index = 0; index < table.columns.size(); ++index) {
    const Column& column = table.columns[index];
    if (!column.fills.empty() || column.linked) continue;
    // The uncertainty of a null is null, too; one that is not known is said once of its column.
    const auto& uncertain = sheet.plan.uncertainty.columns;
    if (std::any_of(uncertain.begin(), uncertain.end(), [&](const auto& u) { return u.index == index; }))
      continue;
    if (column.measured && !sheet.used[index] && !study.study.nulls_of_all) continue;
    NullColumn& own = columns_.emplace_back();
    own.index = index;
    append_field(own.field, column.symbol, ',');
    for (std::size_t i = 0; i < sheet.plan.fills.size(); ++i) {
      if (sheet.plan.fills[i].measured == index) own.fills.push_back(i);
    }
    for (int reason = 0; reason < kReasons; ++reason)
      own.plain.push_back(own.field + ",null," + reason_name(static_cast<Reason>(reason)) + ",,");
  }
  began_.resize(study.origins.count());
  for (OriginId id = 0; id < began_.size(); ++id) {
    const Origins::Origin& origin = study.origins[id];
    if (origin.row || origin.sheet != sheet.model->name) continue;
    const std::string cell = origin.sheet + "." + origin.column + " row ";
    std::string field;
    append_field(field, cell + "1", ',');
    // One that needs quotes is written each time.
    if (field.front() != '"') began_[id] = cell;
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
    filled = cell->rule.has_value();
    if (filled) {
      value = cell_text(table.columns[plan.filled], row);
      return plan.texts[*cell->rule].text();
    }
    std::string rules;
    for (const Passage& text : plan.texts) rules += (rules.empty() ? "" : "; ") + text.text();
    return rules + ": " + reason_name(cell->left.reason());
  }
  return {};
}

void NullsText::begin_row(const Table& table, std::size_t row, std::size_t place, RowFields& fields) const {
  fields.place = std::to_string(place + 1);
  fields.begin.clear();
  fields.begin.add(sheet_field_);
  fields.begin.add(',');
  fields.begin.add(fields.place);
  fields.begin.add(',');
  // Of several files a line alone would not say enough.
  if (table.file_of.empty()) {
    fields.begin.add(std::to_string(table.lines[row]));
  } else {
    append_field(fields.begin, table.place_text(row), ',');
  }
  fields.begin.add(',');
}

void NullsText::append_null(TextBuffer& out, const ComputedBlock& block, const ChunkNulls& cells,
                            std::size_t row, const RowFields& fields) const {
  const Null null = cells.nulls[row % kChunkRows];
  const bool no_text = cells.source == nullptr || cells.source[row % kChunkRows].empty();
  if (no_text && cells.own->fills.empty() && begins_in_row(null)) {
    return out.add({fields.begin.view(), cells.own->plain[static_cast<std::size_t>(null.reason())], ",",
                    began_[null.origin()], fields.place, "\n"});
  }
  out.add(fields.begin.view());
  std::string value;
  if (cells.own->fills.empty()) {
    out.add(cells.own->plain[static_cast<std::size_t>(null.reason())]);
  } else {
    bool filled = false;
    const std::string rule = rule_of(*cells.own, block.table, block.fills, row, filled, value);
    out.add(cells.own->field);
    out.add(filled ? ",filled," : ",null,");
    out.add(reason_name(null.reason()));
    out.add(',');
    append_field(out, rule, ',');
    out.add(',');
  }
  if (!value.empty()) {
    append_field(out, value, ',');
  } else if (cells.source != nullptr) {
    append_field(out, cells.source[row % kChunkRows], ',');
  }
  out.add(',');
  append_origin(out, null, block.first_row + row, fields);
  out.add('\n');
}

// The cell in which a null of a row began, with its row as written.
void NullsText::append_origin(TextBuffer& out, Null null, std::size_t row, const RowFields& fields) const {
  if (begins_in_row(null)) return out.add({began_[null.origin()], fields.place});
  const Origins::Origin& origin = study_.origins[null.origin()];
  std::size_t place = origin.row.value_or(row);
  const auto there = by_name_.find(origin.sheet);
  if (there != by_name_.end()) place = there->second->table().place_of(place);
  append_field(out, origin.sheet + "." + origin.column + " row " + std::to_string(place + 1), ',');
}

void NullsText::append(TextBuffer& out, const ComputedBlock& block, std::vector<std::size_t>* ends) const {
  const Table& table = block.table;
  const Table& whole = sheet_.table();
  RowFields fields;
  for (std::size_t begin = 0; begin < table.rows; begin += kChunkRows) {
    const std::size_t end = std::min(begin + kChunkRows, table.rows);
    std::vector<ChunkNulls> some;
    for (const NullColumn& own : columns_) {
      const Column& column = table.columns[own.index];
      if (column.chunks.empty()) continue;
      const Chunk& chunk = column.chunks[begin / kChunkRows];
      if (!chunk.has_nulls()) continue;
      some.push_back({&own, chunk.nulls.data(), chunk.source.empty() ? nullptr : chunk.source.data()});
    }
    if (some.empty() && ends == nullptr) continue;
    for (std::size_t row = begin; row < end; ++row) {
      bool first = true;
      for (const ChunkNulls& cells : some) {
        if (!cells.nulls[row - begin]) continue;
        if (std::exchange(first, false)) begin_row(table, row, whole.place_of(block.first_row + row), fields);
        append_null(out, block, cells, row, fields);
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
