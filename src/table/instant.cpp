// Instants of time.
#include "table/instant.h"

#include <cmath>

namespace opensum {
namespace {

constexpr std::int64_t kNanoseconds = 1'000'000'000;
// More seconds than lie between any two dates.
constexpr double kMostSeconds = 1e12;

bool is_whole(double seconds) { return seconds == std::floor(seconds); }

}  // namespace

SecondsAndNanoseconds parts_of(const Instant& instant) {
  const double whole = std::floor(instant.seconds);
  const long double beyond = static_cast<long double>(instant.seconds - whole) + instant.rest;
  SecondsAndNanoseconds parts{static_cast<std::int64_t>(whole),
                              static_cast<std::int32_t>(std::llround(beyond * kNanoseconds))};
  if (parts.nanoseconds < 0) {
    --parts.seconds;
    parts.nanoseconds += kNanoseconds;
  } else if (parts.nanoseconds >= kNanoseconds) {
    ++parts.seconds;
    parts.nanoseconds -= kNanoseconds;
  }
  return parts;
}

Instant instant_of(std::int64_t seconds, std::int64_t nanoseconds) {
  seconds += nanoseconds / kNanoseconds;
  nanoseconds %= kNanoseconds;
  if (nanoseconds < 0) {
    --seconds;
    nanoseconds += kNanoseconds;
  }
  const long double beyond = static_cast<long double>(nanoseconds) / kNanoseconds;
  Instant instant;
  instant.seconds = static_cast<double>(seconds) + static_cast<double>(beyond);
  instant.rest = static_cast<float>(beyond - (static_cast<long double>(instant.seconds) - seconds));
  return instant;
}

Instant instant_near(double seconds) {
  constexpr double kMicroseconds = 1e6;
  if (!(std::fabs(seconds) < kMostSeconds) || is_whole(seconds)) return {seconds, 0};
  const double whole = std::floor(seconds);
  const auto micros = static_cast<std::int64_t>(std::llround((seconds - whole) * kMicroseconds));
  return instant_of(static_cast<std::int64_t>(whole), micros * 1000);
}

double seconds_between(const Instant& from, const Instant& to) {
  if (from.rest == 0 && to.rest == 0) return to.seconds - from.seconds;
  const SecondsAndNanoseconds a = parts_of(from);
  const SecondsAndNanoseconds b = parts_of(to);
  const std::int64_t seconds = b.seconds - a.seconds;
  const std::int64_t nanoseconds = b.nanoseconds - a.nanoseconds;
  // As one number of nanoseconds where it is an integer of 64 bits, which a long double holds.
  constexpr std::int64_t kMost = 9'000'000'000;
  if (std::abs(seconds) < kMost)
    return static_cast<double>(static_cast<long double>(seconds * kNanoseconds + nanoseconds) / kNanoseconds);
  return static_cast<double>(seconds + static_cast<long double>(nanoseconds) / kNanoseconds);
}

Instant later(const Instant& from, double seconds) {
  if (!(std::fabs(seconds) < kMostSeconds) || !(std::fabs(from.seconds) < kMostSeconds) ||
      (from.rest == 0 && is_whole(from.seconds) && is_whole(seconds))) {
    return {from.seconds + seconds, 0};
  }
  const SecondsAndNanoseconds parts = parts_of(from);
  const double whole = std::floor(seconds);
  const auto beyond = std::llround(static_cast<long double>(seconds - whole) * kNanoseconds);
  return instant_of(parts.seconds + static_cast<std::int64_t>(whole), parts.nanoseconds + beyond);
}

Instant instant_between(const Instant& from, const Instant& to, double share) {
  return later(from, share * seconds_between(from, to));
}

}  // namespace opensum
