// Rows of a column picked out in a given order.
#include "compute/gather.h"

#include <algorithm>

namespace opensum {

std::vector<Chunk> gathered(const Column& column, std::span<const std::size_t> rows) {
  std::vector<Chunk> chunks;
  for (std::size_t begin = 0; begin < rows.size(); begin += kChunkRows) {
    const std::size_t size = std::min(kChunkRows, rows.size() - begin);
    Chunk chunk;
    chunk.made = column.chunks.front().made;
    for (std::size_t i = 0; i < size; ++i) {
      const std::size_t row = rows[begin + i];
      const Chunk& from = column.chunks[row / kChunkRows];
      const std::size_t at = row % kChunkRows;
      if (!from.numbers.empty()) chunk.add_instant(from.instant_at(at));
      if (!from.texts.empty()) chunk.texts.push_back(from.texts[at]);
      if (from.has_source()) chunk.source.push_back(from.source_at(at));
      if (const Null null = from.null_at(at)) {
        chunk.nulls.resize(size);
        chunk.nulls[i] = null;
      }
    }
    chunks.push_back(std::move(chunk));
  }
  return chunks;
}

std::vector<Chunk> gathered(const std::vector<const Column*>& columns,
                            const std::vector<Conversion>& to_first, std::span<const std::uint32_t> from,
                            std::span<const std::size_t> rows, bool with_source) {
  const bool texts = columns.front()->kind == Kind::text;
  std::vector<Chunk> chunks;
  for (std::size_t begin = 0; begin < rows.size(); begin += kChunkRows) {
    const std::size_t size = std::min(kChunkRows, rows.size() - begin);
    Chunk chunk;
    for (std::size_t i = 0; i < size; ++i) {
      const std::uint32_t cell = from[begin + i];
      const std::size_t row = rows[begin + i];
      const Chunk& there = columns[cell]->chunks[row / kChunkRows];
      const std::size_t at = row % kChunkRows;
      const bool same = columns[cell]->kind != Kind::number || to_first[cell].is_identity();
      if (texts) chunk.texts.push_back(there.texts[at]);
      if (!texts)
        chunk.add_instant(same ? there.instant_at(at) : Instant{to_first[cell](there.numbers[at]), 0});
      if (with_source) chunk.source.push_back(same ? there.source_at(at) : std::string_view());
      if (const Null null = there.null_at(at)) {
        chunk.nulls.resize(size);
        chunk.nulls[i] = null;
      }
    }
    chunks.push_back(std::move(chunk));
  }
  return chunks;
}

bool have_source(const std::vector<const Column*>& columns) {
  return std::all_of(columns.begin(), columns.end(), [](const Column* column) {
    return std::none_of(column->chunks.begin(), column->chunks.end(),
                        [](const Chunk& chunk) { return !chunk.has_source(); });
  });
}

}  // namespace opensum
