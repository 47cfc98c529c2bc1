// Quantiles against the probabilities they stand for, and against printed tables.
#include "compute/quantiles.h"

#include <gtest/gtest.h>

#include <boost/math/special_functions/beta.hpp>
#include <boost/math/special_functions/gamma.hpp>
#include <cmath>

#include "equation/operation.h"

namespace opensum {
namespace {

// The probability that Student's t does not exceed t, by the incomplete beta function.
double t_probability(double t, double freedom) {
  const double tail = boost::math::ibeta(freedom / 2, 0.5, freedom / (freedom + t * t)) / 2;
  return t > 0 ? 1 - tail : tail;
}

TEST(Quantiles, AreWhereTheirProbabilityIsReached) {
  for (const double p : {1e-6, 0.005, 0.025, 0.3, 0.5, 0.8, 0.95, 0.975, 0.9999}) {
    const double normal = quantile(Op::normal_quantile, p, 1);
    EXPECT_NEAR(std::erfc(-normal / std::sqrt(2)) / 2, p, 1e-14) << p;
    for (const double freedom : {0.5, 1.0, 2.0, 3.7, 10.0, 61.0, 1000.0}) {
      EXPECT_NEAR(t_probability(quantile(Op::t_quantile, p, freedom), freedom), p, 1e-13)
          << p << " " << freedom;
      const double chi2 = quantile(Op::chi2_quantile, p, freedom);
      EXPECT_NEAR(boost::math::gamma_p(freedom / 2, chi2 / 2), p, 1e-13) << p << " " << freedom;
    }
  }
}

// Table G.2 of JCGM 100:2008 for 95 %, and values that any book of statistics has.
TEST(Quantiles, AreThoseOfTheTables) {
  EXPECT_NEAR(quantile(Op::t_quantile, 0.975, 1), 12.71, 0.005);
  EXPECT_NEAR(quantile(Op::t_quantile, 0.975, 8), 2.31, 0.005);
  EXPECT_NEAR(quantile(Op::t_quantile, 0.975, 50), 2.01, 0.005);
  EXPECT_NEAR(quantile(Op::normal_quantile, 0.975, 1), 1.959964, 5e-7);
  EXPECT_NEAR(quantile(Op::chi2_quantile, 0.95, 3), 7.814728, 5e-7);
}

TEST(Quantiles, HaveTheSlopeOfTheirDifferences) {
  for (const Op op : {Op::t_quantile, Op::normal_quantile, Op::chi2_quantile}) {
    for (const double p : {0.05, 0.4, 0.975}) {
      const double step = 1e-5;
      const double slope = (quantile(op, p + step, 7) - quantile(op, p - step, 7)) / (2 * step);
      EXPECT_NEAR(slope_of_quantile(op, quantile(op, p, 7), 7), slope, 1e-5 * slope) << p;
    }
  }
}

TEST(Quantiles, OfWhatIsNoProbabilityAreNone) {
  for (const double p : {-0.1, 0.0, 1.0, 1.5, std::nan("")}) {
    EXPECT_TRUE(std::isnan(quantile(Op::t_quantile, p, 5))) << p;
    EXPECT_TRUE(std::isnan(quantile(Op::normal_quantile, p, 1))) << p;
  }
  for (const double freedom : {0.0, -2.0, static_cast<double>(INFINITY)})
    EXPECT_TRUE(std::isnan(quantile(Op::chi2_quantile, 0.5, freedom))) << freedom;
}

}  // namespace
}  // namespace opensum
