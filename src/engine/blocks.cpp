// Blocks of rows and where they come from.
#include "engine/blocks.h"

#include <algorithm>

#include "compute/row_store.h"

namespace opensum {

FileBlocks::FileBlocks(const LeftInFile& left, const Table& whole) : left_(left) {
  for (const Column& column : whole.columns) {
    const bool given = column.in_source && column.fills.empty();
    in_source_.push_back(given ? column.in_source : std::nullopt);
    readers_.emplace_back(given ? left.rules[*column.in_source] : CellRules(), column.origin);
  }
}

RowRange FileBlocks::range(std::size_t block) const {
  return {left_.blocks[block].first_row, left_.blocks[block].rows};
}

void FileBlocks::set_places(const RowBlock& where, Table& table) const {
  table.source_rows.clear();
  for (std::size_t place = where.first_source_row; place < where.first_source_row + where.source_rows;
       ++place) {
    if (left_.kept.empty() || left_.kept[place]) table.source_rows.push_back(place);
  }
}

void FileBlocks::read(std::size_t block, const std::vector<bool>& needed, Block& to) const {
  read_block(left_, left_.blocks[block], to.raw);
  Table& table = to.table;
  to.first_row = left_.blocks[block].first_row;
  table.rows = to.raw.rows();
  table.lines.swap(to.raw.lines);
  if (gives_places_) set_places(left_.blocks[block], table);
  for (std::size_t i = 0; i < table.columns.size(); ++i) {
    Column& column = table.columns[i];
    column.rows = table.rows;
    if (!in_source_[i] || !needed[i]) continue;
    const std::vector<std::string_view>& cells = to.raw.columns[*in_source_[i]];
    column.chunks.resize((table.rows + kChunkRows - 1) / kChunkRows);
    const auto made = std::make_shared<MadeTexts>();
    for (std::size_t part = 0; part < column.chunks.size(); ++part) {
      const std::size_t begin = part * kChunkRows;
      const std::size_t size = std::min(kChunkRows, table.rows - begin);
      readers_[i].read(column.kind, {cells.data() + begin, size}, {table.lines.data() + begin, size}, begin,
                       &column.chunks[part], made);
    }
  }
}

void FileBlocks::leave(std::size_t block) const {
  left_.source->forget(left_.blocks[block].begin, left_.blocks[block].end);
}

namespace {

// Whole chunks, few enough to stay in a cache, so that several threads have work.
constexpr std::size_t kHeldBlockRows = 4 * kChunkRows;

template <typename Value>
void copy_range(const std::vector<Value>& from, const RowRange& range, std::vector<Value>& to) {
  to.clear();
  if (from.empty()) return;
  const auto first = from.begin() + static_cast<std::ptrdiff_t>(range.first_row);
  to.assign(first, first + static_cast<std::ptrdiff_t>(range.rows));
}

}  // namespace

std::size_t HeldBlocks::count() const { return (whole_.rows + kHeldBlockRows - 1) / kHeldBlockRows; }

RowRange HeldBlocks::range(std::size_t block) const {
  const std::size_t first = block * kHeldBlockRows;
  return {first, std::min(kHeldBlockRows, whole_.rows - first)};
}

void HeldBlocks::read(std::size_t block, const std::vector<bool>& needed, Block& to) const {
  const RowRange rows = range(block);
  to.first_row = rows.first_row;
  Table& table = to.table;
  table.rows = rows.rows;
  copy_range(whole_.lines, rows, table.lines);
  copy_range(whole_.file_of, rows, table.file_of);
  copy_range(whole_.source_rows, rows, table.source_rows);
  for (std::size_t i = 0; i < table.columns.size(); ++i) {
    Column& column = table.columns[i];
    column.rows = table.rows;
    if (given_[i] && needed[i]) column.chunks = slice(whole_.columns[i].chunks, rows.first_row, rows.rows);
  }
}

}  // namespace opensum
