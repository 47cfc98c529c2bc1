// Exact fractions and factors.
#include "units/rational.h"

#include <gtest/gtest.h>

#include "units/factor.h"

namespace opensum {
namespace {

TEST(Rational, KeepsLowestTerms) {
  EXPECT_EQ(Rational(6, -4), Rational(-3, 2));
  EXPECT_EQ(Rational(1, 3) + Rational(1, 6), Rational(1, 2));
  EXPECT_EQ(Rational(1, 3) * Rational(3, 5), Rational(1, 5));
  EXPECT_EQ(Rational(-3, 2).text(), "-3/2");
  EXPECT_LT(Rational(1, 3), Rational(1, 2));
}

TEST(Rational, ReadsDecimalsExactly) {
  EXPECT_EQ(*Rational::from_decimal("0.5"), Rational(1, 2));
  EXPECT_EQ(*Rational::from_decimal("-1.25e2"), Rational(-125));
  EXPECT_EQ(*Rational::from_decimal("3e-1"), Rational(3, 10));
  EXPECT_FALSE(Rational::from_decimal("1e400"));
  EXPECT_FALSE(Rational::from_decimal("1.2.3"));
  EXPECT_FALSE(Rational::from_decimal("x"));
  EXPECT_FALSE(Rational::from_decimal(""));
}

TEST(Rational, RefusesToOverflow) {
  const Rational large(INT64_MAX / 2);
  EXPECT_THROW(large * large, std::overflow_error);
}

TEST(Factor, IsTheNearestDouble) {
  EXPECT_EQ(Factor::from_decimal("1.602176634e-19")->value(), 1.602176634e-19);
  EXPECT_EQ(Factor::from_decimal("0.1")->value(), 0.1);
  EXPECT_EQ(Factor::ten_to(-24).value(), 1e-24);
  EXPECT_EQ((Factor::pi() / Factor::integer(180)).value(), 3.14159265358979323846 / 180);
  EXPECT_EQ(Factor::integer(2).power(Rational(1, 2)).value(), 1.4142135623730951);
  EXPECT_TRUE((Factor::from_decimal("0.3048").value() / Factor::from_decimal("0.3048").value()).is_one());
}

TEST(Factor, RefusesWhatIsNoPositiveDecimal) {
  for (const char* text : {"0", "-1", "abc", "1e", "1.2.3", "1234567890123456789012"}) {
    EXPECT_FALSE(Factor::from_decimal(text)) << text;
  }
}

}  // namespace
}  // namespace opensum
