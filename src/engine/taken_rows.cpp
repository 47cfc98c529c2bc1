// Sheets that have the rows of another sheet.
#include "engine/taken_rows.h"

#include <algorithm>
#include <numeric>

#include "compute/gather.h"
#include "compute/whole_column.h"

namespace opensum {
namespace {

// Whether all columns from which one is taken over have their values.
bool is_known(const Table& source, const TakenColumn& taken) {
  const auto known = [&](std::size_t column) {
    return source.columns[column].rows == source.rows && !source.columns[column].chunks.empty();
  };
  return known(taken.there) && std::all_of(taken.cells.begin(), taken.cells.end(), known);
}

// What the headers of its cells say in each row of a sheet.
std::vector<Chunk> chunks_of_headers(const RunSheet& sheet) {
  const CellHeaders& headers = *sheet.plan.cell_headers;
  std::vector<Chunk> chunks;
  for (std::size_t begin = 0; begin < sheet.taken_cells.size(); begin += kChunkRows) {
    const std::size_t end = std::min(begin + kChunkRows, sheet.taken_cells.size());
    Chunk& chunk = chunks.emplace_back();
    for (std::size_t i = begin; i < end; ++i) {
      const std::size_t cell = sheet.taken_cells[i];
      // The texts live as long as the plan.
      if (headers.texts.empty()) {
        chunk.numbers.push_back(headers.numbers[cell]);
      } else {
        chunk.texts.emplace_back(headers.texts[cell]);
      }
    }
  }
  return chunks;
}

// The values of a column that is taken over, in the rows that the sheet has taken.
std::vector<Chunk> taken_chunks(const RunSheet& sheet, const RunSheet& source, const TakenColumn& taken,
                                Origins& origins) {
  if (taken.of_headers) return chunks_of_headers(sheet);
  const std::deque<Column>& there = source.table().columns;
  if (taken.cells.empty()) return gathered(there[taken.there], sheet.taken_rows, &origins);
  std::vector<const Column*> columns;
  for (const std::size_t cell : taken.cells) columns.push_back(&there[cell]);
  return gathered(columns, taken.to_first, sheet.taken_cells, sheet.taken_rows, &origins);
}

// Leaves of the rows that a sheet has taken those for which its `keep` is true.
void keep_rows(RunSheet& sheet, const RunSheet& source, Origins& origins, Diagnostics& diagnostics) {
  KeepPlan& keep = *sheet.plan.keep;
  Table& table = keep.table.table;
  table.rows = sheet.taken_rows.size();
  const auto fill = [&](std::size_t index, const TakenColumn& taken) {
    // Only what the condition needs has its values by now.
    if (!taken.of_headers && !is_known(source.table(), taken)) return;
    table.columns[index].chunks = taken_chunks(sheet, source, taken, origins);
    table.columns[index].rows = table.rows;
  };
  for (std::size_t i = 0; i < sheet.plan.taken.size(); ++i) fill(i, sheet.plan.taken[i]);
  for (const TakenColumn& also : sheet.plan.keep_also) fill(also.index, also);
  std::vector<bool> given;
  for (const Column& column : table.columns) given.push_back(!column.chunks.empty());
  std::vector<bool> chosen;
  HeldBlocks blocks(table, given);
  sheet.selection = select_rows(*sheet.model, keep, blocks, chosen, nullptr, diagnostics);
  for (Column& column : table.columns) column.chunks = {};
  std::vector<std::size_t> kept;
  std::vector<std::uint32_t> cells;
  sheet.table().source_rows.clear();
  for (std::size_t place = 0; place < chosen.size(); ++place) {
    if (!chosen[place]) continue;
    kept.push_back(sheet.taken_rows[place]);
    if (!sheet.taken_cells.empty()) cells.push_back(sheet.taken_cells[place]);
    sheet.table().source_rows.push_back(place);
  }
  sheet.taken_rows = std::move(kept);
  sheet.taken_cells = std::move(cells);
}

// How many rows a row of the source becomes.
std::size_t cells_per_row(const SheetPlan& plan) {
  if (!plan.cell_headers) return 1;
  return std::max(plan.cell_headers->numbers.size(), plan.cell_headers->texts.size());
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
  std::vector<std::size_t>& rows = sheet.taken_rows;
  if (sheet.plan.grouped) {
    rows = first_of_groups(sheet, source);
    table.rows = sheet.grouping->groups;
  } else {
    const std::size_t cells = cells_per_row(sheet.plan);
    for (std::size_t place = 0; place < from.rows; ++place) {
      rows.insert(rows.end(), cells, from.row_at(place));
      for (std::uint32_t cell = 0; sheet.plan.cell_headers && cell < cells; ++cell)
        sheet.taken_cells.push_back(cell);
    }
    table.source_rows.resize(rows.size());
    std::iota(table.source_rows.begin(), table.source_rows.end(), std::size_t{0});
    table.source_count = rows.size();
    if (sheet.plan.keep) keep_rows(sheet, source, origins, diagnostics);
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
}

void take_column(RunSheet& sheet, const RunSheet& source, const TakenColumn& taken, Origins& origins) {
  Column& column = sheet.table().columns[taken.index];
  column.chunks = taken_chunks(sheet, source, taken, origins);
  column.rows = sheet.table().rows;
}

}  // namespace opensum
