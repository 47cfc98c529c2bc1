// In which ways the rows of a sheet find their rows in another.
#pragma once

#include <cstdint>

namespace opensum {

enum class LinkHow : std::uint8_t {
  row,          ///< source row 1 with source row 1
  equal,        ///< by equal keys
  nearest,      ///< equal keys but for the last, which is nearest
  previous,     ///< … the greatest that is not above
  interpolate,  ///< … on the straight line between the two around
  taken,        ///< the row from which the row here is taken over
  group,        ///< the row that stands for the group of the row here
};

/// Whether a study says it, and whether rows are found by keys.
constexpr bool has_model(LinkHow how) { return how != LinkHow::taken && how != LinkHow::group; }
constexpr bool has_keys(LinkHow how) { return has_model(how) && how != LinkHow::row; }

}  // namespace opensum
