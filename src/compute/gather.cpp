// Rows of a column picked out in a given order.
#include "compute/gather.h"

#include <algorithm>

namespace opensum {

std::vector<Chunk> gathered(const Column& column, const std::vector<std::size_t>& rows, Origins* elsewhere) {
  std::vector<Chunk> chunks;
  for (std::size_t begin = 0; begin < rows.size(); begin += kChunkRows) {
    const std::size_t size = std::min(kChunkRows, rows.size() - begin);
    Chunk chunk;
    chunk.made = column.chunks.front().made;
    for (std::size_t i = 0; i < size; ++i) {
      const std::size_t row = rows[begin + i];
      const Chunk& from = column.chunks[row / kChunkRows];
      const std::size_t at = row % kChunkRows;
      if (!from.numbers.empty()) chunk.numbers.push_back(from.numbers[at]);
      if (!from.texts.empty()) chunk.texts.push_back(from.texts[at]);
      if (!from.source.empty()) chunk.source.push_back(from.source[at]);
      if (const Null null = from.null_at(at)) {
        chunk.nulls.resize(size);
        chunk.nulls[i] = elsewhere == nullptr ? null : elsewhere->in_row(null, row);
      }
    }
    chunks.push_back(std::move(chunk));
  }
  return chunks;
}

std::vector<Chunk> gathered(const std::vector<const Column*>& columns,
                            const std::vector<Conversion>& to_first, const std::vector<std::uint32_t>& from,
                            const std::vector<std::size_t>& rows, Origins* elsewhere) {
  const bool texts = columns.front()->kind == Kind::text;
  const bool sources = std::all_of(columns.begin(), columns.end(), [](const Column* c) {
    return std::none_of(c->chunks.begin(), c->chunks.end(), [](const Chunk& k) { return k.source.empty(); });
  });
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
      if (!texts) chunk.numbers.push_back(same ? there.numbers[at] : to_first[cell](there.numbers[at]));
      if (sources) chunk.source.push_back(same ? there.source[at] : std::string_view());
      if (const Null null = there.null_at(at)) {
        chunk.nulls.resize(size);
        chunk.nulls[i] = elsewhere == nullptr ? null : elsewhere->in_row(null, row);
      }
    }
    chunks.push_back(std::move(chunk));
  }
  return chunks;
}

}  // namespace opensum
