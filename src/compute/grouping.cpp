// Rows with equal keys.
#include "compute/grouping.h"

#include <cstring>

#include "table/decimal.h"

namespace opensum {
namespace {

// The bytes of a key: equal keys have equal bytes, and a null is unlike every value.
void append_key(std::string& bytes, const Chunk& chunk, Kind kind, std::size_t i) {
  if (chunk.null_at(i)) {
    bytes += 'n';
    return;
  }
  if (!chunk.texts.empty()) {
    bytes += 't' + std::to_string(chunk.texts[i].size()) + ':';
    bytes += chunk.texts[i];
    return;
  }
  const double number = kind == Kind::date ? chunk.numbers[i] + 0.0 : as_typed(chunk.numbers[i]);
  char raw[sizeof number];
  std::memcpy(raw, &number, sizeof number);
  bytes += 'd';
  bytes.append(raw, sizeof number);
}

}  // namespace

LocalGroups local_groups(const std::vector<GroupKey>& keys, std::size_t first, std::size_t rows) {
  LocalGroups groups;
  groups.of_row.resize(rows);
  std::unordered_map<std::string, std::uint32_t> known;
  std::string bytes;
  for (std::size_t i = 0; i < rows; ++i) {
    const std::size_t row = first + i;
    bytes.clear();
    for (const GroupKey& key : keys)
      append_key(bytes, (*key.values)[row / kChunkRows], key.kind, row % kChunkRows);
    const auto [found, is_new] = known.try_emplace(bytes, static_cast<std::uint32_t>(groups.keys.size()));
    if (is_new) groups.keys.push_back(bytes);
    groups.of_row[i] = found->second;
  }
  return groups;
}

std::vector<std::size_t> GroupNumbers::add(const LocalGroups& groups) {
  std::vector<std::size_t> numbers;
  numbers.reserve(groups.keys.size());
  for (const std::string& key : groups.keys)
    numbers.push_back(numbers_.try_emplace(key, numbers_.size()).first->second);
  return numbers;
}

std::vector<std::size_t> GroupNumbers::find(const LocalGroups& groups) const {
  std::vector<std::size_t> numbers;
  numbers.reserve(groups.keys.size());
  for (const std::string& key : groups.keys) numbers.push_back(numbers_.at(key));
  return numbers;
}

}  // namespace opensum
