// One trial of many in which what is uncertain is drawn at random.
#include "base/trial.h"

#include <cmath>
#include <numbers>

namespace opensum {
namespace {

// The finalizer of SplitMix64 (Steele, Lea, Flood, OOPSLA 2014), which spreads every bit over all.
std::uint64_t mixed(std::uint64_t x) {
  x += 0x9E3779B97F4A7C15U;
  x = (x ^ (x >> 30U)) * 0xBF58476D1CE4E5B9U;
  x = (x ^ (x >> 27U)) * 0x94D049BB133111EBU;
  return x ^ (x >> 31U);
}

std::uint64_t bits_of(const Trial& trial, std::uint64_t kind, std::uint64_t place) {
  return mixed(mixed(mixed(mixed(trial.seed) ^ trial.number) ^ kind) ^ place);
}

// Between 0 and 1, neither of them.
double part(std::uint64_t bits) { return (static_cast<double>(bits >> 11U) + 0.5) * 0x1p-53; }

}  // namespace

double Trial::normal(std::uint64_t kind, std::uint64_t place) const {
  // Box and Muller, Ann. Math. Stat. 29 (1958) 610.
  const std::uint64_t first = bits_of(*this, kind, place);
  return std::sqrt(-2 * std::log(part(first))) * std::cos(2 * std::numbers::pi * part(mixed(first)));
}

double Trial::rectangular(std::uint64_t kind, std::uint64_t place) const {
  return std::sqrt(3.0) * (2 * part(bits_of(*this, kind, place)) - 1);
}

}  // namespace opensum
