// What a quantity counts beside its dimension: turns, angles and decays, all of them plain numbers in
// algebra, yet a turn is 2 pi radians, so that taking one for the other would be wrong by that factor.
#pragma once

#include <cstdint>

#include "units/rational.h"

namespace opensum {

/// Exponents of what a quantity counts. They add up in products, and a plain number has none.
struct Counted {
  Rational turns;   ///< of r and rev: turns that are named, so that they convert to angles by 2 pi
  Rational cycles;  ///< of Hz, or of a quotient such as `omega / (2 * pi)`: turns that are not named
  Rational angle;   ///< of rad and deg
  Rational decays;  ///< of Bq and Ci
  /// Of the number pi, which may stand for the angle of half a turn, as in `2 * pi * f`, or for a number.
  Rational pi;
  /// Of the Planck constant, which is the energy per cycle of `h * f` and a plain action in `h * c / lambda`.
  Rational per_cycle;

  bool none() const { return *this == Counted(); }
  /// Turns, named or not.
  Rational all_turns() const { return turns + cycles; }
  friend bool operator==(const Counted& a, const Counted& b) = default;
  friend Counted operator*(const Counted& a, const Counted& b);
  friend Counted operator/(const Counted& a, const Counted& b);
  Counted power(const Rational& exponent) const;
};

/// The form in which what belongs together is paired: pi and turns make an angle. Where nothing but rates and
/// counts is at hand (`alone`), an angle over pi makes turns, too.
Counted paired(Counted counted, bool alone);

/// The same with named turns over angles, or angles over turns, as the plain numbers that they are, for
/// values that are converted to it by `count_change`.
Counted without_named_turns(Counted counted);

/// Why one cannot be given as the other.
enum class CountFault : std::uint8_t {
  none,
  turns_and_angles,  ///< cycles that are to be radians, or the other way round: 2 pi is missing
  turns_left,        ///< turns beside another dimension, where 2 pi may be missing
  turns_unsaid,      ///< a plain number or rate as named turns, which may as well be one of radians
  decays,            ///< decays as cycles or angles, or the other way round
};

struct CountChange {
  CountFault fault = CountFault::none;
  /// The power of 2 pi by which values are multiplied.
  Rational two_pi;
};

/// How what is counted changes from one unit to another of the same dimension; `alone` where that is 1 or a
/// power of time.
CountChange count_change(const Counted& from, const Counted& to, bool alone);

}  // namespace opensum
