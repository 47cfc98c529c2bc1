// The rows of a sheet that its `keep` leaves.
#include "study/selection.h"

#include <algorithm>
#include <set>

#include "base/parallel.h"
#include "base/progress.h"
#include "compute/evaluator.h"
#include "compute/gather.h"
#include "message/nearest.h"
#include "study/block_reader.h"
#include "study/sheet_planner.h"
#include "table/number_text.h"

namespace opensum {
namespace {

// What a condition says of some rows.
struct Judged {
  std::vector<bool> kept;
  std::size_t left_out = 0;
  std::size_t undecided = 0;
  std::vector<NullCost> costs;  ///< by complete(…) and its columns
  std::vector<std::set<std::string, std::less<>>>
      texts;  ///< that occur, by text with which a column is compared
};

void add_costs(const std::vector<std::size_t>& list, const Table& table, std::vector<NullCost>& all) {
  const std::size_t begin = all.size();
  for (const std::size_t index : list) all.push_back({table.columns[index].symbol, 0, 0});
  for (std::size_t row = 0; row < table.rows; ++row) {
    std::size_t nulls = 0;
    std::size_t last = 0;
    for (std::size_t k = 0; k < list.size(); ++k) {
      if (!table.columns[list[k]].null(row)) continue;
      ++all[begin + k].nulls;
      ++nulls;
      last = begin + k;
    }
    if (nulls == 1) ++all[last].alone;
  }
}

Judged judge(const SheetPlan& plan, const Table& table, const std::vector<Chunk>& condition) {
  Judged judged;
  judged.kept.resize(table.rows);
  for (std::size_t row = 0; row < table.rows; ++row) {
    const Chunk& chunk = condition[row / kChunkRows];
    if (chunk.null_at(row % kChunkRows)) {
      ++judged.undecided;
    } else if (chunk.numbers[row % kChunkRows] == 0) {
      ++judged.left_out;
    } else {
      judged.kept[row] = true;
    }
  }
  for (const auto& list : plan.complete) add_costs(list, table, judged.costs);
  for (const ComparedText& compared : plan.compared) {
    const Column& column = table.columns[compared.column];
    auto& values = judged.texts.emplace_back();
    for (std::size_t row = 0; row < table.rows; ++row) {
      if (!column.null(row) && !values.contains(column.text(row))) values.emplace(column.text(row));
    }
  }
  return judged;
}

// Adds what is said of the rows that follow.
void add(Judged& all, Judged&& next) {
  // Texts are only needed to offer a near one: of very many unlike ones some will do.
  constexpr std::size_t kMostTexts = 100'000;
  all.kept.insert(all.kept.end(), next.kept.begin(), next.kept.end());
  all.left_out += next.left_out;
  all.undecided += next.undecided;
  if (all.costs.empty()) {
    all.costs = std::move(next.costs);
  } else {
    for (std::size_t i = 0; i < all.costs.size(); ++i) {
      all.costs[i].nulls += next.costs[i].nulls;
      all.costs[i].alone += next.costs[i].alone;
    }
  }
  all.texts.resize(next.texts.size());
  for (std::size_t i = 0; i < all.texts.size(); ++i) {
    if (all.texts[i].size() < kMostTexts) all.texts[i].merge(next.texts[i]);
  }
}

// What is said of all rows, and what must be warned of.
Selection selection_of(const SheetModel& sheet, const KeepPlan& keep, Judged&& judged,
                       Diagnostics& diagnostics) {
  const Table& table = keep.table.table;
  Selection selection;
  selection.condition = keep.plan.claims.front().claim.text;
  selection.read = judged.kept.size();
  selection.left_out = judged.left_out;
  selection.undecided = judged.undecided;
  selection.costs = std::move(judged.costs);
  std::erase_if(selection.costs, [](const NullCost& cost) { return cost.nulls == 0; });
  for (std::size_t i = 0; i < judged.texts.size(); ++i) {
    const ComparedText& compared = keep.plan.compared[i];
    const auto& values = judged.texts[i];
    if (values.contains(compared.text)) continue;
    diagnostics.add(Code::text_never_occurs, sheet.keep->place(compared.span),
                    {compared.text, table.columns[compared.column].symbol,
                     nearest_name(compared.text, std::vector<std::string>(values.begin(), values.end()))});
  }
  if (selection.kept() == 0 && selection.read > 0) {
    diagnostics.add(Code::keep_nothing, sheet.keep->place(), {std::to_string(selection.read), table.file});
  }
  return selection;
}

// Whether a cell could not be read.
bool is_unreadable(Null null) {
  return null.reason() == Reason::unreadable || null.reason() == Reason::overflow;
}

// Adds the cells of kept rows that cannot be read; `first_row` rows are kept before them.
void add_unreadable(const Column& from, const Table& table, const std::vector<bool>& kept,
                    std::size_t first_row, std::size_t listed, Column& to) {
  for (std::size_t row = 0; row < table.rows; ++row) {
    if (kept[row] && is_unreadable(from.null(row))) {
      ++to.unreadable_count;
      if (to.unreadable.size() < listed) {
        const std::string_view cell = from.chunks[row / kChunkRows].source[row % kChunkRows];
        to.unreadable.push_back(
            {first_row, table.lines[row], std::string(trimmed(cell)), table.source_of(row)});
      }
    }
    if (kept[row]) ++first_row;
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
  Judged judged =
      judge(keep.plan, table, Evaluator(claim.program, 0).run_column(columns, table.rows, origins));
  for (std::size_t row = 0; row < table.rows; ++row) {
    if (judged.kept[row]) rows.push_back(row);
  }
  return selection_of(sheet, keep, std::move(judged), diagnostics);
}

namespace {

// The columns that a condition looks at, and those of which cells must be counted.
std::vector<bool> looked_at(const KeepPlan& keep) {
  std::vector<bool> needed;
  for (const Column& column : keep.table.table.columns) needed.push_back(column.unreadable_count > 0);
  const auto need = [&](const Program& program) {
    for (const std::size_t input : program.inputs) needed[input] = true;
  };
  need(keep.plan.claims.front().program);
  for (const std::size_t i : keep.plan.order) need(keep.plan.derived[i].program);
  for (const auto& list : keep.plan.complete) {
    for (const std::size_t index : list) needed[index] = true;
  }
  for (const ComparedText& compared : keep.plan.compared) needed[compared.column] = true;
  return needed;
}

}  // namespace

Selection select_left_rows(const SheetModel& sheet, const KeepPlan& keep, SheetTable& table,
                           Diagnostics& diagnostics) {
  struct Block {
    RawRows raw;
    Table table;
    Judged judged;
  };
  LeftInFile& left = *table.left_in_file;
  const BlockReader reader(left, keep.table.table);
  const std::vector<bool> needed = looked_at(keep);
  std::vector<Block> blocks(2 * threads() + 2);
  for (Block& block : blocks) block.table = reader.empty_table();
  // In step with the columns of the table, which come first in that of the condition.
  std::vector<std::size_t> listed;
  for (Column& column : table.table.columns) {
    listed.push_back(column.unreadable.size());
    column.unreadable.clear();
    column.unreadable_count = 0;
  }
  Judged all;
  std::size_t kept_before = 0;
  for_each_in_order(
      left.blocks.size(), blocks.size(),
      [&](std::size_t part, std::size_t slot) {
        Block& block = blocks[slot];
        reader.read(left.blocks[part], needed, block.raw, block.table);
        std::vector<const Column*> columns;
        for (const Column& column : block.table.columns) columns.push_back(&column);
        for (const std::size_t i : keep.plan.order) {
          const DerivedColumn& derived = keep.plan.derived[i];
          Column& column = block.table.columns[derived.index];
          column.chunks = Evaluator(derived.program, column.origin).run_rows(columns, {}, block.table.rows);
        }
        const Program& condition = keep.plan.claims.front().program;
        block.judged =
            judge(keep.plan, block.table, Evaluator(condition, 0).run_rows(columns, {}, block.table.rows));
      },
      [&](std::size_t part, std::size_t slot) {
        Block& block = blocks[slot];
        const std::vector<bool>& kept = block.judged.kept;
        for (std::size_t i = 0; i < table.table.columns.size(); ++i) {
          if (keep.table.table.columns[i].unreadable_count > 0)
            add_unreadable(block.table.columns[i], block.table, kept, kept_before, listed[i],
                           table.table.columns[i]);
        }
        kept_before += static_cast<std::size_t>(std::count(kept.begin(), kept.end(), true));
        add(all, std::move(block.judged));
        left.source->forget(left.blocks[part].begin, left.blocks[part].end);
        tell_progress("choosing rows of " + sheet.name, all.kept.size(),
                      static_cast<double>(all.kept.size()) / static_cast<double>(table.table.source_count));
      });
  left.keep(all.kept);
  table.table.rows = left.rows();
  for (Column& column : table.table.columns) column.rows = table.table.rows;
  return selection_of(sheet, keep, std::move(all), diagnostics);
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
  const std::vector<bool> all(rows.size(), true);
  for (Column& column : table.columns) {
    column.chunks = gathered(column, rows, nullptr);
    column.rows = rows.size();
    if (column.unreadable_count == 0) continue;
    const std::size_t listed = column.unreadable.size();
    column.unreadable.clear();
    column.unreadable_count = 0;
    add_unreadable(column, table, all, 0, listed, column);
  }
}

}  // namespace opensum
