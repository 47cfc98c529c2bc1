// One trial of many in which what is uncertain is drawn at random.
#pragma once

#include <cstdint>

namespace opensum {

/// The draws of a trial. Each is a function of the seed, the trial and what is drawn alone, so that the order
/// in which threads ask for them does not matter.
struct Trial {
  std::uint64_t seed = 1;
  std::uint64_t number = 0;

  /// Of place `place` of a kind of unknowns: normal with mean 0 and variance 1.
  double normal(std::uint64_t kind, std::uint64_t place) const;
  /// The same, rectangular between -√3 and √3.
  double rectangular(std::uint64_t kind, std::uint64_t place) const;
};

}  // namespace opensum
