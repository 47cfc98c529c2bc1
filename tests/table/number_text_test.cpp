// The fast ways of reading and writing numbers against the libraries' own.
#include "table/number_text.h"

#include <fmt/printf.h>
#include <gtest/gtest.h>

#include <bit>
#include <cmath>
#include <cstdlib>
#include <random>
#include <vector>

#include "table/usual_number.h"

namespace opensum {
namespace {

// Whether a text is a number of up to 15 digits with neither exponent nor plus, byte by byte.
bool is_usual(const std::string& text) {
  std::size_t digits = 0;
  std::size_t points = 0;
  for (std::size_t i = text.starts_with('-') ? 1 : 0; i < text.size(); ++i) {
    if (text[i] == '.') {
      ++points;
    } else if (text[i] >= '0' && text[i] <= '9') {
      ++digits;
    } else {
      return false;
    }
  }
  return points <= 1 && digits > 0 && digits <= 15;
}

TEST(UsualNumbers, AreToldApartAsTheyAreRead) {
  std::mt19937 random(5);
  const std::string letters = "0123456789-.+e ";
  std::size_t usual = 0;
  for (int turn = 0; turn < 200'000; ++turn) {
    std::string text;
    for (std::size_t size = random() % 18; size > 0; --size)
      text += letters[random() % (turn % 2 == 0 ? letters.size() : 12)];
    double value = 0;
    // The text in an array of its own size, so that a look beyond it is seen under sanitizers.
    const std::vector<char> exact(text.begin(), text.end());
    const std::string_view view(exact.data(), exact.size());
    const bool read = read_usual_number(view, value);
    ASSERT_EQ(read, is_usual(text)) << text;
    if (read) {
      ++usual;
      ASSERT_EQ(value, std::strtod(text.c_str(), nullptr)) << text;
    }
  }
  EXPECT_GT(usual, 10'000U);
}

// What the C library writes with twelve significant digits, with exponents in our form.
std::string by_library(double value) {
  std::string text = fmt::sprintf("%.12g", value);
  const std::size_t exponent = text.find('e');
  if (exponent == std::string::npos) return text;
  std::string power = text.substr(exponent + 1);
  const bool negative = power[0] == '-';
  power.erase(0, 1);
  power.erase(0, power.find_first_not_of('0'));
  return text.substr(0, exponent) + "e" + (negative ? "-" : "") + power;
}

TEST(NumberText, WritesTwelveDigitsAsTheLibraryDoes) {
  std::mt19937_64 random(5);
  std::uniform_real_distribution<double> exponent(-6, 13);
  std::size_t compared = 0;
  for (int i = 0; i < 400000; ++i) {
    const double value = (i % 2 == 0 ? 1 : -1) * std::pow(10, exponent(random));
    if (value == std::floor(value)) continue;
    ASSERT_EQ(number_text(value), by_library(value)) << value;
    ++compared;
  }
  // Halves of the last digit, powers of ten and their neighbours, where rounding is decided by a hair.
  for (int power = -5; power <= 12; ++power) {
    for (const double factor :
         {1.0, 9.99999999999949, 9.9999999999995, 1.000000000005, 1.0000000000005, 1.25, 9.5}) {
      const double base = factor * std::pow(10, power);
      for (const double value : {base, std::nextafter(base, 0), std::nextafter(base, 1e300)}) {
        if (value == std::floor(value)) continue;
        ASSERT_EQ(number_text(value), by_library(value)) << fmt::format("{}", value);
        ++compared;
      }
    }
  }
  for (int i = 0; i < 20000; ++i) {
    const double half = (static_cast<double>(random() % 1000000) + 0.5) / 1048576;
    ASSERT_EQ(number_text(half), by_library(half)) << fmt::format("{}", half);
    ++compared;
  }
  EXPECT_GT(compared, 400000U);
}

TEST(NumberText, ReadsNumbersAsTheLibraryDoes) {
  std::mt19937_64 random(9);
  std::size_t compared = 0;
  for (int i = 0; i < 300000; ++i) {
    std::string text = random() % 3 == 0 ? "-" : "";
    const std::size_t whole = random() % 18;
    const std::size_t fraction = random() % 18;
    for (std::size_t d = 0; d < whole; ++d) text += static_cast<char>('0' + random() % 10);
    if (fraction > 0 || random() % 4 == 0) text += '.';
    for (std::size_t d = 0; d < fraction; ++d) text += static_cast<char>('0' + random() % 10);
    if (random() % 5 == 0) text += fmt::format("e{}", static_cast<int>(random() % 40) - 20);
    const NumberReading reading = read_number(text);
    const bool good = whole + fraction > 0;
    ASSERT_EQ(reading.fault == NumberFault::none, good) << text;
    if (!good) continue;
    ASSERT_EQ(std::bit_cast<std::uint64_t>(reading.value),
              std::bit_cast<std::uint64_t>(std::strtod(text.c_str(), nullptr)))
        << text;
    ++compared;
  }
  EXPECT_GT(compared, 290000U);
  for (const char* text :
       {"", "-", ".", "-.", "1.2.3", "1,5", "--1", "1-", "+-1", "1e", "1e+", " 1", "0x1", "inf"})
    EXPECT_EQ(read_number(text).fault, NumberFault::malformed) << text;
}

}  // namespace
}  // namespace opensum
