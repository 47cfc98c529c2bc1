// Units of measurement: what they are, how they multiply, and how values convert between them.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "units/counted.h"
#include "units/factor.h"
#include "units/powers.h"

namespace opensum {

/// A base quantity: 0 to 6 are length, mass, time, electric current, thermodynamic temperature, amount of
/// substance and luminous intensity; higher numbers are base units that a study defined.
using BaseQuantity = std::uint16_t;
constexpr BaseQuantity kLength = 0;
constexpr BaseQuantity kMass = 1;
constexpr BaseQuantity kTime = 2;
constexpr BaseQuantity kCurrent = 3;
constexpr BaseQuantity kTemperature = 4;
constexpr BaseQuantity kAmount = 5;
constexpr BaseQuantity kLuminousIntensity = 6;
constexpr BaseQuantity kFirstOwnBase = 7;

using Dimension = Powers<BaseQuantity>;

/// One symbol of a unit as written, such as `kJ` or `s^-2`.
struct UnitPart {
  std::string symbol;
  Rational exponent = 1;
  /// The coherent SI symbols that stand for this one (`kJ`: J; `L`: m^3), each with its exponent.
  std::vector<std::pair<std::string, Rational>> coherent;
};

/// A unit: a dimension, an exact factor to the coherent SI unit, and the way it is written. A unit with
/// an offset is the scale of a reading (degC, degF): kelvin = value * factor + offset.
struct Unit {
  Dimension dimension;
  Factor factor;
  Rational offset = 0;
  Counted counted;
  std::vector<UnitPart> parts;

  bool is_reading() const { return !offset.is_zero(); }
  bool is_dimensionless() const { return dimension.is_one(); }
  /// No unit at all: dimensionless with factor 1 and no symbol.
  bool is_one() const { return dimension.is_one() && factor.is_one() && parts.empty(); }
  /// Nothing but counts, angles and their rates: the dimension is 1 or a power of time.
  bool is_count_or_rate() const;

  /// As people write it: `kJ/(kg K)`, `1/s`, `1` for none.
  std::string text() const;
  /// With raised exponents and a middle dot, for figures and pages: `kJ/(kg·K)`, `m·s⁻²`.
  std::string typeset() const;
};

/// Whether the exponents of a unit are within those that can be written and read (kMostExponent).
bool is_within_range(const Unit& unit);

/// The same scale and zero: values need no conversion.
bool same_scale(const Unit& a, const Unit& b);

/// How a value in one unit becomes a value in another: value * multiply / divide + add. Multiplying and
/// dividing by whole numbers keeps conversions such as g to kg exactly rounded.
struct Conversion {
  double multiply = 1;
  double divide = 1;
  double add = 0;
  bool is_identity() const { return multiply == 1 && divide == 1 && add == 0; }
  double operator()(double value) const {
    const double scaled = value * multiply / divide;
    return add == 0 ? scaled : scaled + add;
  }
};

/// Why values of one unit cannot be given in another: the dimensions differ, or what is counted does.
struct Mismatch {
  bool dimension = false;
  CountFault counted = CountFault::none;
  explicit operator bool() const { return dimension || counted != CountFault::none; }
};
Mismatch mismatch(const Unit& from, const Unit& to);
/// The same for two sides of a sum or comparison: neither may pass for the other.
Mismatch mismatch_of_sides(const Unit& a, const Unit& b);

/// The conversion from one unit to another of the same dimension. A reading converts as a point on its
/// scale; `difference` converts intervals, where offsets play no part.
Conversion conversion(const Unit& from, const Unit& to, bool difference = false);

/// Products as the algebra makes them, without changing any value: 3 kJ times 2 s is 6 kJ s. A plain number
/// leaves the other unit as it is written, and what it counts.
Unit product(const Unit& a, const Unit& b);
Unit quotient(const Unit& a, const Unit& b);
Unit power(const Unit& base, const Rational& exponent);

/// The simplest coherent SI unit of the same dimension: kJ/s becomes W. Products are never renamed to J, Gy
/// or Sv, for torque, energy and doses share dimensions. What is counted is kept and shown where it matters:
/// kHz becomes Hz, r/min r/s, deg/s rad/s and kBq Bq, while an angle beside another dimension is a plain
/// number.
Unit coherent(const Unit& unit);

/// The unit in which differences between readings are given: K for degC and degF, the unit itself otherwise.
/// Values that are still in the steps of the scale, such as differences of bare numbers in °F, are in the
/// unit of a step, and convert.
Unit difference_unit(const Unit& unit);
/// One step of a scale: as large as a degree Fahrenheit for degF, where it stands for its interval.
Unit step_unit(const Unit& unit);

Unit kelvin();
Unit second();
Unit radian();

}  // namespace opensum
