// Which row of another sheet belongs to each row here, and the values found there.
#pragma once

#include <cstdint>
#include <vector>

#include "table/column.h"

namespace opensum {

enum class LinkHow : std::uint8_t {
  row,          ///< source row 1 with source row 1
  equal,        ///< by equal keys
  nearest,      ///< equal keys but for the last, which is nearest
  previous,     ///< … the greatest that is not above
  interpolate,  ///< … on the straight line between the two around
  taken,        ///< the row from which the row here is taken over
};

/// A pair of keys: a column here and a column there, whose numbers are converted to the unit here.
struct LinkKey {
  const Column* here = nullptr;
  const Column* there = nullptr;
  Conversion conversion;
};

/// Row by row the row there, or why there is none.
struct RowMap {
  static constexpr std::size_t kNone = SIZE_MAX;
  std::vector<std::size_t> first;
  /// Of interpolation: the row after, and how far on the way to it; kNone where the first row is met exactly.
  std::vector<std::size_t> second;
  std::vector<double> part;
  std::vector<Reason> why;
  std::size_t matched = 0;
  std::size_t unmatched = 0;
};

/// Rows there that have the same key, in order: the first such pairs.
struct RepeatedKeys {
  std::vector<std::pair<std::size_t, std::size_t>> pairs;
  std::size_t count = 0;
};

/// Matches rows by keys. Keys there must be unique: repeated ones are reported and the map is empty. `within`
/// is the greatest distance of the last key, in the unit here (s for dates); negative for any.
RowMap match_rows(const std::vector<LinkKey>& keys, LinkHow how, double within, std::size_t rows_here,
                  std::size_t rows_there, RepeatedKeys& repeated);

/// Matches rows by their place in their sources; `here` and `there` are the source rows of the rows kept.
RowMap match_places(const std::vector<std::size_t>& here, const std::vector<std::size_t>& there);

/// The rows there that are given.
RowMap given_rows(const std::vector<std::size_t>& there);

/// The values of a column there for each row here. A null there keeps its cell as origin; rows without
/// partner are nulls that begin in `own`. Interpolation is for numbers and dates only.
std::vector<Chunk> linked_values(const Column& there, const RowMap& map, OriginId own, Origins& origins);

}  // namespace opensum
