// A few rows of a table, picked out of their blocks.
#include "engine/picked_rows.h"

#include "compute/row_store.h"

namespace opensum {

Table picked_rows(BlockSource& source, const Table& whole, const std::vector<std::size_t>& rows) {
  Table picked = whole.without_rows();
  const auto texts = std::make_shared<TextKeeper>();
  std::vector<RowStore> columns;
  for (std::size_t i = 0; i < picked.columns.size(); ++i) columns.emplace_back(Held::with_source, *texts);
  const std::vector<bool> all(picked.columns.size(), true);
  Block block;
  block.table = whole.without_rows();
  auto row = rows.begin();
  for (std::size_t part = 0; part < source.count() && row != rows.end(); ++part) {
    const RowRange range = source.range(part);
    if (*row >= range.first_row + range.rows) continue;
    source.get(part, all, block);
    for (; row != rows.end() && *row < range.first_row + range.rows; ++row) {
      const std::size_t here = *row - range.first_row;
      for (std::size_t i = 0; i < columns.size(); ++i)
        columns[i].append_row(block.table.columns[i].chunks, here);
      picked.lines.push_back(block.table.lines[here]);
      if (!block.table.file_of.empty()) picked.file_of.push_back(block.table.file_of[here]);
    }
    source.leave(part, block);
  }
  picked.rows = picked.lines.size();
  for (std::size_t i = 0; i < columns.size(); ++i) {
    picked.columns[i].chunks = columns[i].take();
    picked.columns[i].rows = picked.rows;
    picked.columns[i].storage = texts;
  }
  return picked;
}

}  // namespace opensum
