// The columns of a sheet that has the rows of another sheet.
#include "plan/taken_columns.h"

#include <algorithm>

#include "message/nearest.h"

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

std::vector<std::size_t> take_columns(const SheetModel& sheet, const Scope& source, SheetTable& table,
                                      Diagnostics& diagnostics) {
  std::vector<std::size_t> there;
  for (const std::size_t index : wanted_columns(sheet, source, diagnostics)) {
    const ScopeColumn& from = source.columns[index];
    Column column;
    column.symbol = from.symbol;
    column.label = from.label;
    column.header = from.header;
    column.measured = from.measured;
    table.table.columns.push_back(std::move(column));
    there.push_back(source.meant_by(index));
  }
  apply_settings(sheet, source, table, diagnostics);
  return there;
}

}  // namespace opensum
