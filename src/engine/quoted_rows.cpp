// Rows of which something is said.
#include "engine/quoted_rows.h"

#include <fmt/format.h>

#include "table/cell_text.h"

namespace opensum {
namespace {

// The inputs of a row as `mass = 0 kg, speed = 3 m/s`.
std::string inputs_text(const SheetPlan& plan, const Table& table, const Program& program, std::size_t row) {
  std::string text;
  for (const std::size_t input : all_inputs(program)) {
    const Column& column = table.columns[input];
    // What only a reduction inside looks at was passed before.
    if (column.chunks.empty()) continue;
    const Null null = column.null(row);
    text += fmt::format("{}{} = {}", text.empty() ? "" : ", ", plan.scope.columns[input].symbol,
                        null ? fmt::format("null ({})", reason_name(null.reason())) : cell_text(column, row));
    if (!null && column.kind == Kind::number && !column.unit.parts.empty()) text += ' ' + column.unit.text();
  }
  return text;
}

}  // namespace

void QuotedRows::add(const QuotedRows& next, std::size_t first_row) {
  for (std::size_t i = 0; i < next.rows.rows.size(); ++i) {
    rows.add(first_row + next.rows.rows[i]);
    if (lines.size() < rows.rows.size()) lines.push_back(next.lines[i]);
  }
  rows.count += next.rows.count - next.rows.rows.size();
}

std::vector<std::string> QuotedRows::details() const {
  std::vector<std::string> all = lines;
  if (rows.count > lines.size()) all.push_back(fmt::format("and {} more", rows.count - lines.size()));
  return all;
}

std::string quoted_row(const SheetPlan& plan, const Table& table, const Program& program, std::size_t row) {
  return fmt::format("{}: {}", table.place_text(row), inputs_text(plan, table, program, row));
}

QuotedRows quoted(const SheetPlan& plan, const Table& table, const Program& program, RowList rows) {
  QuotedRows quoted;
  for (const std::size_t row : rows.rows) quoted.lines.push_back(quoted_row(plan, table, program, row));
  quoted.rows = std::move(rows);
  return quoted;
}

RowList own_nulls(const Column& column, Reason reason) {
  const Null wanted(reason, column.origin);
  RowList rows;
  for (std::size_t part = 0; part < column.chunks.size(); ++part) {
    const std::vector<Null>& nulls = column.chunks[part].nulls;
    for (std::size_t i = 0; i < nulls.size(); ++i) {
      if (nulls[i] == wanted) rows.add(part * kChunkRows + i);
    }
  }
  return rows;
}

void report_rows(const DerivedColumn& derived, const QuotedRows& rows, Code code, Diagnostics& diagnostics) {
  if (rows.rows.count == 0) return;
  Diagnostic& diagnostic =
      diagnostics.add(code, derived.definition.passage.place(derived.definition.name_span),
                      {derived.definition.name, std::to_string(rows.rows.count)});
  diagnostic.details = rows.details();
}

}  // namespace opensum
