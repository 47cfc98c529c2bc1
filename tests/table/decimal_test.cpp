// Numbers as decimals, against exact fractions of whole numbers.
#include "table/decimal.h"

#include <gtest/gtest.h>

#include <bit>
#include <cmath>
#include <iostream>
#include <random>
#include <string>

#include "reference/exact.h"
#include "units/unit_system.h"

namespace opensum {
namespace {

using reference::Exact;

// digits / 10^places, as a double that was read and as the fraction that it stands for.
struct Typed {
  double number;
  Exact exact;
};

Typed typed(long digits, int places) {
  long scale = 1;
  for (int i = 0; i < places; ++i) scale *= 10;
  const std::string text = std::to_string(digits) + "e-" + std::to_string(places);
  return {std::strtod(text.c_str(), nullptr), Exact(digits) / scale};
}

TEST(Decimals, AreThoseOfTheTextOfANumber) {
  std::mt19937_64 random(5);
  std::size_t compared = 0;
  const auto check = [&](double value) {
    if (!std::isfinite(value)) return;
    const double expected = reference::nearest_double(reference::typed(value));
    ASSERT_EQ(as_typed(value), expected) << value;
    // The same decimal stays itself, and what is a step of a double away goes where its own text goes.
    ASSERT_EQ(as_typed(expected), expected) << value;
    ++compared;
  };
  for (int i = 0; i < 20'000; ++i) {
    if (i % 8 == 0) check(std::bit_cast<double>(random()));
    const double usual =
        static_cast<double>(random() % 2'000'000) / 1000 * std::pow(10, static_cast<int>(random() % 12) - 6);
    check(usual);
    check(std::nextafter(usual, HUGE_VAL));
    check(-usual * 1.1);
  }
  for (const double hard :
       {0.0, -0.0, 5e-324, 1e15, 1e15 + 0.125, 1e16, 9007199254740993.0, 999999999999999.9, 0.1 + 0.2,
        1.7976931348623157e308, 1e-7, 9.9999999999999995e-8, 123456789012345.6}) {
    check(hard);
  }
  std::cout << compared << " decimals compared with texts\n";
}

// Every pair of units that people mix, every number of two decimals: == < <= hold as they do on paper.
TEST(Decimals, CompareAcrossUnitsAsOnPaper) {
  const UnitSystem units;
  const struct {
    const char* coarse;
    const char* fine;
    int places;
  } pairs[] = {{"cm", "mm", 1}, {"L", "mL", 3},     {"1", "%", 2},  {"g", "mg", 3},    {"m", "cm", 2},
               {"kg", "g", 3},  {"bar", "mbar", 3}, {"V", "mV", 3}, {"kPa", "hPa", 1}, {"1", "ppm", 6}};
  std::size_t compared = 0;
  for (const auto& pair : pairs) {
    const Conversion there = conversion(*units.read(pair.fine).unit, *units.read(pair.coarse).unit);
    const Conversion back = conversion(*units.read(pair.coarse).unit, *units.read(pair.fine).unit);
    for (long k = 1; k < 1000; ++k) {
      // k / 100 of the coarse unit, and as many of the fine one; and one in the last place more and less.
      for (const long off : {-1L, 0L, 1L}) {
        const Typed coarse = typed(k, 2);
        const Typed fine = typed(k + off, 2);
        const double scale = std::pow(10, pair.places);
        const double in_fine =
            std::strtod((std::to_string(k + off) + "e" + std::to_string(pair.places - 2)).c_str(), nullptr);
        ASSERT_EQ(in_fine, std::nearbyint(in_fine * 100) / 100) << scale;
        const int expected = coarse.exact < fine.exact ? -1 : coarse.exact > fine.exact ? 1 : 0;
        ASSERT_EQ(compare_typed(coarse.number, there(in_fine)), expected) << k << " " << pair.coarse;
        ASSERT_EQ(compare_typed(back(coarse.number), in_fine), expected) << k << " " << pair.coarse;
        ASSERT_EQ(same_typed(there(in_fine), coarse.number), expected == 0);
        compared += 3;
      }
    }
  }
  std::cout << compared << " comparisons across units\n";
}

TEST(Decimals, RoundToStepsAsOnPaper) {
  const struct {
    long digits;
    int places;
  } steps[] = {{1, 2}, {1, 1}, {5, 2}, {25, 2},  {3, 2}, {5, 3},
               {7, 0}, {1, 0}, {2, 1}, {125, 3}, {1, 4}, {10, 0}};
  std::size_t compared = 0;
  for (const auto& by : steps) {
    const Typed step = typed(by.digits, by.places);
    for (long digits = -1500; digits <= 1500; ++digits) {
      for (const int places : {1, 2, 3}) {
        const Typed value = typed(digits, places);
        const Exact steps_in = value.exact / step.exact;
        const Exact below = reference::floor_of(steps_in);
        const Exact above = -reference::floor_of(-steps_in);
        const Exact part = steps_in - below;
        const bool even_below = reference::floor_of(below / 2) * 2 == below;
        const Exact half = part * 2 < 1 || (part * 2 == 1 && even_below) ? below : above;
        const auto check = [&](Rounding rounding, const Exact& expected) {
          ASSERT_EQ(rounded_typed(value.number, step.number, rounding),
                    reference::nearest_double(expected * step.exact))
              << value.number << " to " << step.number;
          ++compared;
        };
        check(Rounding::down, below);
        check(Rounding::up, above);
        check(Rounding::toward_zero, digits < 0 ? above : below);
        check(Rounding::half_even, half);
        ASSERT_EQ(modulo_typed(value.number, step.number),
                  reference::nearest_double(value.exact - below * step.exact))
            << value.number << " mod " << step.number;
        ASSERT_EQ(modulo_typed(value.number, -step.number),
                  -reference::nearest_double(above * step.exact - value.exact));
        compared += 2;
      }
    }
  }
  std::cout << compared << " roundings and remainders\n";
}

TEST(Decimals, LieWithinADistanceAsOnPaper) {
  std::mt19937 random(6);
  std::size_t compared = 0;
  std::size_t ties = 0;
  for (int i = 0; i < 60'000; ++i) {
    const Typed a = typed(static_cast<long>(random() % 20000) - 10000, 2);
    const Typed b = typed(static_cast<long>(random() % 200000) - 100000, 3);
    const Typed width = typed(static_cast<long>(random() % 40), 2);
    // One close to a, so that the width decides.
    const Typed close = {a.number + 0.0, a.exact};
    const Typed shifted_by = typed(static_cast<long>(random() % 80) - 40, 2);
    const Exact near_exact = close.exact + shifted_by.exact;
    const Typed near = {reference::nearest_double(near_exact), near_exact};
    for (const Typed& other : {b, near}) {
      const Exact distance = abs(a.exact - other.exact);
      ASSERT_EQ(within_typed(a.number, other.number, width.number), distance <= width.exact)
          << a.number << " " << other.number << " " << width.number;
      const Exact to_near = abs(a.exact - near.exact);
      const Exact mirrored = a.exact * 2 - near.exact;
      const Typed mirror = {reference::nearest_double(mirrored), mirrored};
      ASSERT_EQ(nearer_typed(a.number, near.number, mirror.number), 0) << a.number << " " << near.number;
      ASSERT_EQ(nearer_typed(a.number, other.number, near.number), distance < to_near   ? -1
                                                                   : distance > to_near ? 1
                                                                                        : 0);
      ties += distance == width.exact ? 1 : 0;
      compared += 3;
    }
  }
  std::cout << compared << " distances compared, " << ties << " of them as long as allowed\n";
  EXPECT_GT(ties, 500U);
}

TEST(Decimals, OfUnlikeSizes) {
  EXPECT_EQ(modulo_typed(5, 1e30), 5);
  EXPECT_EQ(modulo_typed(-5, 1e30), 1e30);
  EXPECT_EQ(modulo_typed(1e300, 7), reference::nearest_double([] {
              const Exact value = reference::typed(1e300);
              return Exact(value - reference::floor_of(value / 7) * 7);
            }()));
  EXPECT_EQ(rounded_typed(5, 1e30, Rounding::up), 1e30);
  EXPECT_EQ(rounded_typed(-5, 1e30, Rounding::down), -1e30);
  EXPECT_EQ(rounded_typed(5e29, 1e30, Rounding::half_even), 0);
  EXPECT_EQ(rounded_typed(1e300, 1e-300, Rounding::half_even), 1e300);
  EXPECT_TRUE(std::isinf(rounded_typed(1.7e308, 1e308, Rounding::up)));
  EXPECT_TRUE(within_typed(1e300, 1e-300, 1e300));
  EXPECT_FALSE(within_typed(1e300, 1e-300, 1e-300));
}

}  // namespace
}  // namespace opensum
