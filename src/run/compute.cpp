// Second step of a run: the derived columns of every sheet.
#include "run/compute.h"

#include <fmt/format.h>

#include "compute/evaluator.h"
#include "files/csv_writer.h"

namespace opensum {
namespace {

// The inputs of a row as `mass = 0 kg, speed = 3 m/s`.
std::string inputs_text(const Table& table, const DerivedColumn& derived, std::size_t row) {
  std::string text;
  for (const std::size_t input : all_inputs(derived.program)) {
    const Column& column = table.columns[input];
    if (column.null(row)) continue;
    text += fmt::format("{}{} = {}", text.empty() ? "" : ", ", column.symbol, cell_text(column, row));
    if (column.kind == Kind::number && !column.unit.parts.empty()) text += ' ' + column.unit.text();
  }
  return text;
}

Place place_of(const DerivedColumn& derived) {
  return derived.definition.passage.place(derived.definition.name_span);
}

// Rows as they are quoted: file, line and inputs, the rest as a count.
std::vector<std::string> quoted_rows(const Table& table, const DerivedColumn& derived, const RowList& rows) {
  std::vector<std::string> lines;
  for (const std::size_t row : rows.rows) {
    lines.push_back(fmt::format("{}:{}: {}", table.file, table.lines[row], inputs_text(table, derived, row)));
  }
  if (rows.count > rows.rows.size())
    lines.push_back(fmt::format("and {} more", rows.count - rows.rows.size()));
  return lines;
}

// Reports the rows whose null of a reason began in the column, or inside a reduction of it.
void report_rows(const Table& table, const DerivedColumn& derived, const EvaluationNotes& notes,
                 Reason reason, Code code, Diagnostics& diagnostics) {
  const Column& column = table.columns[derived.index];
  const Null wanted(reason, column.origin);
  RowList rows;
  for (std::size_t row = 0; row < column.rows; ++row) {
    if (column.null(row) == wanted) rows.add(row);
  }
  for (const InnerNulls& inner : notes.inner_nulls) {
    if (inner.reason == reason && rows.count == 0) rows = inner.rows;
  }
  if (rows.count == 0) return;
  Diagnostic& diagnostic =
      diagnostics.add(code, place_of(derived), {column.symbol, std::to_string(rows.count)});
  diagnostic.details = quoted_rows(table, derived, rows);
}

void report_order(const Table& table, const DerivedColumn& derived, const EvaluationNotes& notes,
                  Diagnostics& diagnostics) {
  for (const OrderFault& fault : notes.order_faults) {
    Diagnostic& diagnostic = diagnostics.add(Code::along_not_increasing, place_of(derived),
                                             {fault.function, std::to_string(fault.rows.count)});
    diagnostic.details = quoted_rows(table, derived, fault.rows);
  }
}

void compute_sheet(RunSheet& sheet, const NullPolicy& policy, Origins& origins, Diagnostics& diagnostics) {
  Table& table = sheet.table();
  std::vector<const Column*> columns;
  for (const Column& column : table.columns) columns.push_back(&column);
  for (const std::size_t i : sheet.plan.order) {
    const DerivedColumn& derived = sheet.plan.derived[i];
    if (!derived.good) continue;
    Column& column = table.columns[derived.index];
    Evaluator evaluator(derived.program, column.origin);
    column.chunks = evaluator.run_column(columns, table.rows, origins);
    column.rows = table.rows;
    for (const ReductionTally& tally : evaluator.notes().tallies) {
      if (tally.used < tally.met) sheet.tallies[column.symbol].push_back(tally);
    }
    if (evaluator.left_out() > 0) {
      sheet.left_out[column.symbol] = {evaluator.left_out(), evaluator.rows_left_out()};
    }
    const EvaluationNotes& notes = evaluator.notes();
    report_order(table, derived, notes, diagnostics);
    if (policy.divide_by_zero_is_error) {
      report_rows(table, derived, notes, Reason::divide_by_zero, Code::divided_by_zero, diagnostics);
    }
    if (policy.domain_is_error) {
      report_rows(table, derived, notes, Reason::domain, Code::out_of_domain, diagnostics);
    }
  }
}

}  // namespace

void compute(PreparedStudy& prepared, Diagnostics& diagnostics) {
  for (const auto& sheet : prepared.sheets)
    compute_sheet(*sheet, prepared.study.policy, prepared.origins, diagnostics);
}

}  // namespace opensum
