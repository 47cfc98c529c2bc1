// Values beside their errors: what is written says both, to the place that the error allows.
#include "table/value_with_error.h"

#include <gtest/gtest.h>

#include <cmath>
#include <cstdlib>
#include <random>
#include <string>

namespace opensum {
namespace {

TEST(ValueWithError, IsRoundedToTwoDigitsOfTheError) {
  const struct {
    double value;
    double error;
    const char* text;
  } rows[] = {
      {2.93332, 0.03512, "2.933(35)"},
      {0.604855, 0.0047, "0.6049(47)"},
      {-5.9975, 0.55, "-6.00(55)"},
      {100.02147, 0.00035, "100.02147(35)"},
      {1234.5, 148, "1230(150)"},
      {0.12, 5.2, "0.1(5.2)"},
      {12.34, 9.96, "12(10)"},
      {0.123, 0.0996, "0.12(10)"},
      {0, 0.5, "0.00(50)"},
      {-0.001, 0.5, "0.00(50)"},
      {7, 0, "7"},
      {1.5, std::nan(""), "1.5"},
      {2, 1e-16, "2"},
      {3.2e-12, 4.5e-14, "3.200(45)e-12"},
      {6.02214e23, 1.1e19, "6.02214(11)e+23"},
  };
  for (const auto& row : rows) EXPECT_EQ(value_with_error(row.value, row.error), row.text);
}

// Whatever is read back differs by no more than half a unit of the last place, in the value and in the error.
TEST(ValueWithError, IsReadBackToItsLastPlace) {
  std::mt19937 random(21);
  std::uniform_real_distribution<double> size(-20, 20);
  std::uniform_real_distribution<double> ratio(-6, 1.5);
  std::uniform_real_distribution<double> digits(1, 10);
  for (int turn = 0; turn < 20'000; ++turn) {
    const double value = (turn % 2 == 0 ? 1 : -1) * digits(random) * std::pow(10, std::floor(size(random)));
    const double error = std::fabs(value) * std::pow(10, ratio(random));
    const std::string text = value_with_error(value, error);
    const std::size_t open = text.find('(');
    const std::size_t close = text.find(')');
    ASSERT_NE(open, std::string::npos) << value << " " << error << " " << text;
    const double scale =
        close + 1 < text.size() ? std::strtod(("1" + text.substr(close + 1)).c_str(), nullptr) : 1;
    const std::string before = text.substr(0, open);
    const std::string inside = text.substr(open + 1, close - open - 1);
    const std::size_t point = before.find('.');
    const double place = point == std::string::npos ? 1 : std::pow(10, -double(before.size() - point - 1));
    const double of_error = std::strtod(inside.c_str(), nullptr) *
                            (point != std::string::npos && inside.find('.') == std::string::npos ? place : 1);
    const double unit = std::pow(10, std::floor(std::log10(error) + 1e-9) - 1);
    EXPECT_NEAR(std::strtod(before.c_str(), nullptr) * scale, value,
                0.51 * std::max(unit * 10, place * scale))
        << text;
    EXPECT_NEAR(of_error * scale, error, 0.051 * error) << text;
  }
}

TEST(ShareText, ShowsTwoDigitsOfWhatItLacks) {
  EXPECT_EQ(share_text(0.998985), "0.9990");
  EXPECT_EQ(share_text(0.999563), "0.99956");
  EXPECT_EQ(share_text(0.5), "0.500");
  EXPECT_EQ(share_text(-0.99), "-0.990");
  EXPECT_EQ(share_text(1), "1");
  EXPECT_EQ(share_text(-1), "-1");
}

}  // namespace
}  // namespace opensum
