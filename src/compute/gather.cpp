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

}  // namespace opensum
