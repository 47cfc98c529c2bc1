// Numbers of rows, held in little memory.
#include "table/row_numbers.h"

#include <limits>
#include <numeric>

namespace opensum {

RowNumbers RowNumbers::counting(std::size_t first, std::size_t count) {
  RowNumbers numbers;
  for (std::size_t begin = 0; begin < count; begin += kPart)
    numbers.parts_.push_back({first + begin, {}, {}});
  numbers.size_ = count;
  return numbers;
}

void RowNumbers::push_back(std::size_t number) {
  const std::size_t at = size_ % kPart;
  ++size_;
  if (at == 0) {
    parts_.push_back({number, {}, {}});
    return;
  }
  Part& part = parts_.back();
  if (!part.wide.empty()) {
    part.wide.push_back(number);
    return;
  }
  const auto behind = static_cast<std::int64_t>(number - part.first);
  if (part.behind.empty() && behind == static_cast<std::int64_t>(at)) return;
  if (part.behind.empty()) {
    part.behind.reserve(kPart);
    part.behind.resize(at);
    std::iota(part.behind.begin(), part.behind.end(), 0);
  }
  constexpr std::int64_t kFarthest = std::numeric_limits<std::int32_t>::max();
  if (-kFarthest <= behind && behind <= kFarthest) {
    part.behind.push_back(static_cast<std::int32_t>(behind));
    return;
  }
  part.wide.reserve(kPart);
  for (const std::int32_t near : part.behind)
    part.wide.push_back(part.first + static_cast<std::size_t>(static_cast<std::int64_t>(near)));
  part.wide.push_back(number);
  part.behind = {};
}

void RowNumbers::append(std::span<const std::size_t> numbers) {
  for (const std::size_t number : numbers) push_back(number);
}

void RowNumbers::append(const RowNumbers& numbers) {
  for (std::size_t i = 0; i < numbers.size(); ++i) push_back(numbers[i]);
}

void RowNumbers::clear() {
  parts_.clear();
  size_ = 0;
}

std::vector<std::size_t> RowNumbers::part(std::size_t first, std::size_t count) const {
  std::vector<std::size_t> numbers(count);
  for (std::size_t i = 0; i < count; ++i) numbers[i] = (*this)[first + i];
  return numbers;
}

}  // namespace opensum
