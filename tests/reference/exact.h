// Numbers as exact fractions of the decimals that they stand for at 15 significant digits: the plain spelling
// of how numbers are compared and rounded, by way of their texts.
#pragma once

#include <boost/multiprecision/cpp_int.hpp>

namespace opensum::reference {

using Exact = boost::multiprecision::cpp_rational;

/// What a number is at 15 significant digits; whole numbers of up to 16 digits as they are.
Exact typed(double number);
/// The double nearest to a decimal fraction.
double nearest_double(const Exact& decimal);
/// The greatest whole number that is not above a fraction.
Exact floor_of(const Exact& fraction);

}  // namespace opensum::reference
