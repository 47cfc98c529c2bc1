// Dates and times of day as text, in the forms of ISO 8601.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

#include "table/instant.h"

namespace opensum {

/// A date as a cell has it: what its clock shows, and how far that clock is ahead of UTC where it says so.
struct WrittenDate {
  Instant clock;                 ///< on that clock
  std::optional<double> offset;  ///< whole seconds east of Greenwich
  bool has_clock = false;        ///< a time of day is written

  Instant utc() const { return later(clock, -offset.value_or(0)); }
};

/// The digits behind the decimal sign of a number of seconds as nanoseconds, rounded to these.
std::int64_t nanoseconds_of_fraction(std::string_view digits);

/// Reads an ISO 8601 date or date-time (`2031-04-02`, `2031-04-02T10:20:30.5Z`, also with a blank for the T
/// and a decimal comma, offset `+02:00`). More than nine digits of a second are rounded to these.
std::optional<WrittenDate> read_iso_date(std::string_view text);

/// The same as an instant, of UTC where an offset is written.
std::optional<Instant> read_date(std::string_view text);

/// Reads `hh:mm`, `hh:mm:ss` or `hh:mm:ss.fff` (hours may be over 24; a sign may stand before; a clock of 12
/// hours is followed by AM or PM) as seconds.
std::optional<double> read_duration(std::string_view text);

/// A date as ISO 8601, with the time to the needed fraction of a second: always where `clock` is true, else
/// for dates that are not at midnight.
std::string date_text(const Instant& instant, bool clock = false);

}  // namespace opensum
