// Exact fractions of 64-bit integers: exponents of dimensions and offsets of temperature scales.
#pragma once

#include <cstdint>
#include <numeric>
#include <optional>
#include <string>
#include <string_view>

namespace opensum {

/// An exact fraction, always in lowest terms with a positive denominator. Arithmetic that leaves 64 bits
/// throws std::overflow_error.
class Rational {
 public:
  constexpr Rational() = default;
  constexpr Rational(std::int64_t whole) : numerator_(whole) {}  // NOLINT: whole numbers are fractions
  Rational(std::int64_t numerator, std::int64_t denominator);

  /// Reads `-1.5e3` exactly; nothing when the text is no plain decimal or does not fit.
  static std::optional<Rational> from_decimal(std::string_view text);

  std::int64_t numerator() const { return numerator_; }
  std::int64_t denominator() const { return denominator_; }
  bool is_zero() const { return numerator_ == 0; }
  bool is_integer() const { return denominator_ == 1; }
  double value() const { return static_cast<double>(numerator_) / static_cast<double>(denominator_); }
  /// `3`, `-1/2`.
  std::string text() const;

  friend Rational operator+(const Rational& a, const Rational& b);
  friend Rational operator-(const Rational& a, const Rational& b);
  friend Rational operator*(const Rational& a, const Rational& b);
  /// Precondition: b is not zero.
  friend Rational operator/(const Rational& a, const Rational& b);
  friend Rational operator-(const Rational& a) { return Rational(0) - a; }
  friend bool operator==(const Rational& a, const Rational& b) = default;
  friend bool operator<(const Rational& a, const Rational& b) { return (a - b).numerator_ < 0; }

 private:
  std::int64_t numerator_ = 0;
  std::int64_t denominator_ = 1;
};

}  // namespace opensum
