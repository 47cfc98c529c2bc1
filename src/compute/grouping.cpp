// Rows with equal keys.
#include "compute/grouping.h"

#include <cstring>
#include <optional>
#include <string_view>

#include "table/decimal.h"

namespace opensum {
namespace {

void append_number(std::string& bytes, double number) {
  char raw[sizeof number];
  std::memcpy(raw, &number, sizeof number);
  bytes.append(raw, sizeof number);
}

// The bytes of a key: equal keys have equal bytes, and a null is unlike every value.
void append_key(std::string& bytes, const GroupKey& key, const Chunk& chunk, std::size_t i) {
  if (const Null null = chunk.null_at(i)) {
    bytes += 'n';
    // `<0.5` is neither `>20` nor missing.
    if (key.keeps_limits && is_limit(null.reason())) {
      bytes += null.reason() == Reason::below_limit ? '<' : '>';
      append_number(bytes, as_typed(chunk.numbers[i]));
    }
    return;
  }
  if (!chunk.texts.empty()) {
    bytes += 't' + std::to_string(chunk.texts[i].size()) + ':';
    bytes += chunk.texts[i];
    return;
  }
  bytes += 'd';
  if (key.kind != Kind::date) return append_number(bytes, as_typed(chunk.numbers[i]));
  const Instant instant = chunk.instant_at(i);
  append_number(bytes, instant.seconds + 0.0);
  append_number(bytes, instant.rest + 0.0);
}

// The groups of the values of one column of texts, which are looked up as they stand.
LocalGroups groups_of_texts(const std::vector<Chunk>& chunks, std::size_t first, std::size_t rows) {
  LocalGroups groups;
  groups.of_row.resize(rows);
  std::unordered_map<std::string_view, std::uint32_t> known;
  std::optional<std::uint32_t> of_null;
  const auto add = [&](const Chunk& chunk, std::size_t i) {
    append_key(groups.keys.emplace_back(), {nullptr, Kind::text, false}, chunk, i);
    return static_cast<std::uint32_t>(groups.keys.size() - 1);
  };
  for (std::size_t i = 0; i < rows; ++i) {
    const Chunk& chunk = chunks[(first + i) / kChunkRows];
    const std::size_t at = (first + i) % kChunkRows;
    if (chunk.null_at(at)) {
      if (!of_null) of_null = add(chunk, at);
      groups.of_row[i] = *of_null;
      continue;
    }
    const auto [found, is_new] = known.try_emplace(chunk.texts[at], 0);
    if (is_new) found->second = add(chunk, at);
    groups.of_row[i] = found->second;
  }
  return groups;
}

}  // namespace

LocalGroups local_groups(const std::vector<GroupKey>& keys, std::size_t first, std::size_t rows) {
  if (keys.size() == 1 && keys.front().kind == Kind::text)
    return groups_of_texts(*keys.front().values, first, rows);
  LocalGroups groups;
  groups.of_row.resize(rows);
  std::unordered_map<std::string, std::uint32_t> known;
  std::string bytes;
  for (std::size_t i = 0; i < rows; ++i) {
    const std::size_t row = first + i;
    bytes.clear();
    for (const GroupKey& key : keys)
      append_key(bytes, key, (*key.values)[row / kChunkRows], row % kChunkRows);
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
