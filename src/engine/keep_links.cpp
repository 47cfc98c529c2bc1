// What the condition for the rows of a sheet finds in other sheets.
#include "engine/keep_links.h"

#include "engine/used_columns.h"
#include "equation/checker.h"

namespace opensum {

KeepLinks::KeepLinks(StudyRun& run, const KeepPlan& keep) : keep_(keep) {
  const Table& here = keep.table.table;
  for (const LinkPlan& plan : keep.plan.links) {
    Finder& finder = finders_.emplace_back();
    const RunSheet& other = *run.sheets[*plan.sheet];
    if (plan.how == LinkHow::row) {
      // Unlike lengths are reported with the link itself.
      finder.by_place.emplace(source_rows_of(other));
      continue;
    }
    std::vector<LinkKey> keys;
    for (const LinkPlan::Keys& key : plan.keys)
      keys.push_back({&here.columns[key.here], &other.table().columns[key.there], key.conversion});
    // Keys that repeat are reported with the link itself, too.
    finder.by_keys.emplace(keys, plan.how, plan.within, other.table().rows);
  }
  for (const BorrowedColumn& borrowed : keep.plan.borrowed) {
    const Table& there = run.sheets[*keep.plan.links[borrowed.link].sheet]->table();
    values_.emplace_back(there.columns[borrowed.there], here.columns[borrowed.index].origin, run.origins);
  }
}

void KeepLinks::give_values(const std::vector<bool>& needed, Block& to) const {
  std::vector<std::optional<RowMap>> maps(finders_.size());
  for (std::size_t i = 0; i < keep_.plan.borrowed.size(); ++i) {
    const BorrowedColumn& borrowed = keep_.plan.borrowed[i];
    if (!needed[borrowed.index]) continue;
    std::optional<RowMap>& map = maps[borrowed.link];
    const Finder& finder = finders_[borrowed.link];
    if (!map && finder.by_place) {
      map = finder.by_place->find(to.table.source_rows);
    } else if (!map) {
      std::vector<const Column*> keys;
      for (const LinkPlan::Keys& key : keep_.plan.links[borrowed.link].keys)
        keys.push_back(&to.table.columns[key.here]);
      map = finder.by_keys->find(keys, to.table.rows);
    }
    Column& column = to.table.columns[borrowed.index];
    column.rows = to.table.rows;
    column.chunks = values_[i].of(*map);
  }
}

namespace {

// Gives the table of a condition the rows of its sheet, where these are in memory.
void give_rows(const Table& from, Table& to) {
  to.rows = from.rows;
  to.lines = from.lines;
  to.files = from.files;
  to.file_of = from.file_of;
  to.source_rows = from.source_rows;
  to.source_count = from.source_count;
  for (Column& column : to.columns) {
    const Column* same = column.linked ? nullptr : from.find(column.symbol);
    if (same == nullptr || !same->measured) continue;
    column.chunks = same->chunks;
    column.storage = same->storage;
    column.rows = same->rows;
  }
}

// Cells that cannot be read count in the rows that are kept only.
void report_unreadable(StudyRun& run, const RunSheet& sheet, const Table& counted, Diagnostics& diagnostics) {
  bool any = false;
  for (const Column& column : counted.columns) any = any || column.unreadable_count > 0;
  if (!any) return;
  const UsedColumns used = used_columns(run);
  for (std::size_t number = 0; number < run.sheets.size(); ++number) {
    if (run.sheets[number].get() != &sheet) continue;
    for (const Column& column : counted.columns) {
      if (column.unreadable_count == 0) continue;
      const std::deque<Column>& columns = sheet.table().columns;
      for (std::size_t i = 0; i < columns.size(); ++i) {
        if (columns[i].symbol != column.symbol || !columns[i].fills.empty() || !used[number][i]) continue;
        diagnostics.add(unreadable_cells(column, column.header, sheet.table().file, sheet.model->place));
      }
    }
  }
}

}  // namespace

void choose_rows(RunSheet& sheet, StudyRun& run, Diagnostics& diagnostics) {
  KeepPlan& keep = *sheet.plan.keep;
  Table& table = keep.table.table;
  std::unique_ptr<BlockSource> rows;
  if (sheet.source.left_in_file) {
    auto blocks = std::make_unique<FileBlocks>(*sheet.source.left_in_file, table);
    blocks->give_places();
    rows = std::move(blocks);
  } else {
    give_rows(sheet.table(), table);
    std::vector<bool> given;
    for (const Column& column : table.columns) given.push_back(!column.chunks.empty());
    rows = std::make_unique<HeldBlocks>(table, std::move(given));
  }
  const KeepLinks links(run, keep);
  LinkedBlocks blocks(*rows, links);
  Table counted;
  for (const Column& column : table.columns) {
    if (!column.linked && column.measured)
      counted.columns.emplace_back(static_cast<const ColumnHead&>(column));
  }
  std::vector<bool> kept;
  sheet.selection = select_rows(*sheet.model, keep, blocks, kept, &counted, diagnostics);
  report_unreadable(run, sheet, counted, diagnostics);
  keep_rows(sheet.source, kept);
  for (Column& column : table.columns) column.chunks = {};
}

}  // namespace opensum
