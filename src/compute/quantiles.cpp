// Quantiles of the distributions that intervals are made of.
#include "compute/quantiles.h"

#include <boost/math/distributions/chi_squared.hpp>
#include <boost/math/distributions/normal.hpp>
#include <boost/math/distributions/students_t.hpp>
#include <cmath>

#include "equation/operation.h"

namespace opensum {
namespace {

// What no double holds is infinite, and what cannot be found is no number, instead of an exception.
using Quiet = boost::math::policies::policy<
    boost::math::policies::domain_error<boost::math::policies::ignore_error>,
    boost::math::policies::overflow_error<boost::math::policies::ignore_error>,
    boost::math::policies::evaluation_error<boost::math::policies::ignore_error>>;
using StudentsT = boost::math::students_t_distribution<double, Quiet>;
using ChiSquared = boost::math::chi_squared_distribution<double, Quiet>;
using Normal = boost::math::normal_distribution<double, Quiet>;

}  // namespace

bool is_quantile(Op op) {
  return op == Op::t_quantile || op == Op::normal_quantile || op == Op::chi2_quantile;
}

double quantile(Op op, double p, double freedom) {
  const bool has_freedom = op == Op::normal_quantile || (freedom > 0 && std::isfinite(freedom));
  if (!(p > 0 && p < 1) || !has_freedom) return std::nan("");
  switch (op) {
    case Op::t_quantile:
      return boost::math::quantile(StudentsT(freedom), p);
    case Op::chi2_quantile:
      return boost::math::quantile(ChiSquared(freedom), p);
    case Op::normal_quantile:
      return boost::math::quantile(Normal(), p);
    default:
      not_computed(op, "quantile");
  }
}

double slope_of_quantile(Op op, double value, double freedom) {
  if (std::isnan(value)) return value;
  switch (op) {
    case Op::t_quantile:
      return 1 / boost::math::pdf(StudentsT(freedom), value);
    case Op::chi2_quantile:
      return 1 / boost::math::pdf(ChiSquared(freedom), value);
    case Op::normal_quantile:
      return 1 / boost::math::pdf(Normal(), value);
    default:
      not_computed(op, "slope_of_quantile");
  }
}

}  // namespace opensum
