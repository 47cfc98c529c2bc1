// Axes: ranges, ticks and labels.
#include "figure/scale.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <set>

#include "figure/distribution.h"
#include "table/calendar.h"

namespace opensum {
namespace {

TEST(Scale, HasRoundTicksInsideItsRange) {
  for (const auto& [low, high] : {std::pair(0.0, 1.0),
                                  {4.02, 19.88},
                                  {-3.0, 7e5},
                                  {1e-9, 3e-9},
                                  {5.0, 5.0},
                                  {-2.0, -2.0},
                                  {0.0, 0.0},
                                  {1e12, 1e12 + 1},
                                  {1e-300, 2e-300}}) {
    const Scale scale = make_scale(low, high, 6);
    EXPECT_LT(scale.low, scale.high);
    EXPECT_LE(scale.low, low);
    EXPECT_GE(scale.high, high);
    EXPECT_GE(scale.ticks.size(), 3U) << low << " to " << high;
    EXPECT_LE(scale.ticks.size(), 13U) << low << " to " << high;
    EXPECT_EQ(std::set<std::string>(scale.labels.begin(), scale.labels.end()).size(), scale.labels.size())
        << "each label differs: " << low << " to " << high;
    for (const double tick : scale.ticks) {
      EXPECT_GE(tick, scale.low - 1e-9 * (scale.high - scale.low));
      EXPECT_LE(tick, scale.high + 1e-9 * (scale.high - scale.low));
    }
  }
}

TEST(Scale, LogarithmicOnesHaveTicksAtPowersOfTen) {
  for (const auto& [low, high] :
       {std::pair(0.5, 2000.0), {1e-9, 1e9}, {3.0, 7.0}, {5.0, 5.0}, {1e-300, 1e300}, {0.001, 0.0012}}) {
    const Scale scale = make_scale(low, high, 8, {true, std::nullopt, std::nullopt});
    EXPECT_LT(scale.low, low * (1 + 1e-12));
    EXPECT_GT(scale.high, high * (1 - 1e-12));
    EXPECT_LE(scale.ticks.size(), 18U) << low << " to " << high;
    EXPECT_EQ(std::set<std::string>(scale.labels.begin(), scale.labels.end()).size(), scale.labels.size());
    // Equal ratios are equal lengths.
    const double middle = std::sqrt(low) * std::sqrt(high);
    EXPECT_NEAR(scale.place(middle), (scale.place(low) + scale.place(high)) / 2, 1e-9)
        << low << " to " << high;
    EXPECT_NEAR(scale.place(scale.low), 0, 1e-12);
    EXPECT_NEAR(scale.place(scale.high), 1, 1e-12);
  }
  const Scale decades = make_scale(0.5, 2000, 8, {true, std::nullopt, std::nullopt});
  EXPECT_EQ(decades.labels, (std::vector<std::string>{"1", "10", "100", "1000"}));
}

TEST(Scale, ALogarithmicOneWithinAPowerOfTenHasEnoughTicks) {
  for (const double low : {1.0, 1.3, 2.1, 4.4, 6.0, 0.031, 730.0}) {
    for (const double times : {1.1, 1.5, 2.0, 4.0, 9.0}) {
      const Scale scale = make_scale(low, low * times, 6, {.logarithmic = true});
      EXPECT_GE(scale.ticks.size(), 3U) << low << " " << times;
      for (const double tick : scale.ticks) EXPECT_TRUE(scale.holds(tick)) << low << " " << times;
    }
  }
}

TEST(Scale, EndsThatAreGivenStay) {
  const Scale both = make_scale(3, 7, 6, {false, 0.0, 25.0});
  EXPECT_EQ(both.low, 0);
  EXPECT_EQ(both.high, 25);
  EXPECT_EQ(both.labels.front(), "0");
  EXPECT_EQ(both.labels.back(), "25");
  const Scale beyond = make_scale(3, 7, 6, {false, 10.0, std::nullopt});
  EXPECT_EQ(beyond.low, 10);
  EXPECT_GT(beyond.high, 10);
  const Scale logarithmic = make_scale(3, 7, 6, {true, 1.0, 100.0});
  EXPECT_EQ(logarithmic.low, 1);
  EXPECT_EQ(logarithmic.high, 100);
}

TEST(Scale, HoldsTheWholeRangeOfDoubles) {
  const Scale scale = make_scale(-1.7e308, 1.7e308, 6);
  EXPECT_NEAR(scale.place(0), 0.5, 1e-9);
  EXPECT_GE(scale.ticks.size(), 3U);
  EXPECT_LE(scale.place(1.7e308), 1);
}

TEST(Scale, DatesHaveTicksWhereTheCalendarTurns) {
  const double start = *seconds_of({2031, 2, 27, 0});
  for (const double length : {3.0, 50.0, 4000.0, 86400.0, 3 * 86400.0, 40 * 86400.0, 400 * 86400.0, 4e9}) {
    const Scale scale = make_date_scale(start + 12345, start + 12345 + length, 7);
    EXPECT_GE(scale.ticks.size(), 2U) << length;
    EXPECT_LE(scale.ticks.size(), 9U) << length;
    for (std::size_t i = 0; i < scale.ticks.size(); ++i) {
      const CalendarDate date = calendar_date(scale.ticks[i]);
      EXPECT_TRUE(scale.holds(scale.ticks[i]));
      if (length > 86400 * 8) {
        EXPECT_EQ(date.clock, 0) << "a day begins";
      }
      if (length > 86400 * 300) {
        EXPECT_EQ(date.day, 1) << "a month begins";
      }
      if (length > 86400 * 4000.0) {
        EXPECT_EQ(date.month, 1) << "a year begins";
      }
    }
  }
  const Scale day = make_date_scale(start + 3600, start + 9 * 3600, 7);
  EXPECT_EQ(day.labels.front(), "02:00");
  EXPECT_EQ(day.shared_date, "2031-02-27");
  const Scale month = make_date_scale(start, start + 5 * 86400, 7);
  EXPECT_EQ(month.labels[1], "28 Feb");
  EXPECT_EQ(month.labels[2], "1 Mar");
  EXPECT_EQ(month.shared_date, "2031");
}

TEST(Bins, HoldEveryValueOnce) {
  for (const auto& values : {std::vector<double>{1, 2, 3, 4, 5, 6, 7, 8, 9, 10},
                             {5, 5, 5},
                             {7},
                             {-1e300, 1e300},
                             {0, 1e-9, 2e-9}}) {
    for (const std::size_t wanted : {std::size_t{0}, std::size_t{1}, std::size_t{10}}) {
      const auto borders = bin_borders(values, wanted, false);
      ASSERT_GE(borders.size(), 2U);
      EXPECT_LE(borders.size(), 130U);
      EXPECT_TRUE(std::is_sorted(borders.begin(), borders.end()));
      std::size_t sum = 0;
      for (const std::size_t count : bin_counts(values, borders)) sum += count;
      EXPECT_EQ(sum, values.size());
    }
  }
  const auto decades = bin_borders({1, 10, 100, 1000}, 3, true);
  ASSERT_EQ(decades.size(), 4U);
  for (std::size_t i = 0; i < 4; ++i) EXPECT_NEAR(decades[i] / std::pow(10, i), 1, 1e-12);
  EXPECT_EQ(bin_counts({0, 1, 1, 2}, {0, 1, 2}), (std::vector<std::size_t>{1, 3}));
}

TEST(Quartiles, AreThoseOfSmallSets) {
  const Quartiles five = quartiles_of({5, 1, 4, 2, 3});
  EXPECT_EQ(five.first, 2);
  EXPECT_EQ(five.median, 3);
  EXPECT_EQ(five.third, 4);
  EXPECT_EQ(five.low_whisker, 1);
  EXPECT_EQ(five.high_whisker, 5);
  const Quartiles far = quartiles_of({1, 2, 3, 4, 100});
  EXPECT_EQ(far.beyond, std::vector<double>{100});
  EXPECT_EQ(far.high_whisker, 4);
  EXPECT_EQ(quartiles_of({7}).median, 7);
}

}  // namespace
}  // namespace opensum
