// Second step of a run: the derived columns of every sheet.
#include "run/compute.h"

#include <fmt/format.h>

#include "compute/evaluator.h"
#include "table/number_text.h"

namespace opensum {
namespace {

constexpr std::size_t kListedRows = 5;

// The inputs of a row as `mass = 0 kg, speed = 3 m/s`.
std::string inputs_text(const Table& table, const DerivedColumn& derived, std::size_t row) {
  std::string text;
  for (const std::size_t input : all_inputs(derived.program)) {
    const Column& column = table.columns[input];
    if (column.kind != Kind::number || column.null(row)) continue;
    text +=
        fmt::format("{}{} = {}", text.empty() ? "" : ", ", column.symbol, number_text(column.number(row)));
    if (!column.unit.parts.empty()) text += ' ' + column.unit.text();
  }
  return text;
}

// Reports the rows whose null of a reason began in the column.
void report_rows(const Table& table, const DerivedColumn& derived, Reason reason, Code code,
                 Diagnostics& diagnostics) {
  const Column& column = table.columns[derived.index];
  const Null wanted(reason, column.origin);
  std::vector<std::string> rows;
  std::size_t count = 0;
  for (std::size_t row = 0; row < column.rows; ++row) {
    if (!(column.null(row) == wanted)) continue;
    if (++count <= kListedRows) {
      rows.push_back(
          fmt::format("{}:{}: {}", table.file, table.lines[row], inputs_text(table, derived, row)));
    }
  }
  if (count == 0) return;
  if (count > kListedRows) rows.push_back(fmt::format("and {} more", count - kListedRows));
  Diagnostic& diagnostic =
      diagnostics.add(code, derived.definition.passage.place(derived.definition.name_span),
                      {column.symbol, std::to_string(count)});
  diagnostic.details = std::move(rows);
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
    for (const ReductionTally& tally : evaluator.tallies()) {
      if (tally.used < tally.met) sheet.tallies[column.symbol].push_back(tally);
    }
    if (evaluator.left_out() > 0) {
      sheet.left_out[column.symbol] = {evaluator.left_out(), evaluator.rows_left_out()};
    }
    if (policy.divide_by_zero_is_error) {
      report_rows(table, derived, Reason::divide_by_zero, Code::divided_by_zero, diagnostics);
    }
    if (policy.domain_is_error) report_rows(table, derived, Reason::domain, Code::out_of_domain, diagnostics);
  }
}

}  // namespace

void compute(PreparedStudy& prepared, Diagnostics& diagnostics) {
  for (const auto& sheet : prepared.sheets)
    compute_sheet(*sheet, prepared.study.policy, prepared.origins, diagnostics);
}

}  // namespace opensum
