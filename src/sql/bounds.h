// How large the numbers of a column may be: what an operation of the database may be given without an error
// of its own.
#pragma once

#include <limits>

namespace opensum {

constexpr double kMostNumber = std::numeric_limits<double>::max();

/// Bounds of the known numbers of a column.
struct Bounds {
  double least = 0;
  double greatest = 0;
  /// None but zeros are nearer to zero than this.
  double tiny = 0;
  /// All are whole numbers of at most 15 digits.
  bool whole = false;

  /// Those of a single number.
  static Bounds of(double number);
  /// Whatever is usual: nothing beyond 10^30, nothing nearer to zero than 10^-30.
  static Bounds usual();
  /// Whatever there is.
  static Bounds any();

  double size() const;  ///< the greatest magnitude
  bool holds_zero() const { return least <= 0 && greatest >= 0; }
};

/// The bounds of what arithmetic gives, a little wider than exact ones.
Bounds sum_of(const Bounds& a, const Bounds& b);
Bounds difference_of(const Bounds& a, const Bounds& b);
Bounds product_of(const Bounds& a, const Bounds& b);
/// Where b is not zero.
Bounds quotient_of(const Bounds& a, const Bounds& b);
/// Of numbers of either.
Bounds either(const Bounds& a, const Bounds& b);

/// Whether numbers are so far from the ends of what a double holds that no result of one operation rounds to
/// infinity or to zero.
bool is_moderate(const Bounds& bounds);

}  // namespace opensum
