// The order of computing.
#include <gtest/gtest.h>

#include <algorithm>

#include "plan/plan.h"

namespace opensum {
namespace {

TEST(DependencyOrder, PutsNeedsFirst) {
  std::vector<std::vector<std::size_t>> cycles;
  const auto order = dependency_order({{2}, {0, 2}, {}}, cycles);
  EXPECT_EQ(order, (std::vector<std::size_t>{2, 0, 1}));
  EXPECT_TRUE(cycles.empty());
}

TEST(DependencyOrder, FindsRings) {
  std::vector<std::vector<std::size_t>> cycles;
  dependency_order({{1}, {2}, {0}, {3}, {0}}, cycles);
  ASSERT_EQ(cycles.size(), 2U);
  EXPECT_EQ(cycles[0], (std::vector<std::size_t>{0, 1, 2}));
  EXPECT_EQ(cycles[1], (std::vector<std::size_t>{3}));
}

TEST(DependencyOrder, TakesLongChains) {
  constexpr std::size_t kLength = 200'000;
  std::vector<std::vector<std::size_t>> needs(kLength);
  for (std::size_t i = 0; i + 1 < kLength; ++i) needs[i].push_back(i + 1);
  std::vector<std::vector<std::size_t>> cycles;
  const auto order = dependency_order(needs, cycles);
  EXPECT_EQ(order.front(), kLength - 1);
  EXPECT_EQ(order.back(), 0U);
}

}  // namespace
}  // namespace opensum
