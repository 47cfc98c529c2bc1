// The columns of a sheet that has the rows of another sheet.
#include "plan/taken_columns.h"

#include <algorithm>

#include "message/nearest.h"
#include "table/number_text.h"

namespace opensum {
namespace {

// Whether a column only holds the filled values of the one before it, whose name means it.
bool is_filled_twin(const Scope& scope, std::size_t index) {
  return index > 0 && scope.columns[index - 1].filled == index;
}

std::vector<std::size_t> wanted_columns(const SheetModel& sheet, const Scope& source,
                                        Diagnostics& diagnostics) {
  std::vector<std::size_t> wanted;
  const auto& names = sheet.one_row_per ? sheet.one_row_per : sheet.take;
  if (!names) {
    for (std::size_t i = 0; i < source.columns.size(); ++i) {
      if (!source.columns[i].linked && !is_filled_twin(source, i)) wanted.push_back(i);
    }
    return wanted;
  }
  for (const Passage& name : *names) {
    const auto found = source.find_column(name.text(), true);
    if (!found) {
      diagnostics.add(Code::unknown_column, name.place(),
                      {name.text(), source.sheet, nearest_name(name.text(), source.names())});
    } else if (std::find(wanted.begin(), wanted.end(), *found) == wanted.end()) {
      wanted.push_back(*found);
    }
  }
  return wanted;
}

// The first key of the settings that belongs where the column is read; empty if there is none.
const char* foreign_key(const ColumnSettings& settings) {
  if (settings.header || settings.number) return "header";
  if (settings.unit) return "unit";
  if (settings.kind) return "kind";
  if (settings.format) return "format";
  if (settings.missing) return "missing";
  return settings.values ? "values" : "";
}

// The columns whose cells become rows: names, ranges and patterns, in the source's order within each.
std::vector<std::size_t> cell_columns(const std::vector<Passage>& names, const Scope& source,
                                      Diagnostics& diagnostics) {
  std::vector<std::size_t> cells;
  const auto add = [&](std::size_t index) {
    const bool is_new = std::find(cells.begin(), cells.end(), index) == cells.end();
    if (is_new && !source.columns[index].linked && !is_filled_twin(source, index)) cells.push_back(index);
  };
  for (const Passage& name : names) {
    const std::string& text = name.text();
    const std::size_t before = cells.size();
    const std::size_t dots = text.find("..");
    if (dots != std::string::npos) {
      const auto first = source.find_column(std::string(trimmed(text.substr(0, dots))), true);
      const auto last = source.find_column(std::string(trimmed(text.substr(dots + 2))), true);
      for (std::size_t i = first.value_or(0); first && last && i <= *last; ++i) add(i);
    } else if (is_pattern(text)) {
      for (std::size_t i = 0; i < source.columns.size(); ++i) {
        if (matches_pattern(source.columns[i].symbol, text)) add(i);
      }
    } else if (const auto found = source.find_column(text, true)) {
      add(*found);
    }
    if (cells.size() == before)
      diagnostics.add(Code::no_cells, name.place(), {text, source.sheet, nearest_name(text, source.names())});
  }
  return cells;
}

// The column of the cells and that of their headers.
void add_cells(const SheetModel& sheet, const Scope& source, const UnitSystem& units, SheetTable& table,
               TakenColumns& taken, const std::vector<std::size_t>& cells, Diagnostics& diagnostics) {
  if (cells.empty()) return;
  NamedColumn cell{"cell", "cell", {}};
  NamedColumn header{"header", "header", {}};
  if (sheet.cell) {
    const auto named = read_named_column(*sheet.cell, units, diagnostics);
    if (!named) return;
    cell = *named;
  }
  if (sheet.from_header) {
    const auto named = read_named_column(*sheet.from_header, units, diagnostics);
    if (!named) return;
    header = *named;
  }
  std::vector<std::string> headers;
  for (const std::size_t i : cells) {
    const ScopeColumn& column = source.columns[i];
    headers.push_back(column.header.empty() ? column.label : column.header);
  }
  const Place place =
      sheet.from_header ? sheet.from_header->place() : sheet.one_row_per_cell->front().place();
  taken.cell_headers = read_cell_headers(headers, header.unit, units, place, diagnostics);
  if (!taken.cell_headers) return;
  TakenColumn values;
  for (const std::size_t i : cells) values.cells.push_back(source.meant_by(i));
  values.there = values.cells.front();
  TakenColumn of_headers = values;
  of_headers.of_headers = true;
  for (const auto& [named, column] : {std::pair(&header, &of_headers), std::pair(&cell, &values)}) {
    const bool twice = std::any_of(table.table.columns.begin(), table.table.columns.end(),
                                   [&, &name = named->symbol](const Column& c) { return c.symbol == name; });
    if (twice) diagnostics.add(Code::symbol_twice, place, {named->symbol});
    Column own;
    own.symbol = named->symbol;
    own.label = named->label;
    own.measured = source.columns[cells.front()].measured;
    table.table.columns.push_back(std::move(own));
    taken.columns.push_back(*column);
  }
}

void apply_settings(const SheetModel& sheet, const Scope& source, SheetTable& table,
                    Diagnostics& diagnostics) {
  for (const ColumnSettings& settings : sheet.columns) {
    const auto column = std::find_if(table.table.columns.begin(), table.table.columns.end(),
                                     [&](const Column& c) { return c.symbol == settings.symbol; });
    if (column == table.table.columns.end()) {
      table.unmatched.push_back(&settings);
      continue;
    }
    const std::string key = foreign_key(settings);
    if (!key.empty()) {
      diagnostics.add(Code::taken_column_setting, settings.place, {settings.symbol, key, source.sheet});
    }
    if (settings.label) column->label = *settings.label;
    column->digits = settings.digits.value_or(0);
  }
}

}  // namespace

TakenColumns take_columns(const SheetModel& sheet, const Scope& source, const UnitSystem& units,
                          SheetTable& table, Diagnostics& diagnostics) {
  TakenColumns taken;
  std::vector<std::size_t> cells;
  if (sheet.one_row_per_cell) cells = cell_columns(*sheet.one_row_per_cell, source, diagnostics);
  for (const std::size_t index : wanted_columns(sheet, source, diagnostics)) {
    if (std::find(cells.begin(), cells.end(), index) != cells.end()) continue;
    const ScopeColumn& from = source.columns[index];
    Column column;
    column.symbol = from.symbol;
    column.label = from.label;
    column.header = from.header;
    column.measured = from.measured;
    table.table.columns.push_back(std::move(column));
    TakenColumn& own = taken.columns.emplace_back();
    own.there = source.meant_by(index);
  }
  if (sheet.one_row_per_cell) add_cells(sheet, source, units, table, taken, cells, diagnostics);
  apply_settings(sheet, source, table, diagnostics);
  return taken;
}

}  // namespace opensum
