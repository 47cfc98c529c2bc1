// Dates in files: clocks of twelve hours, offsets from UTC, and what looking at a file says of its dates.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <cmath>
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

// A logger whose stamps are one step apart, at a constant rate.
TEST(Dates, OfFastLoggersAreExact) {
  const struct {
    const char* step;
    int digits;
  } rows[] = {{"1 [ms]", 3}, {"100 [us]", 4}, {"10 [us]", 5}, {"1 [us]", 6}, {"10 [ns]", 8}, {"1 [ns]", 9}};
  for (const auto& row : rows) {
    const TempFolder folder;
    constexpr int kRows = 1200;
    std::string data = "t,x [mm]\n";
    for (int i = 0; i < kRows; ++i) {
      // From before a second to behind it.
      const auto in_second = static_cast<long>(1e9 + (i - kRows / 2) * std::pow(10, 9 - row.digits));
      data += fmt::format(
          "2026-03-04T09:00:0{}.{},{}\n", 6 + in_second / 1'000'000'000,
          fmt::format("{:09}", in_second % 1'000'000'000).substr(0, static_cast<std::size_t>(row.digits)),
          2 * i);
    }
    folder.write("t.csv", data);
    folder.write("study.toml", fmt::format(R"(write = 'json'
[sheet.s]
data = 't.csv'
link.own = {{ sheet = 'copy', match = 't' }}
link.grid = {{ sheet = 'copy', match = 'middle = t', how = 'interpolate' }}
equations = """
  dt = change(t)
  same = dt == {0}
  rate [mm] = derivative(x, along: t) * {0}
  area [mm] = col_area(x, along: t) / {0}
  later = next(t) == t + {0}
  middle = t + {0} / 2
  back = own.x
  between = grid.x
  slope [mm] = fit.f.slope * {0}
  place = rank(t)
  alone = col_count(x, by: t)
"""
[sheet.copy]
rows_of = 's'
take = ['t', 'x']
[fit.f]
sheets = ['s']
x = 't'
y = 'x'
model = 'line'
)",
                                           row.step));
    const Outcome outcome = run_program(folder, {"run"});
    ASSERT_EQ(outcome.code, 0) << outcome.err;
    const nlohmann::json sheet = nlohmann::json::parse(folder.read("results/s.json"));
    const auto values = [&](const std::string& symbol) -> nlohmann::json {
      for (const nlohmann::json& column : sheet["columns"]) {
        if (column["symbol"] == symbol) return column["values"];
      }
      return {};
    };
    for (std::size_t i = 1; i + 1 < kRows; i += 7) {
      const std::string place = std::string(row.step) + " row " + std::to_string(i);
      ASSERT_EQ(values("same")[i], true) << place << values("dt")[i];
      ASSERT_EQ(values("later")[i], true) << place;
      ASSERT_DOUBLE_EQ(values("rate")[i], 2) << place;
      ASSERT_EQ(values("back")[i], 2.0 * static_cast<double>(i)) << place;
      ASSERT_EQ(values("place")[i], static_cast<double>(i + 1)) << place;
      ASSERT_EQ(values("alone")[i], 1) << place;
      // Half of a nanosecond is none.
      if (row.digits < 9) {
        ASSERT_DOUBLE_EQ(values("between")[i], 2.0 * static_cast<double>(i) + 1) << place;
      }
    }
    EXPECT_DOUBLE_EQ(values("area")[0], (kRows - 1.0) * (kRows - 1.0));
    EXPECT_NEAR(values("slope")[0].get<double>(), 2, 1e-12) << row.step;
  }
}

TEST(Dates, AreReadBackToTheNanosecond) {
  const TempFolder folder;
  const std::string cells =
      "2031-04-02T10:00:00.123456789\n2031-04-02T10:00:00.12345679\n1999-12-31T23:59:59.999999999\n"
      "1969-12-31T23:59:59.000000001\n";
  folder.write("t.csv", "t\n" + cells);
  folder.write(
      "study.toml",
      "write = ['csv', 'ods', 'xlsx', 'sqlite', 'nc', 'json']\n[sheet.s]\ndata = 't.csv'\nequations = "
      "'after = t + 1 [ns]'\n");
  const Outcome run = run_program(folder, {"run"});
  ASSERT_EQ(run.code, 0) << run.err;
  EXPECT_NE(run.err.find("times of day to 10 µs; cells that hold more: 7"), std::string::npos) << run.err;
  const nlohmann::json once = nlohmann::json::parse(folder.read("results/s.json"))["columns"];
  EXPECT_EQ(once[1]["values"][0], "2031-04-02T10:00:00.12345679");
  EXPECT_EQ(once[1]["values"][2], "2000-01-01T00:00:00");
  for (const std::string source : {"s.csv", "tables.ods#s", "tables.sqlite#s", "tables.nc"}) {
    const Outcome look = run_program(folder, {"look", "results/" + source, "--format", "json"});
    ASSERT_EQ(look.code, 0) << source << look.err;
    const nlohmann::json columns = nlohmann::json::parse(look.out)["columns"];
    for (std::size_t i = 0; i < 2; ++i) {
      EXPECT_EQ(columns[i]["kind"], "date") << source;
      EXPECT_EQ(columns[i]["values"], once[i]["values"]) << source;
    }
  }
  const Outcome look = run_program(folder, {"look", "results/tables.xlsx#s", "--format", "json"});
  EXPECT_EQ(nlohmann::json::parse(look.out)["columns"][0]["values"][0], "2031-04-02T10:00:00.12346");
}

TEST(Dates, BeyondTheNumbersOfNetcdfAreRefused) {
  const TempFolder folder;
  folder.write("t.csv", "t\n2262-04-12T00:00:00.000000001\n1066-10-14\n");
  folder.write("study.toml", "write = 'nc'\n[sheet.s]\ndata = 't.csv'\n");
  const Outcome run = run_program(folder, {"run"});
  EXPECT_EQ(run.code, 2) << run.err;
  EXPECT_NE(run.err.find("before 1678 or after 2261"), std::string::npos) << run.err;
  EXPECT_FALSE(folder.has("results/tables.nc"));
  // Whole seconds, and microseconds, are not.
  for (const char* cell : {"9999-12-31T23:59:59", "9999-12-31T23:59:59.999999"}) {
    folder.write("t.csv", std::string("t\n") + cell + "\n0001-01-01T00:00:00\n");
    ASSERT_EQ(run_program(folder, {"run"}).code, 0);
    const Outcome look = run_program(folder, {"look", "results/tables.nc", "--format", "json"});
    EXPECT_EQ(nlohmann::json::parse(look.out)["columns"][0]["values"][0], cell);
  }
}

}  // namespace
}  // namespace opensum
