// The calendar.
#include "table/calendar.h"

#include <algorithm>
#include <array>
#include <chrono>
#include <cmath>

namespace opensum {
namespace {

constexpr double kDay = 86400;
constexpr double kFirst = -62167219200;   // 0000-01-01
constexpr double kBehind = 253402300800;  // 10000-01-01
// So many months lead from any date to one outside the calendar.
constexpr std::int64_t kMostMonths = 120000;

constexpr std::array<const char*, kPeriods> kPeriodNames = {"year", "quarter", "month",
                                                            "week", "day",     "hour"};

std::chrono::sys_days day_of(double seconds) {
  return std::chrono::sys_days(std::chrono::days(static_cast<std::int64_t>(std::floor(seconds / kDay))));
}

double seconds_of_day(std::chrono::sys_days day) {
  return static_cast<double>(day.time_since_epoch().count()) * kDay;
}

double first_of(int year, int month) { return seconds_of_day(std::chrono::year(year) / month / 1); }

}  // namespace

const char* period_name(Period period) { return kPeriodNames.at(static_cast<std::size_t>(period)); }

std::optional<Period> period_named(std::string_view name) {
  const auto* found = std::find(kPeriodNames.begin(), kPeriodNames.end(), name);
  if (found == kPeriodNames.end()) return std::nullopt;
  return static_cast<Period>(found - kPeriodNames.begin());
}

bool within_calendar(double seconds) { return seconds >= kFirst && seconds < kBehind; }

CalendarDate calendar_date(double seconds) {
  const std::chrono::year_month_day date{day_of(seconds)};
  CalendarDate parts;
  parts.year = static_cast<int>(date.year());
  parts.month = static_cast<int>(static_cast<unsigned>(date.month()));
  parts.day = static_cast<int>(static_cast<unsigned>(date.day()));
  parts.clock = seconds - std::floor(seconds / kDay) * kDay;
  return parts;
}

std::optional<double> seconds_of(const CalendarDate& date) {
  const std::chrono::year_month_day parts{std::chrono::year(date.year) / date.month / date.day};
  if (!parts.ok()) return std::nullopt;
  return seconds_of_day(parts) + date.clock;
}

Instant shifted(const Instant& from, std::int64_t months) {
  const SecondsAndNanoseconds parts = parts_of(from);
  CalendarDate date = calendar_date(static_cast<double>(parts.seconds));
  months = std::clamp(months, -kMostMonths, kMostMonths);
  const std::chrono::year_month month =
      std::chrono::year_month(std::chrono::year(date.year),
                              std::chrono::month(static_cast<unsigned>(date.month))) +
      std::chrono::months(months);
  date.year = static_cast<int>(month.year());
  date.month = static_cast<int>(static_cast<unsigned>(month.month()));
  const std::chrono::year_month_day last{month / std::chrono::last};
  date.day = std::min(date.day, static_cast<int>(static_cast<unsigned>(last.day())));
  return instant_of(static_cast<std::int64_t>(*seconds_of(date)), parts.nanoseconds);
}

double whole_years(const Instant& from, const Instant& to) {
  std::int64_t years = calendar_date(to.seconds).year - calendar_date(from.seconds).year;
  if (to < from) {
    if (shifted(from, 12 * years) < to) ++years;
  } else if (shifted(from, 12 * years) > to) {
    --years;
  }
  return static_cast<double>(years);
}

double start_of(double seconds, Period period) {
  const CalendarDate date = calendar_date(seconds);
  switch (period) {
    case Period::year:
      return first_of(date.year, 1);
    case Period::quarter:
      return first_of(date.year, (date.month - 1) / 3 * 3 + 1);
    case Period::month:
      return first_of(date.year, date.month);
    case Period::week:
      return std::floor(seconds / kDay) * kDay - (weekday(seconds) - 1) * kDay;
    case Period::day:
      return std::floor(seconds / kDay) * kDay;
    case Period::hour:
      return std::floor(seconds / 3600) * 3600;
  }
  return seconds;
}

double end_of(double seconds, Period period) {
  const double start = start_of(seconds, period);
  switch (period) {
    case Period::year:
      return shifted({start, 0}, 12).seconds - kDay;
    case Period::quarter:
      return shifted({start, 0}, 3).seconds - kDay;
    case Period::month:
      return shifted({start, 0}, 1).seconds - kDay;
    case Period::week:
      return start + 6 * kDay;
    case Period::day:
      return start;
    case Period::hour:
      return start + 3599;
  }
  return start;
}

int day_of_year(double seconds) {
  const std::chrono::sys_days day = day_of(seconds);
  const std::chrono::year_month_day date{day};
  const std::chrono::sys_days first = date.year() / 1 / 1;
  return static_cast<int>((day - first).count()) + 1;
}

int week_of_year(double seconds) {
  // The week belongs to the year of its Thursday.
  const double thursday = start_of(seconds, Period::week) + 3 * kDay;
  return (day_of_year(thursday) - 1) / 7 + 1;
}

int weekday(double seconds) { return static_cast<int>(std::chrono::weekday(day_of(seconds)).iso_encoding()); }

const char* month_name(int month) {
  static constexpr std::array<const char*, 12> names = {"January",   "February", "March",    "April",
                                                        "May",       "June",     "July",     "August",
                                                        "September", "October",  "November", "December"};
  return names.at(static_cast<std::size_t>(month - 1));
}

const char* weekday_name(int weekday) {
  static constexpr std::array<const char*, 7> names = {"Monday", "Tuesday",  "Wednesday", "Thursday",
                                                       "Friday", "Saturday", "Sunday"};
  return names.at(static_cast<std::size_t>(weekday - 1));
}

}  // namespace opensum
