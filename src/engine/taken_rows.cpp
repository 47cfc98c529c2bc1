// Sheets that have the rows of another sheet.
#include "engine/taken_rows.h"

#include <algorithm>
#include <span>

#include "compute/gather.h"
#include "compute/whole_column.h"
#include "engine/keep_links.h"

namespace opensum {
namespace {

// Whether all columns from which one is taken over have their values.
bool is_known(const Table& source, const TakenColumn& taken) {
  const auto known = [&](std::size_t column) {
    return source.columns[column].rows == source.rows && !source.columns[column].chunks.empty();
  };
  return known(taken.there) && std::all_of(taken.cells.begin(), taken.cells.end(), known);
}

// What the headers of its cells say in some rows of a sheet.
std::vector<Chunk> chunks_of_headers(const RunSheet& sheet, const RowRange& rows) {
  const CellHeaders& headers = *sheet.plan.cell_headers;
  std::vector<Chunk> chunks;
  for (std::size_t i = 0; i < rows.rows; ++i) {
    if (i % kChunkRows == 0) chunks.emplace_back();
    const std::size_t cell = sheet.taken_cells[rows.first_row + i];
    // The texts live as long as the plan.
    if (headers.texts.empty()) {
      chunks.back().numbers.push_back(headers.numbers[cell]);
    } else {
      chunks.back().texts.emplace_back(headers.texts[cell]);
    }
  }
  return chunks;
}

std::vector<const Column*> cells_there(const RunSheet& source, const TakenColumn& taken) {
  std::vector<const Column*> columns;
  for (const std::size_t cell : taken.cells) columns.push_back(&source.table().columns[cell]);
  return columns;
}

// Leaves of the rows that a sheet has taken those for which its `keep` is true.
void keep_rows(RunSheet& sheet, const RunSheet& source, StudyRun& run, Diagnostics& diagnostics) {
  KeepPlan& keep = *sheet.plan.keep;
  Table& table = keep.table.table;
  table.rows = sheet.taken_rows.size();
  table.source_rows = RowNumbers::counting(0, table.rows);
  std::map<std::size_t, TakenValues> values;
  const auto fill = [&](std::size_t index, const TakenColumn& taken) {
    // Only what the condition needs has its values by now.
    if (!taken.of_headers && !is_known(source.table(), taken)) return;
    values[index] = taken_values(sheet, source, taken, run.origins);
    table.columns[index].rows = table.rows;
  };
  for (std::size_t i = 0; i < sheet.plan.taken.size(); ++i) fill(i, sheet.plan.taken[i]);
  for (const TakenColumn& also : sheet.plan.keep_also) fill(also.index, also);
  std::vector<bool> chosen;
  TakenBlocks rows(table, std::vector<bool>(table.columns.size()), sheet, source, values);
  const KeepLinks links(run, keep);
  LinkedBlocks blocks(rows, links);
  sheet.selection = select_rows(*sheet.model, keep, blocks, chosen, nullptr, diagnostics);
  RowNumbers kept;
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
RowNumbers first_of_groups(RunSheet& sheet, const RunSheet& source) {
  std::vector<const Column*> keys;
  for (const std::size_t key : sheet.plan.keys) keys.push_back(&source.table().columns[key]);
  sheet.grouping = group_rows(keys, source.table().rows);
  RowNumbers first;
  const std::vector<std::size_t>& groups = sheet.grouping->group_of_row;
  for (std::size_t row = 0; row < groups.size(); ++row) {
    if (groups[row] == first.size()) first.push_back(row);
  }
  return first;
}

}  // namespace

void take_rows(RunSheet& sheet, const RunSheet& source, StudyRun& run, Diagnostics& diagnostics) {
  Table& table = sheet.table();
  const Table& from = source.table();
  table.file = from.file;
  table.files = from.files;
  RowNumbers& rows = sheet.taken_rows;
  if (sheet.plan.grouped) {
    rows = first_of_groups(sheet, source);
    table.rows = sheet.grouping->groups;
  } else {
    const std::size_t cells = cells_per_row(sheet.plan);
    for (std::size_t place = 0; place < from.rows; ++place) {
      for (std::uint32_t cell = 0; cell < cells; ++cell) {
        rows.push_back(from.row_at(place));
        if (sheet.plan.cell_headers) sheet.taken_cells.push_back(cell);
      }
    }
    table.source_rows = RowNumbers::counting(0, rows.size());
    table.source_count = rows.size();
    if (sheet.plan.keep) keep_rows(sheet, source, run, diagnostics);
    table.rows = rows.size();
  }
  for (std::size_t i = 0; i < rows.size(); ++i) {
    table.lines.push_back(from.lines[rows[i]]);
    if (!from.file_of.empty()) table.file_of.push_back(from.file_of[rows[i]]);
  }
  if (sheet.plan.grouped) {
    // A single row without any of the source stands in no line.
    while (table.lines.size() < table.rows) table.lines.push_back(0);
    table.source_count = table.rows;
    table.source_rows = RowNumbers::counting(0, table.rows);
  }
}

TakenValues taken_values(const RunSheet& sheet, const RunSheet& source, const TakenColumn& taken,
                         Origins& origins) {
  TakenValues values;
  values.taken = taken;
  if (taken.of_headers) return values;
  values.with_source = have_source(cells_there(source, taken));
  const RowNumbers& rows = sheet.taken_rows;
  for (std::size_t begin = 0; begin < rows.size(); begin += kChunkRows) {
    const std::size_t size = std::min(kChunkRows, rows.size() - begin);
    std::vector<Null>& nulls = values.nulls.emplace_back();
    for (std::size_t i = 0; i < size; ++i) {
      const std::size_t row = rows[begin + i];
      const std::size_t cell = sheet.taken_cells.empty() ? 0 : sheet.taken_cells[begin + i];
      if (const Null null = source.table().columns[taken.there_of(cell)].null(row)) {
        nulls.resize(size);
        nulls[i] = origins.in_row(null, row);
      }
    }
  }
  return values;
}

void TakenBlocks::read(std::size_t block, const std::vector<bool>& needed, Block& to) const {
  HeldBlocks::read(block, needed, to);
  for (const auto& [index, values] : values_) {
    if (needed[index]) to.table.columns[index].chunks = gather(values, range(block));
  }
}

std::vector<Chunk> TakenBlocks::gather(const TakenValues& values, const RowRange& rows) const {
  const TakenColumn& taken = values.taken;
  if (taken.of_headers) return chunks_of_headers(sheet_, rows);
  // A single row without any of the source takes none.
  if (sheet_.taken_rows.empty()) return {};
  const std::vector<std::size_t> from = sheet_.taken_rows.part(rows.first_row, rows.rows);
  std::vector<Chunk> chunks;
  if (taken.cells.empty()) {
    chunks = gathered(source_.table().columns[taken.there], from);
  } else {
    const auto cells = std::span<const std::uint32_t>(sheet_.taken_cells).subspan(rows.first_row, rows.rows);
    chunks = gathered(cells_there(source_, taken), taken.to_first, cells, from, values.with_source);
  }
  for (std::size_t i = 0; i < chunks.size(); ++i)
    chunks[i].nulls = values.nulls[rows.first_row / kChunkRows + i];
  return chunks;
}

}  // namespace opensum
