// What two tables, or two folders of results, have unlike.
#include "report/comparison.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "base/unicode.h"
#include "report/folded.h"
#include "report/words.h"
#include "table/number_text.h"

namespace opensum {

bool TableComparison::same() const {
  return gone == 0 && come == 0 && columns_gone.empty() && columns_come.empty() &&
         std::all_of(columns.begin(), columns.end(), [](const ColumnComparison& c) { return c.same(); });
}

bool Comparison::same() const {
  return files_gone.empty() && files_come.empty() &&
         std::all_of(tables.begin(), tables.end(), [](const TableComparison& t) { return t.same(); });
}

namespace {

// Three digits, and all before the point.
std::string short_number(double value) {
  constexpr int kFewest = 3;
  constexpr int kMost = 12;
  const int whole = value > 0 ? static_cast<int>(std::floor(std::log10(value))) + 1 : 0;
  return number_text(value, std::clamp(whole, kFewest, kMost));
}

constexpr std::size_t kShownChanges = 8;

std::string shown(const std::string& text) { return text.empty() ? "null" : text; }

std::string change_text(const ChangedText& change) {
  if (change.before.empty()) return fmt::format("{} is new: {}", change.name, change.after);
  if (change.after.empty()) return fmt::format("{} is gone: {}", change.name, change.before);
  return fmt::format("{}: {} → {}", change.name, change.before, change.after);
}

// What changed from the same to the same stands together: an equation of sheets that are like one another.
std::vector<ChangedText> together(const std::vector<ChangedText>& changes) {
  std::vector<ChangedText> out;
  for (const ChangedText& change : changes) {
    const auto same = std::find_if(out.begin(), out.end(), [&](const ChangedText& other) {
      return other.before == change.before && other.after == change.after;
    });
    if (same == out.end()) {
      out.push_back(change);
    } else {
      same->name += ", " + change.name;
    }
  }
  return out;
}

// A long list of changes shows the first of them.
void append_changes(std::string& out, const char* what, const std::vector<ChangedText>& all) {
  const std::vector<ChangedText> changes = together(all);
  for (std::size_t i = 0; i < std::min(changes.size(), kShownChanges); ++i)
    out += folded(fmt::format("{} {}", what, change_text(changes[i])), 2);
  if (changes.size() > kShownChanges)
    out += fmt::format("{}s: {} more have changed\n", what, changes.size() - kShownChanges);
}

void append_names(std::string& out, const std::string& what, const std::vector<std::string>& names,
                  std::size_t count) {
  if (count == 0) return;
  std::string line = fmt::format("{}: {}", what, fmt::join(names, ", "));
  if (count > names.size()) line += fmt::format(" and {} more", count - names.size());
  out += folded(line, 4);
}

// Whether all that became of a column is that values of it are null, or no longer.
bool is_of_nulls(const ColumnComparison& column) {
  return column.incomparable.empty() && column.differing > 0 &&
         (column.became_null == column.differing || column.became_known == column.differing);
}

std::string nulls_text(const ColumnComparison& column) {
  return fmt::format("{} of {} {}, first {}", column.differing, column.compared,
                     column.became_null > 0 ? "became null" : "were null and are known", column.worst.row);
}

std::string column_text(const ColumnComparison& column) {
  if (!column.incomparable.empty()) return column.incomparable;
  std::string text = fmt::format("{} of {} differ", column.differing, column.compared);
  if (column.greatest) {
    text += fmt::format(", at most by {}", with_unit(short_number(*column.greatest), column.unit));
    if (column.relative) text += fmt::format(" ({} %)", short_number(*column.relative * 100));
    text += " in ";
  } else {
    text += ", first ";
  }
  text += fmt::format("{}: {} → {}", column.worst.row, shown(column.worst.before), shown(column.worst.after));
  if (column.became_null > 0) text += fmt::format("; {} became null", column.became_null);
  if (column.became_known > 0) text += fmt::format("; {} were null and are known", column.became_known);
  return text;
}

// A line for each column; those in which the same rows became null stand together.
void append_columns(std::string& out, const std::vector<const ColumnComparison*>& differing) {
  std::vector<std::pair<std::string, std::vector<std::string>>> of_nulls;
  std::size_t width = 0;
  for (const ColumnComparison* column : differing) {
    if (!is_of_nulls(*column)) {
      width = std::max(width, display_width(column->symbol));
      continue;
    }
    const std::string text = nulls_text(*column);
    const auto same = std::find_if(of_nulls.begin(), of_nulls.end(),
                                   [&](const auto& group) { return group.first == text; });
    if (same == of_nulls.end()) {
      of_nulls.push_back({text, {column->symbol}});
    } else {
      same->second.push_back(column->symbol);
    }
  }
  for (const ColumnComparison* column : differing) {
    if (is_of_nulls(*column)) continue;
    const std::string blanks(width - display_width(column->symbol), ' ');
    out += folded(fmt::format("  {}{}  {}", column->symbol, blanks, column_text(*column)), width + 4);
  }
  for (const auto& [text, symbols] : of_nulls)
    out += folded(fmt::format("  {}: {}", text, fmt::join(symbols, ", ")), 4);
}

void append_table(std::string& out, const TableComparison& table) {
  std::vector<const ColumnComparison*> differing;
  for (const ColumnComparison& column : table.columns) {
    if (!column.same()) differing.push_back(&column);
  }
  const std::size_t alike = table.columns.size() - differing.size();
  if (table.same()) {
    out += fmt::format("{}: the same ({}, {})\n", table.name, counted(table.rows_before, "row"),
                       counted(alike, "column"));
    return;
  }
  out += fmt::format("{}: {}", table.name, counted(table.rows_before, "row"));
  if (table.rows_after != table.rows_before) out += fmt::format(" → {}", table.rows_after);
  out += fmt::format("; {} the same\n", counted(alike, "column"));
  append_names(out, "  rows gone", table.rows_gone, table.gone);
  append_names(out, "  rows that came", table.rows_come, table.come);
  append_names(out, "  columns gone", table.columns_gone, table.columns_gone.size());
  append_names(out, "  columns that came", table.columns_come, table.columns_come.size());
  append_columns(out, differing);
}

}  // namespace

std::string comparison_text(const Comparison& comparison) {
  std::string out;
  append_changes(out, "version", comparison.versions);
  append_changes(out, "constant", comparison.constants);
  append_changes(out, "equation", comparison.equations);
  for (const ChangedText& input : comparison.inputs) {
    out += fmt::format("input {} {}\n", input.name,
                       input.before.empty()  ? "is new"
                       : input.after.empty() ? "is gone"
                                             : "has another content");
  }
  append_names(out, "files gone", comparison.files_gone, comparison.files_gone.size());
  append_names(out, "files that came", comparison.files_come, comparison.files_come.size());
  std::size_t same = 0;
  std::size_t rows = 0;
  for (const TableComparison& table : comparison.tables) {
    if (table.same()) {
      ++same;
      rows += table.rows_before;
    } else {
      append_table(out, table);
    }
  }
  if (comparison.tables.size() == 1 && same == 1) {
    append_table(out, comparison.tables.front());
  } else if (same > 0) {
    out += fmt::format("the same: {} with {}\n", counted(same, "table"), counted(rows, "row"));
  }
  append_names(out, "figures that look otherwise", comparison.figures, comparison.figures.size());
  return out;
}

namespace {

using Json = nlohmann::ordered_json;

Json changes_json(const std::vector<ChangedText>& changes) {
  Json list = Json::array();
  const auto text = [](const std::string& t) { return t.empty() ? Json(nullptr) : Json(t); };
  for (const ChangedText& change : changes)
    list.push_back({{"name", change.name}, {"before", text(change.before)}, {"after", text(change.after)}});
  return list;
}

Json column_json(const ColumnComparison& column) {
  Json entry;
  entry["symbol"] = column.symbol;
  entry["compared"] = column.compared;
  entry["differing"] = column.differing;
  entry["became_null"] = column.became_null;
  entry["became_known"] = column.became_known;
  if (!column.unit.empty()) entry["unit"] = column.unit;
  if (!column.unit_before.empty()) entry["units"] = {column.unit_before, column.unit_after};
  if (column.greatest) entry["greatest"] = *column.greatest;
  if (column.relative) entry["relative"] = *column.relative;
  if (!column.incomparable.empty()) entry["incomparable"] = column.incomparable;
  if (column.differing > 0)
    entry["at"] = {{"row", column.worst.row}, {"before", column.worst.before}, {"after", column.worst.after}};
  return entry;
}

}  // namespace

std::string comparison_json(const Comparison& comparison) {
  Json out;
  out["before"] = comparison.before;
  out["after"] = comparison.after;
  out["same"] = comparison.same();
  out["versions"] = changes_json(comparison.versions);
  out["constants"] = changes_json(comparison.constants);
  out["equations"] = changes_json(comparison.equations);
  out["inputs"] = changes_json(comparison.inputs);
  out["files_gone"] = comparison.files_gone;
  out["files_come"] = comparison.files_come;
  out["figures"] = comparison.figures;
  out["tables"] = Json::array();
  for (const TableComparison& table : comparison.tables) {
    Json entry;
    entry["name"] = table.name;
    entry["same"] = table.same();
    entry["rows"] = {table.rows_before, table.rows_after};
    entry["rows_gone"] = table.gone;
    entry["rows_come"] = table.come;
    entry["columns_gone"] = table.columns_gone;
    entry["columns_come"] = table.columns_come;
    entry["columns"] = Json::array();
    for (const ColumnComparison& column : table.columns) entry["columns"].push_back(column_json(column));
    out["tables"].push_back(std::move(entry));
  }
  return out.dump(2, ' ', false, nlohmann::json::error_handler_t::replace) + "\n";
}

}  // namespace opensum
