// Packed numbers of rows against a plain list of them.
#include "table/row_numbers.h"

#include <gtest/gtest.h>

#include <limits>
#include <random>

namespace opensum {
namespace {

// What one number of a sequence may be, given the one before.
using Next = std::size_t (*)(std::mt19937_64& random, std::size_t before, std::size_t i);

void expect_the_same(const std::vector<std::size_t>& plain, const RowNumbers& packed) {
  ASSERT_EQ(packed.size(), plain.size());
  ASSERT_EQ(packed.empty(), plain.empty());
  for (std::size_t i = 0; i < plain.size(); ++i) ASSERT_EQ(packed[i], plain[i]) << i;
  for (const std::size_t first : {0U, 1U, 4095U, 4097U}) {
    if (first > plain.size()) continue;
    const auto begin = plain.begin() + static_cast<std::ptrdiff_t>(first);
    EXPECT_EQ(packed.part(first, plain.size() - first), std::vector<std::size_t>(begin, plain.end()));
  }
}

TEST(RowNumbers, AreThoseThatWereAdded) {
  constexpr std::size_t kGreatest = std::numeric_limits<std::size_t>::max();
  const std::vector<Next> kinds = {
      [](auto&, std::size_t before, std::size_t) { return before + 1; },
      [](auto& random, std::size_t before, std::size_t) { return before + 1 + random() % 3; },
      [](auto& random, std::size_t before, std::size_t) { return before + (random() % 500 == 0 ? 9 : 1); },
      [](auto&, std::size_t before, std::size_t) { return before; },
      [](auto& random, std::size_t, std::size_t) {
        return static_cast<std::size_t>(random() % 1'000'000'000);
      },
      [](auto& random, std::size_t, std::size_t) { return static_cast<std::size_t>(random()); },
      [](auto&, std::size_t before, std::size_t i) { return i % 2 == 0 ? before + 1 : kGreatest - before; },
      [](auto&, std::size_t before, std::size_t i) {
        return i == 4000 ? std::size_t{1} << 31U : i == 4001 ? (std::size_t{1} << 31U) + 2 : before + 1;
      }};
  std::mt19937_64 random(11);
  for (const Next next : kinds) {
    for (const std::size_t count : {0U, 1U, 2U, 4095U, 4096U, 4097U, 10000U}) {
      std::vector<std::size_t> plain;
      RowNumbers packed;
      for (std::size_t i = 0; i < count; ++i) {
        plain.push_back(next(random, plain.empty() ? 1 : plain.back(), i));
        packed.push_back(plain.back());
      }
      expect_the_same(plain, packed);
      RowNumbers twice(plain);
      twice.append(packed);
      plain.insert(plain.end(), plain.begin(), plain.end());
      expect_the_same(plain, twice);
      twice.clear();
      expect_the_same({}, twice);
    }
  }
}

TEST(RowNumbers, CountFromANumberOn) {
  for (const std::size_t count : {0U, 1U, 4096U, 4097U, 9000U}) {
    std::vector<std::size_t> plain;
    for (std::size_t i = 0; i < count; ++i) plain.push_back(17 + i);
    RowNumbers packed = RowNumbers::counting(17, count);
    expect_the_same(plain, packed);
    plain.push_back(3);
    packed.push_back(3);
    expect_the_same(plain, packed);
  }
}

}  // namespace
}  // namespace opensum
