// Filling the gaps of a measured column by rules.
#include "compute/fills.h"

namespace opensum {
namespace {

// Puts row i of a rule's result into the filled chunk.
void take(Chunk& filled, const Chunk& from, std::size_t i, bool text) {
  if (text) {
    filled.texts[i] = from.texts[i];
  } else {
    filled.set_instant(i, from.instant_at(i));
  }
  filled.nulls[i] = Null();
  // What was computed stands in no source.
  if (!filled.source.empty()) filled.source[i] = {};
}

}  // namespace

std::vector<FilledCell> fill_gaps(const Column& measured, const std::vector<std::vector<Chunk>>& rules,
                                  Column& filled) {
  std::vector<FilledCell> cells;
  filled.rows = measured.rows;
  filled.chunks = measured.chunks;
  for (std::size_t index = 0; index < filled.chunks.size(); ++index) {
    Chunk& chunk = filled.chunks[index];
    for (std::size_t i = 0; i < chunk.nulls.size(); ++i) {
      if (!chunk.nulls[i]) continue;
      FilledCell cell{index * kChunkRows + i, std::nullopt, {}};
      for (std::size_t k = 0; k < rules.size() && !cell.rule; ++k) {
        cell.left = rules[k][index].null_at(i);
        if (!cell.left) cell.rule = k;
      }
      if (cell.rule) {
        take(chunk, rules[*cell.rule][index], i, measured.kind == Kind::text);
      }
      cells.push_back(cell);
    }
  }
  return cells;
}

}  // namespace opensum
