// The rows of a sheet that its `keep` leaves.
#include "study/selection.h"

#include <algorithm>
#include <set>

#include "compute/evaluator.h"
#include "compute/gather.h"
#include "message/nearest.h"
#include "study/sheet_planner.h"
#include "table/number_text.h"

namespace opensum {
namespace {

// Lists the cells that cannot be read anew.
void recount_unreadable(Column& column, const Table& table) {
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
      column.unreadable.push_back({row, table.lines[row], std::string(trimmed(cell)), table.source_of(row)});
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

std::shared_ptr<KeepPlan> plan_keep(const SheetModel& sheet, SheetTable table, const PlanContext& context,
                                    Diagnostics& diagnostics) {
  auto keep = std::make_shared<KeepPlan>();
  keep->table = std::move(table);
  SheetPlanner planner(sheet, keep->table, context, Standing::keep, diagnostics);
  planner.plan_keep();
  keep->plan = std::move(planner.plan());
  if (keep->plan.claims.empty()) return nullptr;
  for (const std::size_t i : keep->plan.order) {
    if (!keep->plan.derived[i].good) return nullptr;
  }
  return keep;
}

Selection select_rows(const SheetModel& sheet, KeepPlan& keep, Origins& origins,
                      std::vector<std::size_t>& rows, Diagnostics& diagnostics) {
  Table& table = keep.table.table;
  std::vector<const Column*> columns;
  for (const Column& column : table.columns) columns.push_back(&column);
  for (const std::size_t i : keep.plan.order) {
    const DerivedColumn& derived = keep.plan.derived[i];
    Column& column = table.columns[derived.index];
    column.chunks = Evaluator(derived.program, column.origin).run_column(columns, table.rows, origins);
    column.rows = table.rows;
  }
  const ClaimPlan& claim = keep.plan.claims.front();
  const std::vector<Chunk> condition = Evaluator(claim.program, 0).run_column(columns, table.rows, origins);
  Selection selection;
  selection.condition = claim.claim.text;
  selection.read = table.rows;
  for (std::size_t row = 0; row < table.rows; ++row) {
    const Chunk& chunk = condition[row / kChunkRows];
    if (chunk.null_at(row % kChunkRows)) {
      ++selection.undecided;
    } else if (chunk.numbers[row % kChunkRows] == 0) {
      ++selection.left_out;
    } else {
      rows.push_back(row);
    }
  }
  for (const auto& list : keep.plan.complete) {
    for (NullCost& cost : costs_of(list, table)) selection.costs.push_back(std::move(cost));
  }
  warn_of_texts(keep.plan, table, *sheet.keep, diagnostics);
  if (rows.empty() && selection.read > 0) {
    diagnostics.add(Code::keep_nothing, sheet.keep->place(), {std::to_string(selection.read), table.file});
  }
  return selection;
}

void keep_rows(Table& table, const std::vector<std::size_t>& rows) {
  const auto pick = [&](auto& list) {
    if (list.empty()) return;
    auto picked = list;
    picked.clear();
    picked.reserve(rows.size());
    for (const std::size_t row : rows) picked.push_back(list[row]);
    list = std::move(picked);
  };
  pick(table.lines);
  pick(table.file_of);
  pick(table.source_rows);
  table.rows = rows.size();
  for (Column& column : table.columns) {
    column.chunks = gathered(column, rows, nullptr);
    column.rows = rows.size();
    recount_unreadable(column, table);
  }
}

}  // namespace opensum
