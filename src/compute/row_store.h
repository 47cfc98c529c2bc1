// Values of all rows of a column, gathered block after block.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <unordered_set>
#include <vector>

#include "table/column.h"

namespace opensum {

/// Keeps texts that views look into beyond the block in which they came, each text once.
class TextKeeper {
 public:
  /// A text with a place of its own.
  std::string_view keep(std::string_view text);

 private:
  std::unordered_set<std::string> texts_;
};

/// Whether a text lives as long as the run, so that views may look into it.
using LivesOn = std::function<bool(std::string_view)>;

/// What is kept of cells: their values, or also the bytes of the source in which they stand.
enum class Held : std::uint8_t { nothing, values, with_source };

/// Appends to chunks the values of chunks that follow; every chunk but the last is filled.
class RowStore {
 public:
  /// Texts that do not live on are given to `texts`.
  RowStore(Held held, TextKeeper& texts, LivesOn lives_on = nullptr)
      : held_(held), texts_(texts), lives_on_(std::move(lives_on)) {}

  /// Of all rows only those of the chunk in which this one is are kept; the other chunks stay empty.
  void keep_only_chunk_of(std::size_t row) { only_chunk_ = row / kChunkRows; }
  void append(const std::vector<Chunk>& more);
  /// Appends one row of chunks.
  void append_row(const std::vector<Chunk>& from, std::size_t row);

  std::size_t rows() const { return rows_; }
  const std::vector<Chunk>& chunks() const { return chunks_; }
  std::vector<Chunk> take() { return std::move(chunks_); }

 private:
  void append(const Chunk& from, std::size_t begin, std::size_t end);
  std::string_view kept(std::string_view text);

  Held held_;
  TextKeeper& texts_;
  LivesOn lives_on_;
  std::vector<Chunk> chunks_;
  std::size_t rows_ = 0;
  std::optional<std::size_t> only_chunk_;
};

/// Some consecutive rows of a whole column, in chunks of their own.
std::vector<Chunk> slice(const std::vector<Chunk>& whole, std::size_t first, std::size_t rows);

}  // namespace opensum
