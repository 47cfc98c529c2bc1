// Values of all rows of a column, gathered block after block.
#include "compute/row_store.h"

#include <algorithm>

namespace opensum {
namespace {

std::size_t rows_of(const Chunk& chunk) { return std::max(chunk.numbers.size(), chunk.texts.size()); }

// Appends to nulls or rests, of which there are none where all are like `Value()`, after `before` rows.
template <typename Value>
void append_rare(std::vector<Value>& to, std::size_t before, const std::vector<Value>& from,
                 std::size_t begin, std::size_t end) {
  if (from.empty()) {
    if (!to.empty()) to.resize(before + (end - begin));
    return;
  }
  const auto first = from.begin() + static_cast<std::ptrdiff_t>(begin);
  const auto last = from.begin() + static_cast<std::ptrdiff_t>(end);
  if (to.empty() && std::all_of(first, last, [](const Value& value) { return value == Value(); })) return;
  to.resize(before);
  to.insert(to.end(), first, last);
}

void append_source(Chunk& to, std::string_view text) {
  if (to.source.empty() && to.packed_source.add(text)) return;
  // One that is too long: those of its chunk are held as views.
  for (std::size_t i = 0; i < to.packed_source.size(); ++i) to.source.push_back(to.packed_source[i]);
  to.packed_source = {};
  to.source.push_back(text);
}

template <typename Value>
void append_range(std::vector<Value>& to, const std::vector<Value>& from, std::size_t begin,
                  std::size_t end) {
  to.insert(to.end(), from.begin() + static_cast<std::ptrdiff_t>(begin),
            from.begin() + static_cast<std::ptrdiff_t>(end));
}

}  // namespace

std::string_view TextKeeper::keep(std::string_view text) { return *texts_.emplace(text).first; }

std::string_view RowStore::kept(std::string_view text) {
  if (text.empty()) return {};
  return lives_on_ && lives_on_(text) ? text : texts_.keep(text);
}

void RowStore::append(const Chunk& from, std::size_t begin, std::size_t end) {
  while (begin < end) {
    const std::size_t before = rows_ % kChunkRows;
    if (before == 0) chunks_.emplace_back();
    Chunk& to = chunks_.back();
    const std::size_t stop = std::min(end, begin + kChunkRows - before);
    rows_ += stop - begin;
    if (only_chunk_ && chunks_.size() - 1 != *only_chunk_) {
      begin = stop;
      continue;
    }
    append_rare(to.nulls, before, from.nulls, begin, stop);
    append_rare(to.rests, before, from.rests, begin, stop);
    if (!from.numbers.empty()) append_range(to.numbers, from.numbers, begin, stop);
    for (std::size_t i = begin; i < stop && !from.texts.empty(); ++i)
      to.texts.push_back(from.null_at(i) ? std::string_view() : kept(from.texts[i]));
    for (std::size_t i = begin; i < stop && held_ == Held::with_source && from.has_source(); ++i)
      append_source(to, kept(from.source_at(i)));
    if (before + (stop - begin) == kChunkRows) {
      to.numbers.shrink_to_fit();
      to.texts.shrink_to_fit();
      to.nulls.shrink_to_fit();
      to.rests.shrink_to_fit();
      to.packed_source.shrink_to_fit();
    }
    begin = stop;
  }
}

void RowStore::append(const std::vector<Chunk>& more) {
  for (const Chunk& from : more) append(from, 0, rows_of(from));
}

void RowStore::append_row(const std::vector<Chunk>& from, std::size_t row) {
  const std::size_t i = row % kChunkRows;
  append(from[row / kChunkRows], i, i + 1);
}

std::vector<Chunk> slice(const std::vector<Chunk>& whole, std::size_t first, std::size_t rows) {
  std::vector<Chunk> chunks((rows + kChunkRows - 1) / kChunkRows);
  for (std::size_t done = 0; done < rows;) {
    const Chunk& from = whole[(first + done) / kChunkRows];
    const std::size_t begin = (first + done) % kChunkRows;
    const std::size_t before = done % kChunkRows;
    const std::size_t end = begin + std::min({rows - done, kChunkRows - begin, kChunkRows - before});
    Chunk& to = chunks[done / kChunkRows];
    append_rare(to.nulls, before, from.nulls, begin, end);
    append_rare(to.rests, before, from.rests, begin, end);
    if (!from.numbers.empty()) append_range(to.numbers, from.numbers, begin, end);
    if (!from.texts.empty()) append_range(to.texts, from.texts, begin, end);
    for (std::size_t i = begin; i < end && from.has_source(); ++i) to.source.push_back(from.source_at(i));
    if (from.made) to.made = from.made;
    done += end - begin;
  }
  return chunks;
}

}  // namespace opensum
