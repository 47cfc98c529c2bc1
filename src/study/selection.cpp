// The rows of a sheet that its `keep` leaves.
#include "study/selection.h"

#include <algorithm>
#include <set>

#include "compute/evaluator.h"
#include "message/nearest.h"
#include "table/number_text.h"

namespace opensum {
namespace {

// Only the rows given, in that order.
void gather(Column& column, const std::vector<std::size_t>& rows) {
  std::vector<Chunk> chunks;
  for (std::size_t begin = 0; begin < rows.size(); begin += kChunkRows) {
    const std::size_t size = std::min(kChunkRows, rows.size() - begin);
    Chunk chunk;
    for (std::size_t i = 0; i < size; ++i) {
      const std::size_t row = rows[begin + i];
      const Chunk& from = column.chunks[row / kChunkRows];
      const std::size_t at = row % kChunkRows;
      if (!from.numbers.empty()) chunk.numbers.push_back(from.numbers[at]);
      if (!from.texts.empty()) chunk.texts.push_back(from.texts[at]);
      if (!from.source.empty()) chunk.source.push_back(from.source[at]);
      if (const Null null = from.null_at(at)) {
        chunk.nulls.resize(size);
        chunk.nulls[i] = null;
      }
    }
    chunks.push_back(std::move(chunk));
  }
  column.chunks = std::move(chunks);
  column.rows = rows.size();
}

// Lists the cells that cannot be read anew.
void recount_unreadable(Column& column, const std::vector<std::size_t>& lines) {
  if (column.unreadable_count == 0) return;
  const std::size_t listed = column.unreadable.size();
  column.unreadable.clear();
  column.unreadable_count = 0;
  for (std::size_t row = 0; row < column.rows; ++row) {
    const Reason reason = column.null(row).reason();
    if (reason != Reason::unreadable && reason != Reason::overflow) continue;
    ++column.unreadable_count;
    if (column.unreadable.size() < listed) {
      const std::string_view cell = column.chunks[row / kChunkRows].source[row % kChunkRows];
      column.unreadable.push_back({row, lines[row], std::string(trimmed(cell))});
    }
  }
}

std::vector<NullCost> costs_of(const std::vector<std::size_t>& list, const Table& table) {
  std::vector<NullCost> costs;
  costs.reserve(list.size());
  for (const std::size_t index : list) costs.push_back({table.columns[index].symbol, 0, 0});
  for (std::size_t row = 0; row < table.rows; ++row) {
    std::size_t nulls = 0;
    std::size_t last = 0;
    for (std::size_t k = 0; k < list.size(); ++k) {
      if (!table.columns[list[k]].null(row)) continue;
      ++costs[k].nulls;
      ++nulls;
      last = k;
    }
    if (nulls == 1) ++costs[last].alone;
  }
  std::erase_if(costs, [](const NullCost& cost) { return cost.nulls == 0; });
  return costs;
}

void warn_of_texts(const SheetPlan& plan, const Table& table, const Passage& passage,
                   Diagnostics& diagnostics) {
  for (const ComparedText& compared : plan.compared) {
    const Column& column = table.columns[compared.column];
    std::set<std::string> values;
    for (std::size_t row = 0; row < column.rows; ++row) {
      if (!column.null(row)) values.emplace(column.text(row));
    }
    if (values.contains(compared.text)) continue;
    diagnostics.add(Code::text_never_occurs, passage.place(compared.span),
                    {compared.text, column.symbol,
                     nearest_name(compared.text, std::vector<std::string>(values.begin(), values.end()))});
  }
}

}  // namespace

std::optional<Selection> select_rows(const SheetModel& sheet, SheetTable& table, const PlanContext& context,
                                     Diagnostics& diagnostics) {
  if (!sheet.keep) return std::nullopt;
  SheetTable all = table;
  const SheetPlan plan = plan_keep(sheet, all, context, diagnostics);
  if (plan.claims.empty()) return std::nullopt;
  std::vector<const Column*> columns;
  for (const Column& column : all.table.columns) columns.push_back(&column);
  for (const std::size_t i : plan.order) {
    const DerivedColumn& derived = plan.derived[i];
    if (!derived.good) return std::nullopt;
    Column& column = all.table.columns[derived.index];
    column.chunks =
        Evaluator(derived.program, column.origin).run_column(columns, all.table.rows, context.origins);
    column.rows = all.table.rows;
  }
  const std::vector<Chunk> condition =
      Evaluator(plan.claims.front().program, 0).run_column(columns, all.table.rows, context.origins);
  Selection selection;
  selection.condition = plan.claims.front().claim.text;
  selection.read = all.table.rows;
  std::vector<std::size_t> rows;
  for (std::size_t row = 0; row < all.table.rows; ++row) {
    const Chunk& chunk = condition[row / kChunkRows];
    if (chunk.null_at(row % kChunkRows)) {
      ++selection.undecided;
    } else if (chunk.numbers[row % kChunkRows] == 0) {
      ++selection.left_out;
    } else {
      rows.push_back(row);
    }
  }
  for (const auto& list : plan.complete) {
    for (NullCost& cost : costs_of(list, all.table)) selection.costs.push_back(std::move(cost));
  }
  warn_of_texts(plan, all.table, *sheet.keep, diagnostics);
  if (rows.empty() && selection.read > 0) {
    diagnostics.add(Code::keep_nothing, sheet.keep->place(),
                    {std::to_string(selection.read), table.table.file});
  }
  std::vector<std::size_t> lines;
  lines.reserve(rows.size());
  for (const std::size_t row : rows) lines.push_back(table.table.lines[row]);
  table.table.lines = std::move(lines);
  table.table.source_rows = rows;
  table.table.rows = rows.size();
  for (Column& column : table.table.columns) {
    gather(column, rows);
    recount_unreadable(column, table.table.lines);
  }
  return selection;
}

}  // namespace opensum
