// The calendar: against a count of days, by laws, and at the ends of months and years.
#include "table/calendar.h"

#include <gtest/gtest.h>

#include "table/date_text.h"
#include "table/number_text.h"

namespace opensum {
namespace {

Instant instant_at(const char* text) { return read_date(text).value(); }
double at(const char* text) { return instant_at(text).seconds; }
std::string moved(const char* from, std::int64_t months) {
  return date_text(shifted(instant_at(from), months));
}

// Day by day through four centuries, after which the calendar repeats itself.
TEST(Calendar, AgreesWithACountOfDays) {
  static const int lengths[] = {31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31};
  int year = 1600;
  int month = 1;
  int day = 1;
  int weekday_counted = 6;  // 1600-01-01 was a Saturday
  for (double seconds = at("1600-01-01"); seconds < at("2001-01-01"); seconds += 86400) {
    const CalendarDate date = calendar_date(seconds + 3661.5);
    ASSERT_EQ(date.year, year);
    ASSERT_EQ(date.month, month);
    ASSERT_EQ(date.day, day);
    ASSERT_EQ(date.clock, 3661.5);
    ASSERT_EQ(weekday(seconds), weekday_counted);
    ASSERT_EQ(seconds_of({year, month, day, 0}), seconds);
    weekday_counted = weekday_counted % 7 + 1;
    const bool leap = (year % 4 == 0 && year % 100 != 0) || year % 400 == 0;
    if (++day > lengths[month - 1] + (month == 2 && leap ? 1 : 0)) {
      day = 1;
      if (++month > 12) {
        month = 1;
        ++year;
      }
    }
  }
  EXPECT_EQ(year, 2001);
}

TEST(Calendar, ShiftsToTheLastDayOfShorterMonths) {
  EXPECT_EQ(moved("2031-01-31", 1), "2031-02-28");
  EXPECT_EQ(moved("2028-01-31", 1), "2028-02-29");
  EXPECT_EQ(moved("2028-02-29", 12), "2029-02-28");
  EXPECT_EQ(moved("2028-02-29", 48), "2032-02-29");
  EXPECT_EQ(moved("2031-05-31", -3), "2031-02-28");
  EXPECT_EQ(moved("2031-12-15T10:30", 1), "2032-01-15T10:30:00");
  EXPECT_EQ(moved("2100-02-28", -1200), "2000-02-28");
  EXPECT_EQ(moved("2031-12-31T10:30:00.000000001", 2), "2032-02-29T10:30:00.000000001");
}

TEST(Calendar, CountsWholeYears) {
  const struct {
    const char* from;
    const char* to;
    double years;
  } rows[] = {
      {"2020-06-15", "2031-06-14", 10}, {"2020-06-15", "2031-06-15", 11},  {"2028-02-29", "2029-02-28", 1},
      {"2028-02-29", "2029-02-27", 0},  {"2031-06-15", "2020-06-15", -11}, {"2031-06-14", "2020-06-15", -10},
      {"2031-01-01", "2031-12-31", 0},
  };
  for (const auto& row : rows)
    EXPECT_EQ(whole_years(instant_at(row.from), instant_at(row.to)), row.years) << row.from;
  // As many years as can be added without passing the later date.
  for (int i = 0; i < 3000; ++i) {
    const Instant from = later(instant_at("1980-02-29T10:20:30.123456789"), i * 86400.0 * 7);
    const Instant to = later(from, i * 86400.0 * 11);
    const auto years = static_cast<std::int64_t>(whole_years(from, to));
    EXPECT_LE(shifted(from, 12 * years), to);
    EXPECT_GT(shifted(from, 12 * (years + 1)), to);
  }
}

TEST(Calendar, FindsTheEdgesOfPeriods) {
  const struct {
    Period period;
    const char* date;
    const char* start;
    const char* end;
  } rows[] = {
      {Period::year, "2031-08-19T13:45", "2031-01-01", "2031-12-31"},
      {Period::quarter, "2031-08-19", "2031-07-01", "2031-09-30"},
      {Period::quarter, "2031-12-31", "2031-10-01", "2031-12-31"},
      {Period::month, "2028-02-10", "2028-02-01", "2028-02-29"},
      {Period::week, "2031-04-02", "2031-03-31", "2031-04-06"},
      {Period::week, "2031-03-31", "2031-03-31", "2031-04-06"},
      {Period::day, "2031-04-02T23:59:59", "2031-04-02", "2031-04-02"},
      {Period::hour, "2031-04-02T23:59:59", "2031-04-02T23:00:00", "2031-04-02T23:59:59"},
      {Period::year, "1969-12-31", "1969-01-01", "1969-12-31"},
  };
  for (const auto& row : rows) {
    EXPECT_EQ(date_text({start_of(at(row.date), row.period), 0}), row.start) << row.date;
    EXPECT_EQ(date_text({end_of(at(row.date), row.period), 0}), row.end) << row.date;
  }
}

TEST(Calendar, ReadsNamesAndDurations) {
  EXPECT_STREQ(weekday_name(weekday(at("2031-04-02"))), "Wednesday");
  EXPECT_STREQ(month_name(calendar_date(at("2031-04-02")).month), "April");
  EXPECT_EQ(period_named("quarter"), Period::quarter);
  EXPECT_FALSE(period_named("moth"));
  EXPECT_EQ(read_duration("10:30"), 37800);
  EXPECT_EQ(read_duration("-0:00:01.5"), -1.5);
  EXPECT_EQ(read_duration("100:00:00"), 360000);
  for (const char* wrong : {"", "10", "10:", ":30", "10:60", "10:3", "1:00:61", "a:00", "10:00 "}) {
    EXPECT_FALSE(read_duration(wrong)) << wrong;
  }
  EXPECT_TRUE(within_calendar(at("0000-01-01")));
  EXPECT_TRUE(within_calendar(at("9999-12-31T23:59:59")));
  EXPECT_FALSE(within_calendar(at("9999-12-31") + 86400));
}

}  // namespace
}  // namespace opensum
