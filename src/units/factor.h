// Exact positive factors between units: products of rational powers of primes and of pi.
#pragma once

#include <cstdint>
#include <optional>
#include <string_view>

#include "units/powers.h"

namespace opensum {

/// An exact positive number, held as its prime powers, so that products, quotients and roots stay exact.
/// The base 1 stands for pi. What is left of a number after division by all primes up to a million is kept
/// as one base.
class Factor {
 public:
  Factor() = default;
  static Factor integer(std::uint64_t value);
  static Factor ten_to(int exponent);
  static Factor pi();
  /// Reads a positive decimal such as `1.602176634e-19`; nothing when it is none or has over 18 digits.
  static std::optional<Factor> from_decimal(std::string_view text);

  bool is_one() const { return powers_.is_one(); }
  Factor power(const Rational& exponent) const { return Factor(powers_.power(exponent)); }
  friend Factor operator*(const Factor& a, const Factor& b) { return Factor(a.powers_ * b.powers_); }
  friend Factor operator/(const Factor& a, const Factor& b) { return Factor(a.powers_ / b.powers_); }
  friend bool operator==(const Factor& a, const Factor& b) = default;

  /// The nearest double.
  double value() const;
  /// Numerator and denominator where both are whole numbers that a double holds exactly.
  struct Fraction {
    double numerator = 1;
    double denominator = 1;
  };
  std::optional<Fraction> fraction() const;

 private:
  explicit Factor(Powers<std::uint64_t> powers) : powers_(std::move(powers)) {}
  Powers<std::uint64_t> powers_;
};

}  // namespace opensum
