// Going over all blocks of a source.
#pragma once

#include <algorithm>
#include <vector>

#include "base/parallel.h"
#include "engine/blocks.h"

namespace opensum {

/// Goes over all blocks of a source. `read(part, block)` reads one and works on it, several at a time; then
/// `take(part, block)` has them one after the other, in their order. The tables of blocks have the columns of
/// `like`. Throws LaterRowsDiffer.
template <typename SomeBlock, typename Read, typename Take>
void go_over_blocks(BlockSource& source, const Table& like, const Read& read, const Take& take) {
  std::vector<SomeBlock> blocks(std::min(source.count(), 2 * threads() + 2));
  for (SomeBlock& block : blocks) block.table = like.without_rows();
  for_each_in_order(
      source.count(), blocks.size(),
      [&](std::size_t part, std::size_t slot) { source.fetch(part, blocks[slot]); },
      [&](std::size_t part, std::size_t slot) { source.place(part, blocks[slot]); },
      [&](std::size_t part, std::size_t slot) { read(part, blocks[slot]); },
      [&](std::size_t part, std::size_t slot) {
        take(part, blocks[slot]);
        source.leave(part, blocks[slot]);
      });
  source.end_pass();
}

}  // namespace opensum
