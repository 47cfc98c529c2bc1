// Parts of work: each done once, taken in order, with no more of them at a time than there are slots.
#include "base/parallel.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <atomic>
#include <chrono>
#include <stdexcept>
#include <thread>
#include <vector>

#include "base/progress.h"

namespace opensum {
namespace {

class Threads {
 public:
  explicit Threads(std::size_t count) { set_threads(count); }
  ~Threads() { set_threads(0); }
  Threads(const Threads&) = delete;
  Threads& operator=(const Threads&) = delete;
};

TEST(Parts, AreEachDoneOnce) {
  for (const std::size_t count : {1U, 2U, 7U}) {
    const Threads threads(count);
    for (const std::size_t parts : {0U, 1U, 5U, 1000U}) {
      std::vector<std::atomic<int>> done(parts);
      for_each_part(parts, [&](std::size_t part) { ++done[part]; });
      for (const std::atomic<int>& times : done) ASSERT_EQ(times, 1) << count << " threads";
    }
  }
}

TEST(Parts, InsideOfAPartAreDoneByItsThread) {
  const Threads threads(3);
  std::atomic<int> elsewhere = 0;
  for_each_part(20, [&](std::size_t) {
    const auto own = std::this_thread::get_id();
    for_each_part(20, [&](std::size_t) { elsewhere += std::this_thread::get_id() == own ? 0 : 1; });
  });
  EXPECT_EQ(elsewhere, 0);
}

TEST(Parts, AreTakenInTheirOrder) {
  for (const std::size_t count : {1U, 2U, 7U}) {
    const Threads threads(count);
    for (const std::size_t slots : {1U, 2U, 5U}) {
      constexpr std::size_t kParts = 400;
      std::vector<std::size_t> made(slots, SIZE_MAX);
      std::vector<std::size_t> taken;
      std::atomic<std::size_t> at_once = 0;
      std::atomic<std::size_t> most = 0;
      for_each_in_order(
          kParts, slots,
          [&](std::size_t part, std::size_t slot) {
            const std::size_t now = ++at_once;
            for (std::size_t before = most; now > before && !most.compare_exchange_weak(before, now);) {
            }
            // Some parts take longer than those behind them.
            if (part % 13 == 0) std::this_thread::sleep_for(std::chrono::microseconds(200));
            made[slot] = part;
          },
          [&](std::size_t part, std::size_t slot) {
            ASSERT_EQ(made[slot], part) << "the slot holds what was made for the part";
            taken.push_back(part);
            --at_once;
          });
      ASSERT_EQ(taken.size(), kParts);
      EXPECT_TRUE(std::is_sorted(taken.begin(), taken.end()));
      EXPECT_LE(most, slots);
      EXPECT_EQ(at_once, 0U);
    }
  }
}

TEST(Parts, ThatAreGivenOneByOneAreTakenInTheirOrder) {
  for (const std::size_t count : {1U, 2U, 7U}) {
    const Threads threads(count);
    for (const std::size_t slots : {1U, 2U, 5U}) {
      for (const std::size_t parts : {0U, 1U, 300U}) {
        std::vector<std::size_t> given(slots);
        std::vector<std::size_t> made(slots);
        std::vector<std::size_t> taken;
        std::size_t asked = 0;
        for_each_given(
            slots,
            [&](std::size_t part, std::size_t slot) {
              EXPECT_EQ(part, asked++);
              given[slot] = part;
              return part < parts;
            },
            [&](std::size_t part, std::size_t slot) {
              EXPECT_EQ(given[slot], part);
              made[slot] = part * part;
            },
            [&](std::size_t part, std::size_t slot) {
              EXPECT_EQ(made[slot], part * part);
              taken.push_back(part);
            });
        ASSERT_EQ(taken.size(), parts);
        for (std::size_t i = 0; i < parts; ++i) ASSERT_EQ(taken[i], i);
        EXPECT_EQ(asked, parts + 1) << "asked once more at the end";
      }
    }
  }
}

TEST(Parts, HandOnWhatIsThrown) {
  for (const std::size_t count : {1U, 4U}) {
    const Threads threads(count);
    const auto fail_at = [](std::size_t wanted) {
      return [wanted](std::size_t part, std::size_t) {
        if (part == wanted) throw std::runtime_error("no room");
      };
    };
    const auto nothing = [](std::size_t, std::size_t) {};
    EXPECT_THROW(for_each_in_order(100, 3, fail_at(50), nothing), std::runtime_error);
    EXPECT_THROW(for_each_in_order(100, 3, nothing, fail_at(50)), std::runtime_error);
    EXPECT_THROW(for_each_part(100, [&](std::size_t part) { fail_at(99)(part, 0); }), std::runtime_error);
    std::size_t after = 0;
    for_each_in_order(10, 3, nothing, [&](std::size_t, std::size_t) { ++after; });
    EXPECT_EQ(after, 10U) << "work goes on as before afterwards";
  }
}

TEST(ProgressOfWork, IsHeardByOneAtATime) {
  const Threads threads(4);
  tell_progress("before anyone listens", 1, 0.1);
  std::vector<std::string> heard;
  listen_to_progress([&](const Progress& progress) {
    heard.push_back(progress.work + " " + std::to_string(progress.rows));
  });
  for_each_part(200, [](std::size_t part) { tell_progress("part", part, 0.5); });
  listen_to_progress({});
  tell_progress("after", 1, 1);
  ASSERT_EQ(heard.size(), 200U);
  std::sort(heard.begin(), heard.end());
  EXPECT_TRUE(std::unique(heard.begin(), heard.end()) == heard.end()) << "each part was heard once";
}

}  // namespace
}  // namespace opensum
