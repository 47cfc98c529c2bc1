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

// Adds the columns that a name, a range or a pattern means, in the source's order.
void add_cell_columns(const Passage& name, const Scope& source, std::vector<std::size_t>& cells,
                      Diagnostics& diagnostics) {
  const auto add = [&](std::size_t index) {
    const bool is_new = std::find(cells.begin(), cells.end(), index) == cells.end();
    if (is_new && !source.columns[index].linked && !is_filled_twin(source, index)) cells.push_back(index);
  };
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

// The columns whose cells become rows: one list for each column of cells that is made of them.
std::vector<std::vector<std::size_t>> cell_columns(const SheetModel& sheet, const Scope& source,
                                                   Diagnostics& diagnostics) {
  const std::vector<Passage>& names = *sheet.one_row_per_cell;
  const bool several = sheet.cell.size() > 1;
  if (several && sheet.cell.size() != names.size()) {
    diagnostics.add(Code::cells_unlike, names.front().place(),
                    {std::to_string(sheet.cell.size()), std::to_string(names.size())});
    return {};
  }
  std::vector<std::vector<std::size_t>> lists(1);
  for (std::size_t i = 0; i < names.size(); ++i) {
    if (several && i > 0) lists.emplace_back();
    add_cell_columns(names[i], source, lists.back(), diagnostics);
    if (lists.back().size() != lists.front().size() && several) {
      diagnostics.add(Code::cells_unlike, names[i].place(),
                      {std::to_string(lists.front().size()), std::to_string(lists.back().size())});
      return {};
    }
  }
  return lists;
}

// The columns of the cells and that of their headers.
void add_cells(const SheetModel& sheet, const Scope& source, const UnitSystem& units, SheetTable& table,
               TakenColumns& taken, const std::vector<std::vector<std::size_t>>& lists,
               Diagnostics& diagnostics) {
  if (lists.empty() || lists.front().empty()) return;
  std::vector<NamedColumn> named;
  const auto name = [&](const Passage* text, const char* usual) {
    const auto read = text == nullptr ? std::optional(NamedColumn{usual, usual, {}})
                                      : read_named_column(*text, units, diagnostics);
    if (read) named.push_back(*read);
    return read.has_value();
  };
  if (!name(sheet.from_header ? &*sheet.from_header : nullptr, "header")) return;
  for (std::size_t i = 0; i < lists.size(); ++i) {
    if (!name(i < sheet.cell.size() ? &sheet.cell[i] : nullptr, "cell")) return;
  }
  std::vector<std::string> headers;
  for (const std::size_t i : lists.front()) {
    // Without the unit of the cells, which says nothing of the header.
    headers.push_back(source.columns[i].label);
  }
  const Place place =
      sheet.from_header ? sheet.from_header->place() : sheet.one_row_per_cell->front().place();
  taken.cell_headers = read_cell_headers(headers, named.front().unit, units, place, diagnostics);
  if (!taken.cell_headers) return;
  for (std::size_t k = 0; k < named.size(); ++k) {
    const std::vector<std::size_t>& cells = lists[k == 0 ? 0 : k - 1];
    const bool twice = std::any_of(table.table.columns.begin(), table.table.columns.end(),
                                   [&](const Column& c) { return c.symbol == named[k].symbol; });
    if (twice) diagnostics.add(Code::symbol_twice, place, {named[k].symbol});
    Column own;
    own.symbol = named[k].symbol;
    own.label = named[k].label;
    own.measured = source.columns[cells.front()].measured;
    table.table.columns.push_back(std::move(own));
    TakenColumn& column = taken.columns.emplace_back();
    for (const std::size_t i : cells) column.cells.push_back(source.meant_by(i));
    column.there = column.cells.front();
    column.of_headers = k == 0;
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
  std::vector<std::vector<std::size_t>> lists;
  if (sheet.one_row_per_cell) lists = cell_columns(sheet, source, diagnostics);
  for (const std::size_t index : wanted_columns(sheet, source, diagnostics)) {
    const bool is_cell = std::any_of(lists.begin(), lists.end(), [&](const std::vector<std::size_t>& cells) {
      return std::find(cells.begin(), cells.end(), index) != cells.end();
    });
    if (is_cell) continue;
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
  // Groups reduce the columns of the sheet behind this one, filled and as measured.
  for (std::size_t i = 0, count = sheet.hidden ? taken.columns.size() : 0; i < count; ++i) {
    const auto there =
        std::find_if(source.columns.begin(), source.columns.end(),
                     [&](const ScopeColumn& column) { return column.filled == taken.columns[i].there; });
    if (there == source.columns.end()) continue;
    Column column;
    column.symbol = "measured(" + there->symbol + ")";
    column.label = there->label;
    column.measured_of = there->symbol;
    column.measured = there->measured;
    table.table.columns.push_back(std::move(column));
    TakenColumn& own = taken.columns.emplace_back();
    own.there = static_cast<std::size_t>(there - source.columns.begin());
  }
  if (sheet.one_row_per_cell) add_cells(sheet, source, units, table, taken, lists, diagnostics);
  apply_settings(sheet, source, table, diagnostics);
  return taken;
}

}  // namespace opensum
