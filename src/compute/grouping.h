// Rows with equal keys: numbered in order of first appearance, by several threads and with the same numbers
// for any number of them.
#pragma once

#include <cstdint>
#include <string>
#include <unordered_map>
#include <vector>

#include "table/column.h"

namespace opensum {

/// The values by which rows are grouped. Numbers are the same as decimals; dates are instants. A null is a
/// value of its own, and where nulls keep limits each limit is one, too.
struct GroupKey {
  const std::vector<Chunk>* values = nullptr;
  Kind kind = Kind::number;
  bool keeps_limits = false;
};

/// The groups of some consecutive rows among themselves. Equal keys have equal bytes; a null is a key of its
/// own.
struct LocalGroups {
  std::vector<std::string> keys;  ///< in order of first appearance
  std::vector<std::uint32_t> of_row;
};

/// The groups of `rows` rows from row `first` on; `keys` are the values by which they are grouped.
LocalGroups local_groups(const std::vector<GroupKey>& keys, std::size_t first, std::size_t rows);

/// Numbers for keys, in the order in which they are met.
class GroupNumbers {
 public:
  /// The number of each of the local groups; new ones get the next.
  std::vector<std::size_t> add(const LocalGroups& groups);
  /// The same for groups that have all been added.
  std::vector<std::size_t> find(const LocalGroups& groups) const;
  std::size_t count() const { return numbers_.size(); }

 private:
  std::unordered_map<std::string, std::size_t> numbers_;
};

}  // namespace opensum
