// Sheets that have the rows of another sheet.
#include "engine/taken_rows.h"

#include <algorithm>
#include <numeric>

#include "compute/gather.h"
#include "compute/whole_column.h"

namespace opensum {
namespace {

// Those of the source's rows, in the order given, for which the sheet's `keep` is true.
std::vector<std::size_t> kept_rows(RunSheet& sheet, const RunSheet& source,
                                   const std::vector<std::size_t>& rows, Origins& origins,
                                   Diagnostics& diagnostics) {
  KeepPlan& keep = *sheet.plan.keep;
  Table& table = keep.table.table;
  table.rows = rows.size();
  const auto fill = [&](std::size_t index, std::size_t there) {
    const Column& from = source.table().columns[there];
    // Only what the condition needs has its values by now.
    if (from.rows != source.table().rows || from.chunks.empty()) return;
    table.columns[index].chunks = gathered(from, rows, &origins);
    table.columns[index].rows = rows.size();
  };
  for (std::size_t i = 0; i < sheet.plan.taken.size(); ++i) fill(i, sheet.plan.taken[i].there);
  for (const TakenColumn& also : sheet.plan.keep_also) fill(also.index, also.there);
  std::vector<bool> given;
  for (const Column& column : table.columns) given.push_back(!column.chunks.empty());
  std::vector<bool> chosen;
  HeldBlocks blocks(table, given);
  sheet.selection = select_rows(*sheet.model, keep, blocks, chosen, nullptr, diagnostics);
  for (Column& column : table.columns) column.chunks = {};
  std::vector<std::size_t> kept;
  sheet.table().source_rows.clear();
  for (std::size_t place = 0; place < chosen.size(); ++place) {
    if (!chosen[place]) continue;
    kept.push_back(rows[place]);
    sheet.table().source_rows.push_back(place);
  }
  return kept;
}

// The first row of each group of the source's rows.
std::vector<std::size_t> first_of_groups(RunSheet& sheet, const RunSheet& source) {
  std::vector<const Column*> keys;
  for (const std::size_t key : sheet.plan.keys) keys.push_back(&source.table().columns[key]);
  sheet.grouping = group_rows(keys, source.table().rows);
  std::vector<std::size_t> first;
  const std::vector<std::size_t>& groups = sheet.grouping->group_of_row;
  for (std::size_t row = 0; row < groups.size(); ++row) {
    if (groups[row] == first.size()) first.push_back(row);
  }
  return first;
}

}  // namespace

void take_rows(RunSheet& sheet, const RunSheet& source, Origins& origins, Diagnostics& diagnostics) {
  Table& table = sheet.table();
  const Table& from = source.table();
  table.file = from.file;
  table.files = from.files;
  std::vector<std::size_t> rows;
  if (sheet.plan.grouped) {
    rows = first_of_groups(sheet, source);
    table.rows = sheet.grouping->groups;
  } else {
    for (std::size_t place = 0; place < from.rows; ++place) rows.push_back(from.row_at(place));
    table.source_rows.resize(rows.size());
    std::iota(table.source_rows.begin(), table.source_rows.end(), std::size_t{0});
    table.source_count = rows.size();
    if (sheet.plan.keep) rows = kept_rows(sheet, source, rows, origins, diagnostics);
    table.rows = rows.size();
  }
  for (const std::size_t row : rows) {
    table.lines.push_back(from.lines[row]);
    if (!from.file_of.empty()) table.file_of.push_back(from.file_of[row]);
  }
  if (sheet.plan.grouped) {
    // A single row without any of the source stands in no line.
    table.lines.resize(table.rows, 0);
    table.source_count = table.rows;
    table.source_rows.resize(table.rows);
    std::iota(table.source_rows.begin(), table.source_rows.end(), std::size_t{0});
  }
  sheet.taken_rows = std::move(rows);
}

void take_column(RunSheet& sheet, const RunSheet& source, const TakenColumn& taken, Origins& origins) {
  Column& column = sheet.table().columns[taken.index];
  column.chunks = gathered(source.table().columns[taken.there], sheet.taken_rows, &origins);
  column.rows = sheet.table().rows;
}

}  // namespace opensum
