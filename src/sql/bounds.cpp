// How large the numbers of a column may be.
#include "sql/bounds.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace opensum {
namespace {

constexpr double kLeast = std::numeric_limits<double>::denorm_min();
constexpr double kWide = 1 + 1e-12;

double clamped(double x) { return std::isnan(x) ? 0 : std::clamp(x, -kMostNumber, kMostNumber); }

Bounds from_corners(std::initializer_list<double> corners, double tiny, bool whole) {
  Bounds bounds;
  const auto [least, greatest] = std::minmax(corners);
  bounds.least = clamped(least < 0 ? least * kWide : least / kWide);
  bounds.greatest = clamped(greatest > 0 ? greatest * kWide : greatest / kWide);
  bounds.tiny = tiny / kWide;
  bounds.whole = whole && bounds.size() < 1e15;
  return bounds;
}

}  // namespace

double Bounds::size() const { return std::max(std::fabs(least), std::fabs(greatest)); }

Bounds Bounds::of(double number) {
  return {number, number, number == 0 ? 1 : std::fabs(number),
          number == std::floor(number) && std::fabs(number) < 1e15};
}

Bounds Bounds::usual() { return {-1e30, 1e30, 1e-30, false}; }

Bounds Bounds::any() { return {-kMostNumber, kMostNumber, kLeast, false}; }

// What is left of two numbers is nothing, or at least the last digit of the smaller one.
Bounds sum_of(const Bounds& a, const Bounds& b) {
  const bool one_side = (a.least >= 0 && b.least >= 0) || (a.greatest <= 0 && b.greatest <= 0);
  const double tiny = std::min(a.tiny, b.tiny) * (one_side ? 1 : 0x1p-53);
  return from_corners({a.least + b.least, a.greatest + b.greatest}, tiny, a.whole && b.whole);
}

Bounds difference_of(const Bounds& a, const Bounds& b) {
  return sum_of(a, {-b.greatest, -b.least, b.tiny, b.whole});
}

Bounds product_of(const Bounds& a, const Bounds& b) {
  return from_corners({clamped(a.least * b.least), clamped(a.least * b.greatest),
                       clamped(a.greatest * b.least), clamped(a.greatest * b.greatest)},
                      a.tiny * b.tiny, a.whole && b.whole);
}

Bounds quotient_of(const Bounds& a, const Bounds& b) {
  const double most = clamped(a.size() / b.tiny);
  const double tiny = b.size() == 0 ? 1 : a.tiny / b.size();
  // Of one sign where both are.
  const bool positive = (a.least >= 0 && b.least >= 0) || (a.greatest <= 0 && b.greatest <= 0);
  return from_corners({positive ? 0 : -most, most}, tiny, false);
}

Bounds either(const Bounds& a, const Bounds& b) {
  return {std::min(a.least, b.least), std::max(a.greatest, b.greatest), std::min(a.tiny, b.tiny),
          a.whole && b.whole};
}

bool is_moderate(const Bounds& bounds) {
  constexpr double kNear = 1e-300;
  constexpr double kFar = 1e300;
  return bounds.size() < kFar && bounds.tiny > kNear;
}

}  // namespace opensum
