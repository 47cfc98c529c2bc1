// What a run tells, as text for people.
#include "report/summary.h"

#include <fmt/format.h>

#include <algorithm>

#include "table/header.h"
#include "table/number_text.h"

namespace opensum {
namespace {

std::string padded(const std::string& text, std::size_t width) {
  const std::size_t own = display_width(text);
  return text + std::string(width > own ? width - own : 0, ' ');
}

void append_columns(std::string& out, const std::vector<ColumnFacts>& columns) {
  std::size_t name = 0;
  std::size_t unit = 0;
  for (const ColumnFacts& column : columns) {
    name = std::max(name, display_width(column.symbol));
    unit = std::max(unit, display_width(column.unit));
  }
  for (const ColumnFacts& column : columns) {
    out += fmt::format("    {}  {}  {} of {} known", padded(column.symbol, name), padded(column.unit, unit),
                       column.known, column.rows);
    const std::string nulls = null_counts_text(column.nulls);
    if (!nulls.empty()) out += "; null: " + nulls;
    out += '\n';
  }
}

}  // namespace

ColumnFacts column_facts(const Column& column) {
  ColumnFacts facts;
  facts.symbol = column.symbol;
  facts.kind = kind_name(column.kind);
  facts.unit = column.kind == Kind::number ? column.unit.text() : facts.kind;
  facts.rows = column.rows;
  for (const Chunk& chunk : column.chunks) {
    for (const Null null : chunk.nulls) {
      if (null) ++facts.nulls[reason_name(null.reason())];
    }
  }
  facts.known = facts.rows;
  for (const auto& [reason, count] : facts.nulls) facts.known -= count;
  return facts;
}

std::string null_counts_text(const std::map<std::string, std::size_t>& nulls) {
  std::string text;
  for (const auto& [reason, count] : nulls)
    text += fmt::format("{}{} {}", text.empty() ? "" : ", ", count, reason);
  return text;
}

std::string summary_text(const RunFacts& facts) {
  std::string out;
  if (!facts.title.empty()) out += facts.title + "\n\n";
  for (const SheetFacts& sheet : facts.sheets) {
    out += fmt::format("{}: {} rows from {}\n", sheet.name, sheet.rows, sheet.file);
    std::vector<ColumnFacts> gaps;
    for (const ColumnFacts& column : sheet.measured) {
      if (column.known < column.rows) gaps.push_back(column);
    }
    out += fmt::format("  measured: {} columns{}\n", sheet.measured.size(),
                       gaps.empty() ? ", no nulls" : fmt::format(", {} with nulls", gaps.size()));
    append_columns(out, gaps);
    if (!sheet.without_unit.empty()) {
      out += fmt::format("  plain numbers (no unit stated): {}\n", fmt::join(sheet.without_unit, ", "));
    }
    if (!sheet.derived.empty()) out += "  derived:\n";
    append_columns(out, sheet.derived);
    for (const std::string& skipped : sheet.skipped) out += "  nulls left out: " + skipped + '\n';
  }
  for (const std::string& note : facts.notes) out += note + '\n';
  if (!facts.written.empty()) out += "written:\n";
  for (const std::string& path : facts.written) out += "  " + path + '\n';
  return out;
}

}  // namespace opensum
