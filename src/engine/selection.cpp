// The rows of a sheet that its `keep` leaves.
#include "engine/selection.h"

#include <algorithm>
#include <set>
#include <type_traits>

#include "base/progress.h"
#include "compute/evaluator.h"
#include "compute/gather.h"
#include "engine/block_pass.h"
#include "message/nearest.h"
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
        const std::string_view cell = from.chunks[row / kChunkRows].source_at(row % kChunkRows);
        to.unreadable.push_back(
            {first_row, table.lines[row], std::string(trimmed(cell)), table.source_of(row)});
      }
    }
    if (kept[row]) ++first_row;
  }
}

}  // namespace

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
  for (const BorrowedColumn& borrowed : keep.plan.borrowed) {
    if (!needed[borrowed.index]) continue;
    for (const LinkPlan::Keys& key : keep.plan.links[borrowed.link].keys) needed[key.here] = true;
  }
  return needed;
}

namespace {

// A block whose rows are judged.
struct JudgedBlock : Block {
  Judged judged;
};

// Counts the cells that cannot be read of rows that are kept.
class UnreadableCounter {
 public:
  // `columns` are counted anew: as many as `condition`, whose columns are the same and maybe more, begins
  // with.
  UnreadableCounter(Table* counted, const Table& condition) : counted_(counted), condition_(condition) {
    if (counted == nullptr) return;
    for (Column& column : counted->columns) {
      listed_.push_back(column.unreadable.size());
      column.unreadable.clear();
      column.unreadable_count = 0;
    }
  }

  void add(const JudgedBlock& block) {
    const std::vector<bool>& kept = block.judged.kept;
    for (std::size_t i = 0; i < listed_.size(); ++i) {
      if (condition_.columns[i].unreadable_count > 0)
        add_unreadable(block.table.columns[i], block.table, kept, kept_before_, listed_[i],
                       counted_->columns[i]);
    }
    kept_before_ += static_cast<std::size_t>(std::count(kept.begin(), kept.end(), true));
  }

 private:
  Table* counted_;
  const Table& condition_;
  std::vector<std::size_t> listed_;
  std::size_t kept_before_ = 0;
};

void judge_block(const KeepPlan& keep, JudgedBlock& block) {
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
}

}  // namespace

Selection select_rows(const SheetModel& sheet, const KeepPlan& keep, BlockSource& source,
                      std::vector<bool>& kept, Table* counted, Diagnostics& diagnostics) {
  const std::vector<bool> needed = looked_at(keep);
  UnreadableCounter unreadable(counted, keep.table.table);
  Judged all;
  all.texts.resize(keep.plan.compared.size());
  go_over_blocks<JudgedBlock>(
      source, keep.table.table,
      [&](std::size_t part, JudgedBlock& block) {
        source.read(part, needed, block);
        judge_block(keep, block);
      },
      [&](std::size_t part, JudgedBlock& block) {
        unreadable.add(block);
        add(all, std::move(block.judged));
        tell_progress("choosing rows of " + sheet.name, all.kept.size(),
                      static_cast<double>(part + 1) / static_cast<double>(source.count()));
      });
  kept = all.kept;
  return selection_of(sheet, keep, std::move(all), diagnostics);
}

void keep_rows(SheetTable& sheet, const std::vector<bool>& kept) {
  Table& table = sheet.table;
  if (sheet.left_in_file) {
    sheet.left_in_file->keep(kept);
    table.rows = sheet.left_in_file->rows();
    table.source_count = sheet.left_in_file->source_rows();
    for (Column& column : table.columns) column.rows = table.rows;
    return;
  }
  std::vector<std::size_t> rows;
  for (std::size_t row = 0; row < kept.size(); ++row) {
    if (kept[row]) rows.push_back(row);
  }
  const auto pick = [&](auto& list) {
    if (list.empty()) return;
    std::remove_reference_t<decltype(list)> picked;
    for (const std::size_t row : rows) picked.push_back(list[row]);
    list = std::move(picked);
  };
  pick(table.lines);
  pick(table.file_of);
  pick(table.source_rows);
  table.rows = rows.size();
  for (Column& column : table.columns) {
    // Those that are still to be computed have no values yet.
    if (!column.chunks.empty()) column.chunks = gathered(column, rows);
    column.rows = rows.size();
  }
}

}  // namespace opensum
