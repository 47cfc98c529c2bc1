// Dates in files: clocks of twelve hours, offsets from UTC, and what looking at a file says of its dates.
#include <gtest/gtest.h>

#include <ctime>
#include <nlohmann/json.hpp>

#include "program/program.h"

namespace opensum {
namespace {

std::string written(std::time_t instant, const char* form) {
  std::tm parts{};
  gmtime_r(&instant, &parts);
  char text[100];
  return {text, std::strftime(text, sizeof text, form, &parts)};
}

nlohmann::json looked_at(const TempFolder& folder, const std::vector<std::string>& options) {
  std::vector<std::string> args = {"look", "t.csv", "--format", "json"};
  args.insert(args.end(), options.begin(), options.end());
  const Outcome outcome = run_program(folder, args);
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  return nlohmann::json::parse(outcome.out);
}

// A day and a half, minute by minute, as the C library writes it.
TEST(Dates, OnClocksOfTwelveHoursAreTheirInstants) {
  const TempFolder folder;
  std::string data = "when\n";
  nlohmann::json expected;
  const std::time_t begin = 1'961'712'000;  // 2032-03-01
  for (std::time_t minute = 0; minute < 36 * 60; ++minute) {
    const std::time_t instant = begin - 43'200 + minute * 60;
    data += written(instant, "%d.%m.%Y %I:%M %p") + "\n";
    expected.push_back(written(instant, "%Y-%m-%dT%H:%M:%S"));
  }
  folder.write("t.csv", data);
  const nlohmann::json columns = looked_at(folder, {"--date-format", "%d.%m.%Y %I:%M %p"})["columns"];
  EXPECT_EQ(columns[0]["kind"], "date");
  EXPECT_EQ(columns[0]["values"], expected);
}

// Of every order of day, month and year, what is offered fits all cells, and all that fit are offered.
TEST(Dates, AreOfferedEveryFormatThatFits) {
  const struct {
    std::string cells;
    std::vector<std::string> offered;
    std::vector<std::string> others;
  } rows[] = {
      {"03/04/2031\n05/16/2031", {"d=%m/%d/%Y"}, {"%d/%m", "%y"}},
      {"03/04/2031\n16/05/2031", {"d=%d/%m/%Y"}, {"%m/%d", "%y"}},
      {"03/04/2031\n05/06/2031", {"d=%d/%m/%Y", "d=%m/%d/%Y"}, {"%y"}},
      {"03.04.31\n16.05.31", {"d=%d.%m.%y"}, {"%Y", "%m.%d"}},
      {"03/04/2031 1:30 PM\n16/05/2031 12:00 AM", {"d=%d/%m/%Y %I:%M %p"}, {"%H"}},
  };
  for (const auto& row : rows) {
    const TempFolder folder;
    folder.write("t.csv", "d\n" + row.cells + "\n");
    const Outcome outcome = run_program(folder, {"look", "t.csv"});
    for (const std::string& format : row.offered) {
      EXPECT_NE(outcome.out.find(format), std::string::npos) << format << outcome.out;
      // What is offered is taken.
      EXPECT_EQ(looked_at(folder, {"--date-format", format})["columns"][0]["kind"], "date");
    }
    for (const std::string& format : row.others)
      EXPECT_EQ(outcome.out.find(format), std::string::npos) << format << outcome.out;
    EXPECT_EQ(outcome.out.find("say which is meant") != std::string::npos, row.offered.size() > 1);
  }
}

TEST(Dates, WithOffsetsAreOfOneClock) {
  const TempFolder folder;
  const auto hours = [&](const std::string& first, const std::string& second) {
    folder.write("t.csv", "when\n" + first + "\n" + second + "\n");
    return run_program(folder, {"derive", "t.csv", "h = hour(when)", "w = when + 0 [s]", "--format", "csv"});
  };
  const Outcome one = hours("2031-01-02T10:00+02:00", "2031-01-02T11:00+02:00");
  EXPECT_EQ(one.err, "");
  EXPECT_NE(one.out.find("2031-01-02T10:00+02:00,10,"), std::string::npos) << one.out;
  EXPECT_NE(one.out.find("2031-01-02T11:00+02:00,11,"), std::string::npos) << one.out;
  const Outcome two = hours("2031-01-02T10:00+02:00", "2031-01-02T11:00+03:00");
  EXPECT_NE(two.err.find("its dates are taken in UTC"), std::string::npos) << two.err;
  EXPECT_NE(two.out.find("2031-01-02T10:00+02:00,8,2031-01-02T08:00:00"), std::string::npos) << two.out;
  EXPECT_NE(two.out.find("2031-01-02T11:00+03:00,8,2031-01-02T08:00:00"), std::string::npos) << two.out;
  const Outcome none = hours("2031-01-02T10:00+02:00", "2031-01-02T11:00");
  EXPECT_EQ(none.code, 4);
  EXPECT_NE(none.err.find("2031-01-02T10:00+02:00 (line 2) and 2031-01-02T11:00 (line 3)"), std::string::npos)
      << none.err;
}

}  // namespace
}  // namespace opensum
