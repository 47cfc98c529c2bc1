// Second step of a run: the derived columns of every sheet.
#include "run/compute.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "compute/evaluator.h"
#include "files/csv_writer.h"
#include "report/summary.h"

namespace opensum {
namespace {

// The inputs of a row as `mass = 0 kg, speed = 3 m/s`.
std::string inputs_text(const RunSheet& sheet, const Program& program, std::size_t row) {
  std::string text;
  for (const std::size_t input : all_inputs(program)) {
    const Column& column = sheet.table().columns[input];
    const Null null = column.null(row);
    text += fmt::format("{}{} = {}", text.empty() ? "" : ", ", sheet.plan.scope.columns[input].symbol,
                        null ? fmt::format("null ({})", reason_name(null.reason())) : cell_text(column, row));
    if (!null && column.kind == Kind::number && !column.unit.parts.empty()) text += ' ' + column.unit.text();
  }
  return text;
}

Place place_of(const DerivedColumn& derived) {
  return derived.definition.passage.place(derived.definition.name_span);
}

// Rows as they are quoted: file, line and inputs, the rest as a count.
std::vector<std::string> quoted_rows(const RunSheet& sheet, const Program& program, const RowList& rows) {
  std::vector<std::string> lines;
  const Table& table = sheet.table();
  for (const std::size_t row : rows.rows) {
    lines.push_back(fmt::format("{}:{}: {}", table.file, table.lines[row], inputs_text(sheet, program, row)));
  }
  if (rows.count > rows.rows.size())
    lines.push_back(fmt::format("and {} more", rows.count - rows.rows.size()));
  return lines;
}

// Reports the rows whose null of a reason began in the column, or inside a reduction of it.
void report_rows(const RunSheet& sheet, const DerivedColumn& derived, const EvaluationNotes& notes,
                 Reason reason, Code code, Diagnostics& diagnostics) {
  const Column& column = sheet.table().columns[derived.index];
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
  diagnostic.details = quoted_rows(sheet, derived.program, rows);
}

void report_order(const RunSheet& sheet, const Place& place, const Program& program,
                  const EvaluationNotes& notes, Diagnostics& diagnostics) {
  for (const OrderFault& fault : notes.order_faults) {
    Diagnostic& diagnostic = diagnostics.add(Code::along_not_increasing, place,
                                             {fault.function, std::to_string(fault.rows.count)});
    diagnostic.details = quoted_rows(sheet, program, fault.rows);
  }
}

// Why the gaps that are left were not closed: `3 too_few`.
std::string left_text(const std::vector<FilledCell>& cells) {
  std::map<std::string, std::size_t> reasons;
  for (const FilledCell& cell : cells) {
    if (cell.rule < 0) ++reasons[reason_name(cell.left.reason())];
  }
  return null_counts_text(reasons);
}

void fill_columns(RunSheet& sheet, const std::vector<const Column*>& columns, Origins& origins,
                  Diagnostics& diagnostics) {
  for (const FillPlan& fill : sheet.plan.fills) {
    Table& table = sheet.table();
    const Column& measured = table.columns[fill.measured];
    FillResult result;
    result.cells =
        fill_column(measured, fill.rules, columns, table.columns[fill.filled], origins, result.notes);
    const Place place = fill.texts.empty() ? Place{} : fill.texts.front().place();
    if (!fill.rules.empty()) report_order(sheet, place, fill.rules.front(), result.notes, diagnostics);
    const bool any = std::any_of(result.cells.begin(), result.cells.end(),
                                 [](const FilledCell& cell) { return cell.rule >= 0; });
    if (!result.cells.empty() && !any && !fill.rules.empty()) {
      diagnostics.add(Code::fill_gives_nothing, place,
                      {measured.symbol, std::to_string(result.cells.size()), left_text(result.cells)});
    }
    sheet.fills.push_back(std::move(result));
  }
}

void test_claims(RunSheet& sheet, const std::vector<const Column*>& columns, Origins& origins) {
  for (const ClaimPlan& claim : sheet.plan.claims) {
    const std::size_t rows = sheet.table().rows;
    const std::vector<Chunk> chunks = Evaluator(claim.program, 0).run_column(columns, rows, origins);
    ClaimResult result;
    for (std::size_t row = 0; row < rows; ++row) {
      const Chunk& chunk = chunks[row / kChunkRows];
      if (chunk.null_at(row % kChunkRows)) {
        result.undecided.add(row);
      } else if (chunk.numbers[row % kChunkRows] == 0) {
        result.broken.add(row);
      } else {
        ++result.held;
      }
    }
    sheet.claims.push_back(std::move(result));
  }
}

void compute_sheet(RunSheet& sheet, const NullPolicy& policy, Origins& origins, Diagnostics& diagnostics) {
  Table& table = sheet.table();
  std::vector<const Column*> columns;
  for (const Column& column : table.columns) columns.push_back(&column);
  fill_columns(sheet, columns, origins, diagnostics);
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
    report_order(sheet, place_of(derived), derived.program, notes, diagnostics);
    if (policy.divide_by_zero_is_error) {
      report_rows(sheet, derived, notes, Reason::divide_by_zero, Code::divided_by_zero, diagnostics);
    }
    if (policy.domain_is_error) {
      report_rows(sheet, derived, notes, Reason::domain, Code::out_of_domain, diagnostics);
    }
  }
  test_claims(sheet, columns, origins);
}

}  // namespace

void report_claims(const PreparedStudy& prepared, Diagnostics& diagnostics) {
  for (const auto& sheet : prepared.sheets) {
    const bool warn = sheet->model->claims_are_warnings.value_or(prepared.study.claims_are_warnings);
    for (std::size_t i = 0; i < sheet->claims.size(); ++i) {
      const ClaimPlan& plan = sheet->plan.claims[i];
      const ClaimResult& result = sheet->claims[i];
      const auto add = [&](Code code, const RowList& rows) {
        if (rows.count == 0) return;
        Diagnostic& diagnostic = diagnostics.add(
            code, plan.claim.passage.place(plan.claim.condition->span),
            {plan.claim.text, std::to_string(rows.count), std::to_string(sheet->table().rows)});
        diagnostic.details = quoted_rows(*sheet, plan.program, rows);
      };
      add(warn ? Code::claim_not_held : Code::claim_broken, result.broken);
      add(Code::claim_undecided, result.undecided);
    }
  }
}

void compute(PreparedStudy& prepared, Diagnostics& diagnostics) {
  for (const auto& sheet : prepared.sheets)
    compute_sheet(*sheet, prepared.study.policy, prepared.origins, diagnostics);
}

}  // namespace opensum
