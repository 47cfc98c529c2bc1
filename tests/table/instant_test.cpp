// Instants against exact arithmetic, over all years.
#include "table/instant.h"

#include <gtest/gtest.h>

#include <boost/multiprecision/cpp_int.hpp>
#include <cmath>
#include <random>

#include "table/date_text.h"

namespace opensum {
namespace {

using Integer = boost::multiprecision::cpp_int;
using Exact = boost::multiprecision::cpp_rational;

constexpr std::int64_t kFirst = -62135596800;   // 0001-01-01
constexpr std::int64_t kBehind = 253402300800;  // 10000-01-01

Integer count_of(const Instant& instant) {
  const SecondsAndNanoseconds parts = parts_of(instant);
  return Integer(parts.seconds) * 1'000'000'000 + parts.nanoseconds;
}

class Instants : public testing::Test {
 protected:
  std::int64_t seconds() {
    // As often near one another as far apart.
    switch (random_() % 4) {
      case 0:
        return static_cast<std::int64_t>(random_() % 10) - 5;
      case 1:
        return 1'900'000'000 + static_cast<std::int64_t>(random_() % 100);
      default:
        return kFirst + static_cast<std::int64_t>(random_() % static_cast<std::uint64_t>(kBehind - kFirst));
    }
  }
  std::int64_t nanoseconds() {
    const auto any = static_cast<std::int64_t>(random_() % 1'000'000'000);
    switch (random_() % 4) {
      case 0:
        return any / 1'000'000 * 1'000'000;
      case 1:
        return any % 2 == 0 ? 0 : 999'999'999;
      default:
        return any;
    }
  }

  std::mt19937_64 random_{20310402};
};

TEST_F(Instants, KeepEveryNanosecondAndTheirOrder) {
  for (int i = 0; i < 200'000; ++i) {
    const std::int64_t s = seconds();
    const std::int64_t n = nanoseconds();
    const Instant instant = instant_of(s, n);
    ASSERT_EQ(parts_of(instant).seconds, s) << s << " " << n;
    ASSERT_EQ(parts_of(instant).nanoseconds, n) << s << " " << n;
    // The same whichever way it is said.
    ASSERT_EQ(instant_of(s - 2, n + 2'000'000'000), instant);
    ASSERT_EQ(instant_of(s + 2, n - 2'000'000'000), instant);
    const Instant next = instant_of(s, n + 1);
    ASSERT_LT(instant, next) << s << " " << n;
    ASSERT_NE(instant, next);
    ASSERT_EQ(read_date(date_text(instant, true)), instant) << date_text(instant, true);
  }
}

TEST_F(Instants, DifferAsExactNumbersDo) {
  for (int i = 0; i < 200'000; ++i) {
    const Instant a = instant_of(seconds(), nanoseconds());
    const Instant b = random_() % 2 == 0 ? instant_of(seconds(), nanoseconds())
                                         : later(a, static_cast<double>(random_() % 5000) / 1e6);
    const Integer apart = count_of(b) - count_of(a);
    const double between = seconds_between(a, b);
    // Within half a unit of the last place, and what one rounding more to 64 bits adds.
    const Exact exact(apart, 1'000'000'000);
    ASSERT_LE(abs(Exact(Exact(between) - exact)), abs(exact) * Exact(1.112e-16))
        << date_text(a) << " " << date_text(b);
    ASSERT_EQ(seconds_between(b, a), -between);
    ASSERT_EQ(apart<0, a> b);
    ASSERT_EQ(between == 0, a == b);
  }
  const Instant start = *read_date("2026-03-04T09:00:00.000001");
  EXPECT_EQ(seconds_between(start, *read_date("2026-03-04T09:00:00.000002")), 1e-6);
  EXPECT_EQ(seconds_between(*read_date("2026-03-04T09:00:01.999"), *read_date("2026-03-04T09:00:02")), 0.001);
}

TEST_F(Instants, AreMovedToTheNearestNanosecond) {
  for (int i = 0; i < 200'000; ++i) {
    const Instant from = instant_of(seconds(), nanoseconds());
    const double by =
        std::ldexp(static_cast<double>(random_() % 2'000'001) - 1e6, -static_cast<int>(random_() % 60)) *
        (random_() % 2 == 0 ? 1.0 : 1e-3);
    const Instant to = later(from, by);
    const Exact off = Exact(count_of(to)) - Exact(count_of(from)) - Exact(by) * 1'000'000'000;
    ASSERT_LE(abs(off), Exact(1, 2) + Exact(1, 1'000'000)) << date_text(from) << " and " << by;
  }
  EXPECT_EQ(date_text(later(*read_date("2031-04-02"), 1e-9)), "2031-04-02T00:00:00.000000001");
  EXPECT_EQ(date_text(instant_between(*read_date("2031-04-02"), *read_date("2031-04-03"), 0.5)),
            "2031-04-02T12:00:00");
  EXPECT_FALSE(std::isfinite(later(*read_date("2031-04-02"), HUGE_VAL).seconds));
}

TEST_F(Instants, OfDoublesKeepTheirMicroseconds) {
  for (int i = 0; i < 100'000; ++i) {
    const std::int64_t micros =
        1'600'000'000'000'000 + static_cast<std::int64_t>(random_() % 800'000'000'000'000);
    const double seconds = static_cast<double>(micros) / 1e6;
    ASSERT_EQ(instant_near(seconds), instant_of(micros / 1'000'000, micros % 1'000'000 * 1000));
  }
}

TEST(DateText, RoundsDigitsBehindTheNinth) {
  EXPECT_EQ(date_text(*read_date("2031-04-02T10:00:00.1234567894")), "2031-04-02T10:00:00.123456789");
  EXPECT_EQ(date_text(*read_date("2031-04-02T10:00:00.9999999996")), "2031-04-02T10:00:01");
  EXPECT_EQ(date_text(*read_date("2031-04-02T23:59:60.5")), "2031-04-03T00:00:00.5");
  EXPECT_EQ(date_text(*read_date("0001-01-01T00:00:00.000000001")), "0001-01-01T00:00:00.000000001");
  EXPECT_EQ(date_text(*read_date("9999-12-31T23:59:59.999999999")), "9999-12-31T23:59:59.999999999");
}

}  // namespace
}  // namespace opensum
