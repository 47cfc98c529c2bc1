// Numbers of rows, held in little memory.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

namespace opensum {

/// Numbers of rows: the lines in which they stand, their places in a source, rows of another sheet. Most of
/// them count up one by one and take next to nothing; others take 4 bytes where those near each other are
/// less than two thousand million apart.
class RowNumbers {
 public:
  RowNumbers() = default;
  explicit RowNumbers(std::span<const std::size_t> numbers) { append(numbers); }
  /// `count` numbers from `first` on.
  static RowNumbers counting(std::size_t first, std::size_t count);

  void push_back(std::size_t number);
  void append(std::span<const std::size_t> numbers);
  void append(const RowNumbers& numbers);
  void clear();

  std::size_t size() const { return size_; }
  bool empty() const { return size_ == 0; }
  std::size_t operator[](std::size_t i) const {
    const Part& part = parts_[i / kPart];
    const std::size_t at = i % kPart;
    if (!part.wide.empty()) return part.wide[at];
    const std::int64_t behind =
        part.behind.empty() ? static_cast<std::int64_t>(at) : static_cast<std::int64_t>(part.behind[at]);
    return part.first + static_cast<std::size_t>(behind);
  }
  /// `count` of them from place `first` on.
  std::vector<std::size_t> part(std::size_t first, std::size_t count) const;

 private:
  static constexpr std::size_t kPart = 4096;

  struct Part {
    std::size_t first = 0;             ///< the first number
    std::vector<std::int32_t> behind;  ///< how far behind it each is; empty where they count up
    std::vector<std::size_t> wide;     ///< the numbers themselves, where one is farther away
  };

  std::vector<Part> parts_;
  std::size_t size_ = 0;
};

}  // namespace opensum
