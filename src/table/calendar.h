// The calendar: dates held as seconds since 1970-01-01 00:00, and what years, months and weeks make of them.
#pragma once

#include <cstdint>
#include <optional>
#include <string_view>

#include "table/instant.h"

namespace opensum {

/// A date in its parts. The proleptic Gregorian calendar of ISO 8601, without time zones or leap seconds.
struct CalendarDate {
  int year = 1970;
  int month = 1;     ///< 1 to 12
  int day = 1;       ///< 1 to 31
  double clock = 0;  ///< seconds since midnight
};

/// Spans of time that begin and end on the calendar.
enum class Period : std::uint8_t { year, quarter, month, week, day, hour };
constexpr int kPeriods = 6;

/// `year`, `quarter`, `month`, `week`, `day`, `hour`.
const char* period_name(Period period);
std::optional<Period> period_named(std::string_view name);

/// Whether a date has a year from 0000 to 9999, so that it can be written with four digits.
bool within_calendar(double seconds);

/// The parts of a date within the calendar.
CalendarDate calendar_date(double seconds);
/// The date of such parts; nothing when there is no such day.
std::optional<double> seconds_of(const CalendarDate& date);

/// The date some months later, on the same day of the month or, where that month is shorter, on its last day,
/// at the same time of day. The result may lie outside the calendar.
Instant shifted(const Instant& date, std::int64_t months);

/// The greatest number of whole years by which `from` can be shifted towards `to` without passing it;
/// negative where `to` is the earlier one.
double whole_years(const Instant& from, const Instant& to);

/// The first instant of the period that a date lies in. Weeks begin on Monday.
double start_of(double seconds, Period period);
/// The last day of the period (at 00:00) that a date lies in; of a day that day, of an hour its last second.
double end_of(double seconds, Period period);

/// From 1.
int day_of_year(double seconds);
/// The week of ISO 8601, of which the first has the year's first Thursday: from 1 to 53.
int week_of_year(double seconds);

/// Monday 1 to Sunday 7.
int weekday(double seconds);
/// English names, from 1.
const char* month_name(int month);
const char* weekday_name(int weekday);

}  // namespace opensum
