// Dates in other forms: against the C library's writing of dates, and against days counted one by one.
#include "table/date_format.h"

#include <gtest/gtest.h>

#include <ctime>
#include <iostream>
#include <random>
#include <string>
#include <vector>

namespace opensum {
namespace {

std::optional<WrittenDate> read(const std::string& text, const std::string& form) {
  DateFormatFault fault;
  const auto format = DateFormat::parse(form, fault);
  EXPECT_TRUE(format) << form << " " << fault.code;
  return format ? format->read(text) : std::nullopt;
}

std::string written(std::time_t instant, const std::string& form) {
  std::tm parts{};
  gmtime_r(&instant, &parts);
  char text[100];
  return {text, std::strftime(text, sizeof text, form.c_str(), &parts)};
}

// What the library writes is read as the same instant, to the resolution of the form.
TEST(DateFormats, ReadWhatTheLibraryWrites) {
  const std::vector<std::string> days = {"%Y-%m-%d",    "%d.%m.%Y",     "%m/%d/%Y", "%Y%m%d",
                                         "%d %b %Y",    "%B %d, %Y",    "%j/%Y",    "%Y-%j",
                                         "%a %d %b %Y", "%A, %d %B %Y", "%F",       "%e.%m.%Y"};
  const struct {
    const char* form;
    std::time_t resolution;
  } times[] = {{"", 86400},         {" %H:%M", 60},      {" %H:%M:%S", 1}, {" %I:%M %p", 60},
               {" %I:%M:%S %p", 1}, {" %T", 1},          {" %R", 60},      {" %r", 1},
               {"T%H:%M:%S%z", 1},  {" %p %I.%M.%S", 1}, {" %I %p", 3600}};
  std::mt19937_64 random(9);
  std::size_t compared = 0;
  for (const std::string& day : days) {
    for (const auto& time : times) {
      const std::string form = day + time.form;
      for (int i = 0; i < 100; ++i) {
        // From 1900 to 2100.
        const auto instant = static_cast<std::time_t>(random() % 6'311'433'600) - 2'208'988'800;
        const std::string text = written(instant, form);
        const auto date = read(text, form);
        ASSERT_TRUE(date) << text << " as " << form;
        const std::time_t expected =
            instant - ((instant % time.resolution) + time.resolution) % time.resolution;
        ASSERT_EQ(date->clock.seconds, static_cast<double>(expected)) << text << " as " << form;
        ASSERT_EQ(date->has_clock, time.resolution < 86400);
        ASSERT_EQ(date->offset.has_value(), form.find("%z") != std::string::npos);
        ++compared;
      }
    }
  }
  // Two digits of a year, from 1969 to 2068.
  for (int i = 0; i < 2000; ++i) {
    const auto instant = static_cast<std::time_t>(random() % 3'124'137'600) - 31'536'000;
    const std::string text = written(instant, "%d.%m.%y %H:%M:%S");
    ASSERT_EQ(read(text, "%d.%m.%y %H:%M:%S")->clock.seconds, static_cast<double>(instant)) << text;
    ++compared;
  }
  std::cout << compared << " dates read as the library wrote them\n";
}

TEST(DateFormats, TakeWhatPeopleWrite) {
  const struct {
    const char* text;
    const char* form;
    const char* iso;
  } rows[] = {
      {"3/31/2024 1:30:00 PM", "%m/%d/%Y %I:%M:%S %p", "2024-03-31T13:30:00"},
      {"3/31/2024 12:30 pm", "%m/%d/%Y %I:%M %p", "2024-03-31T12:30:00"},
      {"3/31/2024 12:05 a.m.", "%m/%d/%Y %I:%M %p", "2024-03-31T00:05:00"},
      {"31.3.2024 13:45:10,5", "%d.%m.%Y %H:%M:%S", "2024-03-31T13:45:10.5"},
      {"2024-366", "%Y-%j", "2024-12-31"},
      {"29 feb 2024", "%d %b %Y", "2024-02-29"},
      {"31.03.2024 13:30 PM", "%d.%m.%Y %H:%M %p", "2024-03-31T13:30:00"},
      {"01.04.2024 24:00", "%d.%m.%Y %H:%M", "2024-04-02T00:00:00"},
  };
  for (const auto& row : rows) {
    const auto date = read(row.text, row.form);
    ASSERT_TRUE(date) << row.text;
    EXPECT_EQ(date->clock, read_iso_date(row.iso)->clock) << row.text;
  }
  const auto zoned = read("31.03.2024 13:30 +0530", "%d.%m.%Y %H:%M %z");
  EXPECT_EQ(zoned->offset, 19800);
  EXPECT_EQ(zoned->utc(), read_iso_date("2024-03-31T08:00")->clock);
}

TEST(DateFormats, RefuseWhatDoesNotFit) {
  const struct {
    const char* text;
    const char* form;
  } rows[] = {
      {"03.04.24", "%d.%m.%Y"},            // a year of four digits is two
      {"31.04.2024", "%d.%m.%Y"},          // no such day
      {"366/2023", "%j/%Y"},               // nor such a day of the year
      {"Mon 02 Apr 2031", "%a %d %b %Y"},  // it was a Wednesday
      {"01.04.2024 11:30 PM", "%d.%m.%Y %H:%M %p"},
      {"01.04.2024 13:30 PM", "%d.%m.%Y %I:%M %p"},
      {"01.04.2024 24:01", "%d.%m.%Y %H:%M"},
      {"01.04.2024 ", "%d.%m.%Y"},
      {"01.04.20245", "%d.%m.%Y"},
      {"", "%d.%m.%Y"},
  };
  for (const auto& row : rows) EXPECT_FALSE(read(row.text, row.form)) << row.text << " as " << row.form;
  const struct {
    const char* form;
    const char* code;
    bool repeated;
  } forms[] = {{"%d.%m.%Y %Z", "%Z", false}, {"%d.%m.%Y %", "%", false},   {"%d.%m.%Y %y", "%y", true},
               {"%H:%M", "", false},         {"%Y-%j %m", "%j", true},     {"%d.%m.%Y %H %I %p", "%I", true},
               {"%Y-%m", "", false},         {"%d.%m.%Y %U", "%U", false}, {"", "", false}};
  for (const auto& row : forms) {
    DateFormatFault fault;
    EXPECT_FALSE(DateFormat::parse(row.form, fault)) << row.form;
    EXPECT_EQ(fault.code, row.code) << row.form;
    EXPECT_EQ(fault.repeated, row.repeated) << row.form;
  }
}

}  // namespace
}  // namespace opensum
