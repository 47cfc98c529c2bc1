// What a quantity counts beside its dimension.
#include "units/counted.h"

#include <algorithm>

namespace opensum {
namespace {

int sign(const Rational& x) { return x.is_zero() ? 0 : x < 0 ? -1 : 1; }

Rational magnitude(const Rational& x) { return x < 0 ? -x : x; }

// The smaller of two magnitudes, with the sign of the first.
Rational common(const Rational& a, const Rational& b) {
  const Rational least = std::min(magnitude(a), magnitude(b));
  return sign(a) < 0 ? -least : least;
}

bool opposite(const Rational& a, const Rational& b) { return sign(a) * sign(b) < 0; }
bool alike(const Rational& a, const Rational& b) { return sign(a) * sign(b) > 0; }

// Takes away turns, those without a name first.
void take_turns(Counted& counted, const Rational& amount) {
  const Rational cycles = alike(counted.cycles, amount) ? common(amount, counted.cycles) : Rational(0);
  counted.cycles = counted.cycles - cycles;
  counted.turns = counted.turns - (amount - cycles);
}

}  // namespace

Counted operator*(const Counted& a, const Counted& b) {
  return {a.turns + b.turns,   a.cycles + b.cycles, a.angle + b.angle,
          a.decays + b.decays, a.pi + b.pi,         a.per_cycle + b.per_cycle};
}

Counted operator/(const Counted& a, const Counted& b) { return a * b.power(-1); }

Counted Counted::power(const Rational& exponent) const {
  return {turns * exponent,  cycles * exponent, angle * exponent,
          decays * exponent, pi * exponent,     per_cycle * exponent};
}

Counted paired(Counted counted, bool alone) {
  if (opposite(counted.turns, counted.cycles)) {
    const Rational both = common(counted.turns, counted.cycles);
    counted.turns = counted.turns - both;
    counted.cycles = counted.cycles + both;
  }
  if (opposite(counted.per_cycle, counted.all_turns())) {
    const Rational both = common(counted.all_turns(), counted.per_cycle);
    take_turns(counted, both);
    counted.per_cycle = counted.per_cycle + both;
  }
  if (alike(counted.pi, counted.all_turns())) {
    const Rational both = common(counted.pi, counted.all_turns());
    take_turns(counted, both);
    counted.pi = counted.pi - both;
    counted.angle = counted.angle + both;
  }
  if (alone && opposite(counted.pi, counted.angle)) {
    const Rational both = common(counted.angle, counted.pi);
    counted.angle = counted.angle - both;
    counted.pi = counted.pi + both;
    counted.cycles = counted.cycles + both;
  }
  // An angle times turns, as in `360 [deg] * f`, is the angle of each turn times the turns.
  if (alike(counted.angle, counted.all_turns())) {
    take_turns(counted, common(counted.all_turns(), counted.angle));
  }
  return counted;
}

Counted without_named_turns(Counted counted) {
  if (opposite(counted.turns, counted.angle)) {
    const Rational both = common(counted.turns, counted.angle);
    counted.turns = counted.turns - both;
    counted.angle = counted.angle + both;
  }
  return counted;
}

CountChange count_change(const Counted& source, const Counted& target, bool alone) {
  const Counted from = paired(source, alone);
  const Counted to = paired(target, alone);
  const auto fails = [](CountFault fault) { return CountChange{fault, 0}; };
  const Rational vanishing = from.all_turns() - to.all_turns();
  const bool turns_or_angles_here = !from.all_turns().is_zero() || !from.angle.is_zero();
  const bool turns_or_angles_there = !to.all_turns().is_zero() || !to.angle.is_zero();
  if (alone && ((!from.decays.is_zero() && to.decays.is_zero() && turns_or_angles_there) ||
                (!to.decays.is_zero() && from.decays.is_zero() && turns_or_angles_here))) {
    return fails(CountFault::decays);
  }
  if (vanishing.is_zero()) return {};
  // Named turns become the angle that is named on the other side, and the other way round.
  if (from.cycles == to.cycles && to.angle - from.angle == vanishing) return {CountFault::none, vanishing};
  // What is left of the Planck constant is per cycle where that fits, and of pi the radians of half a turn.
  if (alike(from.per_cycle, -vanishing) && !(magnitude(from.per_cycle) < magnitude(vanishing))) return {};
  if (alike(from.pi, vanishing) && !(magnitude(from.pi) < magnitude(vanishing))) return {};
  if (!alone) return fails(CountFault::turns_left);
  const bool angle_for_turns = (!from.angle.is_zero() && from.all_turns().is_zero()) ||
                               (!to.angle.is_zero() && to.all_turns().is_zero()) ||
                               opposite(from.angle, from.all_turns());
  if (angle_for_turns) return fails(CountFault::turns_and_angles);
  if (!to.turns.is_zero() && from.all_turns().is_zero()) return fails(CountFault::turns_unsaid);
  return {};
}

}  // namespace opensum
