// Instants of time, exact to the nanosecond from the year 0 to 9999.
#pragma once

#include <compare>
#include <cstdint>

namespace opensum {

/// An instant: a whole number of nanoseconds since 1970-01-01 00:00. It is held as the nearest double of
/// seconds and, where that is not exact, what the instant is beyond it; so equal instants have equal parts
/// and the order of instants is that of their parts. The 69 bits of such a number fit into no integer.
struct Instant {
  double seconds = 0;
  float rest = 0;  ///< s

  friend constexpr auto operator<=>(const Instant&, const Instant&) = default;
};

/// An instant as whole seconds, rounded down, and the nanoseconds beyond them, from 0 to 999,999,999.
struct SecondsAndNanoseconds {
  std::int64_t seconds = 0;
  std::int32_t nanoseconds = 0;
};

SecondsAndNanoseconds parts_of(const Instant& instant);

/// The instant some seconds and nanoseconds (of either sign) after 1970-01-01 00:00.
Instant instant_of(std::int64_t seconds, std::int64_t nanoseconds = 0);

/// The instant that a double of seconds since 1970-01-01 00:00 stands for: to the microsecond, which is what
/// it holds.
Instant instant_near(double seconds);

/// How many seconds lie between two instants; negative where `to` is the earlier one.
double seconds_between(const Instant& from, const Instant& to);

/// The instant some seconds later (earlier where they are negative), rounded to the nanosecond. Outside of
/// the calendar its seconds may be anything, not finite ones too.
Instant later(const Instant& from, double seconds);

/// The instant between two, at a share of the way from the first.
Instant instant_between(const Instant& from, const Instant& to, double share);

}  // namespace opensum
