// Reading rows that are left in their file, a block at a time.
#include "study/block_reader.h"

#include <algorithm>

namespace opensum {

void read_block(const LeftInFile& left, const RowBlock& block, RawRows& rows) {
  left.source->read(block.begin, block.end, block.first_line, rows);
  if (left.kept.empty()) return;
  const auto drop = [&](auto& list) {
    std::size_t to = 0;
    for (std::size_t i = 0; i < list.size(); ++i) {
      if (left.kept[block.first_source_row + i]) list[to++] = list[i];
    }
    list.resize(to);
  };
  for (std::vector<std::string_view>& column : rows.columns) drop(column);
  drop(rows.lines);
}

BlockReader::BlockReader(const LeftInFile& left, const Table& whole) : left_(left), whole_(whole) {
  for (const Column& column : whole.columns)
    readers_.emplace_back(column.in_source ? left.rules[*column.in_source] : CellRules(), column.origin);
}

Table BlockReader::empty_table() const {
  Table table;
  table.name = whole_.name;
  table.file = whole_.file;
  table.files = whole_.files;
  table.shown = whole_.shown;
  table.columns = whole_.columns;
  return table;
}

void BlockReader::read(const RowBlock& block, const std::vector<bool>& needed, RawRows& raw,
                       Table& table) const {
  read_block(left_, block, raw);
  table.rows = raw.rows();
  table.lines.swap(raw.lines);
  for (std::size_t i = 0; i < table.columns.size(); ++i) {
    Column& column = table.columns[i];
    column.rows = table.rows;
    if (!column.in_source || !column.fills.empty() || !needed[i]) continue;
    const std::vector<std::string_view>& cells = raw.columns[*column.in_source];
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

}  // namespace opensum
