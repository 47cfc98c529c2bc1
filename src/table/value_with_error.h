// A value beside its standard error as people read it: both to the place that the error allows.
#pragma once

#include <string>

namespace opensum {

/// `2.933(35)`: the error to two significant digits and the value to the same place (JCGM 100:2008, 7.2.2 and
/// 7.2.6). The digits in brackets count in the last place of the value; where the error has a point itself it
/// is written with it, as in `0.1(5.2)`, and past the point in full, as in `1230(150)`. Sizes that
/// number_text writes with an exponent have one behind the brackets, `1.234(56)e-09`. Without an error, or
/// one that is no number or nothing but rounding, the value alone to six digits.
std::string value_with_error(double value, double error);

/// How many significant digits people are shown of a number without an error.
constexpr int kShownDigits = 6;

/// A share of one that is close to it, as a squared correlation, with two digits of what it lacks, and from
/// three to eight decimals: 0.998985 as `0.9990`, 0.5 as `0.500`.
std::string share_text(double value);

}  // namespace opensum
