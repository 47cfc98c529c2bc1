// Explanations: what is printed of a cell can be followed on paper. Each printed step is calculated again
// from its own text, and some against formulas written out here.
#include <gtest/gtest.h>

#include <cmath>
#include <iostream>
#include <nlohmann/json.hpp>
#include <random>
#include <sstream>

#include "program/program.h"

namespace opensum {
namespace {

// A step: the equation with the values put in, and its result.
struct Step {
  std::string put_in;
  std::string result;
};

// `10.4 kW` as it stands in an equation, `10.4 [kW]`.
std::string in_equation(const std::string& value) {
  const std::size_t blank = value.find(' ');
  const bool number = !value.empty() && (value[0] == '-' || (value[0] >= '0' && value[0] <= '9'));
  const bool date = value.size() > 9 && value[4] == '-' && value[7] == '-';
  if (date) return "date(\"" + value + "\")";
  return !number || blank == std::string::npos
             ? value
             : value.substr(0, blank) + " [" + value.substr(blank + 1) + "]";
}

// The result of what was asked for stands in the first line.
std::vector<Step> steps_of(const std::string& explanation) {
  std::vector<Step> steps;
  const auto lines = lines_of(explanation);
  const std::string is = ") is ";
  const std::string asked = lines[0].substr(lines[0].find(is) + is.size());
  for (std::size_t i = 0; i + 1 < lines.size(); ++i) {
    if (!lines[i].starts_with("  = ")) continue;
    if (lines[i + 1].starts_with("  = ")) {
      steps.push_back({lines[i].substr(4), lines[i + 1].substr(4)});
    } else if (steps.empty() && !lines[i - 1].starts_with("  = ")) {
      steps.push_back({lines[i].substr(4), in_equation(asked)});
    }
  }
  return steps;
}

// Calculates a step anew; how many digits agree with what was printed, or 99 for texts and nulls that agree.
double agreement(const TempFolder& folder, const Step& step) {
  const std::size_t bracket = step.result.find(" [");
  const bool null = step.result.starts_with("null");
  const std::string unit = null || bracket == std::string::npos ? "" : step.result.substr(bracket + 1);
  const std::string expression = unit.empty() ? step.put_in : "(" + step.put_in + ") in " + unit;
  const Outcome outcome = run_program(folder, {"calc", expression});
  EXPECT_EQ(outcome.code, 0) << expression << "\n" << outcome.err;
  if (null) return outcome.out.starts_with("null") ? 99 : 0;
  const std::string plain = outcome.out.substr(0, outcome.out.size() - 1);
  for (const std::string& written : {plain, '"' + plain + '"', "date(\"" + plain + "\")"}) {
    if (step.result == written) return 99;
  }
  const double got = std::stod(outcome.out);
  const double printed = std::stod(step.result);
  return got == printed ? 99 : -std::log10(std::fabs(got - printed) / std::fabs(printed));
}

const std::string kExplainData =
    "t [s],a [g],b [g],c [g],site,conc [mg/L],day,temp [°C]\n"
    "0,1,2,3,x,<0.05,2031-04-02,20.1\n1,,2.5,3.5,x,0.2,2031-04-03,\n2,2,,4,y,0.3,2031-04-04,21.7\n"
    "3,,,5,y,>20,2031-04-05,22\n4,3,4,,x,,2031-04-06,18.3\n5,3.3,4.1,2.2,y,0.7,2031-05-06,19\n";
const std::string kExplainStudy =
    "constants = 'k [1/s] = 0.25'\n[sheet.s]\ndata = 't.csv'\n"
    "fill.a = ['row_mean(a..c, nulls: skip, at_least: 2)', 'previous_known(self)']\n"
    "fill.b = 'interpolated(self, along: t)'\nfill.conc = ['limit(self) / 2', '1 [mg/L]']\n"
    "equations = '''\n"
    "  total [mg] = a + b + measured(c)\n"
    "  decay [%] = exp(-k * t)\n"
    "  part = total / col_sum(total, by: site)\n"
    "  rest = total - col_mean(total, where: t > 0 [s])\n"
    "  speed = derivative(a, along: t)\n"
    "  warm = temp + 5 [K]\n"
    "  rise [K] = temp - col_min(temp)\n"
    "  gas [L/mol] = codata.R * kelvin(temp) / (101325 [Pa])\n"
    "  sum = sum_so_far(conc)\n"
    "  best = if(a > b, a, fallback(b, c)) ^ 2\n"
    "  odd = sqrt(a - 2 [g]) / (b - 4 [g])\n"
    "  later = shift(day, months: 1)\n"
    "  name = concat(upper(site), \"-\", row_number())\n"
    "  known = complete(a, c) and not (site == \"y\")\n"
    "'''\n";

TEST(Explain, PrintsStepsThatCanBeCalculatedAgain) {
  const TempFolder folder;
  folder.write("t.csv", kExplainData);
  folder.write("study.toml", kExplainStudy);
  std::mt19937 random(11);
  std::size_t steps = 0;
  double least = 99;
  for (const std::string column : {"total", "decay", "part", "rest", "speed", "warm", "rise", "gas", "sum",
                                   "best", "odd", "later", "name", "known", "a", "b", "conc"}) {
    for (int i = 0; i < 5; ++i) {
      const std::string row = std::to_string(random() % 6 + 1);
      const Outcome outcome = run_program(folder, {"explain", "s." + column, "--row", row});
      ASSERT_EQ(outcome.code, 0) << outcome.err;
      for (const Step& step : steps_of(outcome.out)) {
        if (step.result.find("is tried") != std::string::npos) continue;
        const double digits = agreement(folder, step);
        EXPECT_GE(digits, 10) << column << " row " << row << ": " << step.put_in << " = " << step.result;
        least = std::min(least, digits);
        ++steps;
      }
    }
  }
  std::cout << steps << " printed steps calculated again, agreeing to at least " << least << " digits\n";
  EXPECT_GT(steps, 50U);
}

TEST(Explain, GivesTheNumbersOfTheDemo) {
  const TempFolder folder;
  ASSERT_EQ(run_program(folder, {"demo"}).code, 0);
  const Outcome outcome =
      run_program(folder, {"explain", "day1.duty", "--row", "3", "--study", "opensum-demo/study.toml"});
  // 5.98 L/min of water, warmed from 18.58 to the mean of three readings; its properties on the straight line
  // between those at 25 and 30 °C.
  const double rise = (39.47 + 39.23 + 39.34) / 3 - 18.58;
  const double part = (18.58 + rise / 2 - 25) / 5;
  const double density = 997.05 + part * (995.65 - 997.05);
  const double heat_capacity = 4.180 + part * (4.178 - 4.180);
  const double duty = 5.98 / 1000 / 60 * density * heat_capacity * rise;
  const auto steps = steps_of(outcome.out);
  // The duty, the mean temperature at which the properties are looked up, the rise, the outlet temperature.
  ASSERT_EQ(steps.size(), 4U) << outcome.out;
  EXPECT_NEAR(std::stod(steps[0].result), duty, 1e-10);
  EXPECT_NEAR(std::stod(steps[1].result), 18.58 + rise / 2, 1e-10);
  EXPECT_NEAR(std::stod(steps[2].result), rise, 1e-10);
  EXPECT_EQ(steps[3].put_in, "row_mean(39.47 [°C], 39.23 [°C], 39.34 [°C], nulls: skip, at_least: 2)");
  EXPECT_NE(outcome.out.find("    t_out_a  39.47 °C  measured, opensum-demo/day1.csv line 4\n"),
            std::string::npos);
}

TEST(Explain, FollowsANullToTheCellWhereItBegan) {
  const TempFolder folder;
  folder.write("t.csv", kExplainData);
  folder.write("study.toml", kExplainStudy);
  const Outcome outcome = run_program(folder, {"explain", "s.total", "--line", "6"});
  EXPECT_EQ(outcome.out,
            "s.total in row 5 (t.csv line 6) is null (missing), which began in s.c row 5 (t.csv line 6)\n\n"
            "total [mg] = a + b + measured(c)\n"
            "  = 3 [g] + 4 [g] + null\n"
            "    a            3 g             measured, t.csv line 6\n"
            "    b            4 g             measured, t.csv line 6\n"
            "    measured(c)  null (missing)  t.csv line 6: the cell is empty\n");
}

TEST(Explain, ShowsTheRulesOfAFillAndTheRowsOfAReduction) {
  const TempFolder folder;
  folder.write("t.csv", kExplainData);
  folder.write("study.toml", kExplainStudy);
  EXPECT_EQ(run_program(folder, {"explain", "s.a", "--row", "4"}).out,
            "s.a in row 4 (t.csv line 5) is 2 g\n  t.csv line 5: the cell is empty\n\n"
            "fill of a = row_mean(a..c, nulls: skip, at_least: 2)\n"
            "  = row_mean(null, null, 5 [g], nulls: skip, at_least: 2)\n"
            "  = null, so the next rule is tried\n"
            "    a  null (missing)  t.csv line 5: the cell is empty\n"
            "    b  null (missing)  t.csv line 5: the cell is empty\n"
            "    c  5 g             measured, t.csv line 5\n\n"
            "fill of a = previous_known(self)\n    previous_known(self) is 2 [g]\n"
            "      from 1 value: 2 g (row 3, line 4)\n");
  const std::string part = run_program(folder, {"explain", "s.part", "--row", "3"}).out;
  EXPECT_NE(
      part.find("    col_sum(total, by: site) is 29100 [mg]\n      from 3 values: 9000 mg (row 3, line 4), "
                "10500 mg (row 4, line 5), 9600 mg (row 6, line 7)\n"),
      std::string::npos)
      << part;
}

// Every linked column in every row, by every kind of link: what is explained is what is computed, and each
// cell in which a null began can be explained by the name that nulls.csv gives it.
TEST(Explain, TakesLinkedColumns) {
  const TempFolder folder;
  folder.write("t.csv", "k,p [mm]\na,10\nb,17\n,20\nc,\nd,95\na,30\n");
  folder.write("r.csv", "k,p [cm],v [g]\nb,1,10\na,2,\nc,3,35.5\n");
  std::string equations;
  std::string links;
  for (const char* how : {"key", "nearest", "previous", "interpolate"}) {
    const std::string name = how;
    links += "link." + name +
             " = { sheet = 'r', match = " + (name == "key" ? "'k'" : "'p', how = '" + name + "'") + " }\n";
    equations += "  of_" + name + " = " + name + ".v\n";
  }
  folder.write("study.toml", "[sheet.s]\ndata = 't.csv'\n" + links + "equations = '''\n" + equations +
                                 "'''\n[sheet.r]\ndata = 'r.csv'\n");
  ASSERT_EQ(run_program(folder, {"run"}).code, 0);
  const nlohmann::json columns = nlohmann::json::parse(
      run_program(folder, {"look", "results/s.csv", "--format", "json"}).out)["columns"];
  std::size_t explained = 0;
  for (const nlohmann::json& column : columns) {
    const std::string symbol = column["symbol"];
    if (symbol.rfind("of_", 0) != 0) continue;
    for (std::size_t row = 0; row < 6; ++row) {
      const Outcome outcome =
          run_program(folder, {"explain", "s." + symbol.substr(3) + ".v", "--row", std::to_string(row + 1)});
      ASSERT_EQ(outcome.code, 0) << symbol << row << outcome.err;
      const nlohmann::json& value = column["values"][row];
      const std::string first = outcome.out.substr(0, outcome.out.find('\n'));
      const std::string expected = value.is_null() ? "is null (" : "is " + value.dump();
      EXPECT_NE(first.find(value.is_null() ? expected : expected.substr(0, expected.find(".0"))),
                std::string::npos)
          << first << " and not " << expected;
      ++explained;
    }
  }
  EXPECT_EQ(explained, 24U);
  std::istringstream nulls(folder.read("results/nulls.csv"));
  std::string line;
  std::getline(nulls, line);
  std::size_t began = 0;
  while (std::getline(nulls, line)) {
    const std::string cell = line.substr(line.rfind(',') + 1);  // s.key.v row 2
    const std::size_t row = cell.find(" row ");
    if (row == std::string::npos) continue;
    const Outcome outcome =
        run_program(folder, {"explain", cell.substr(0, row), "--row", cell.substr(row + 5)});
    EXPECT_EQ(outcome.code, 0) << cell << outcome.err;
    EXPECT_NE(outcome.out.find(" is null ("), std::string::npos) << outcome.out;
    ++began;
  }
  EXPECT_GT(began, 5U) << folder.read("results/nulls.csv");
}

TEST(Explain, DescribesAColumn) {
  const TempFolder folder;
  folder.write("t.csv", kExplainData);
  folder.write("study.toml", kExplainStudy);
  EXPECT_EQ(run_program(folder, {"explain", "s.total"}).out,
            "s.total \"total\" [mg]: derived\n  total [mg] = a + b + measured(c)\n"
            "  from a [g] (filled), b [g] (filled), c [g]\n  nulls propagated\n  5 of 6 known\n"
            "  1 null: missing; first in row 5, began in s.c row 5 (t.csv line 6)\n  used by part, rest\n");
  EXPECT_EQ(run_program(folder, {"explain", "t"}).out,
            "s.t \"t\" [s]: measured, from t.csv, header `t [s]`\n  6 of 6 known\n"
            "  used by fill of b, decay, rest, speed\n");
}

TEST(Explain, SaysWhatItCannotFind) {
  const TempFolder folder;
  folder.write("t.csv", kExplainData);
  folder.write("study.toml", kExplainStudy);
  const struct {
    std::vector<std::string> args;
    std::string message;
  } rows[] = {
      {{"s.totl"}, "opensum: error: there is no column `s.totl`\n      hint: did you mean total?\n"},
      {{"z.total"}, "opensum: error: there is no sheet `z`\n"},
      {{"s.total", "--row", "0"}, "opensum: error: --row: a whole number from 1 is needed, not `0`\n"},
      {{"s.total", "--row", "7"}, "opensum: error: s has no row 7; it has 6 in all\n"},
      {{"s.total", "--line", "1"},
       "opensum: error: no row of s stands on line 1 of t.csv\n"
       "      hint: the line may be empty, above the table, or left out by keep\n"},
  };
  for (const auto& row : rows) {
    std::vector<std::string> args = {"explain"};
    args.insert(args.end(), row.args.begin(), row.args.end());
    const Outcome outcome = run_program(folder, args);
    EXPECT_EQ(outcome.code, 2);
    EXPECT_EQ(outcome.err, row.message);
    EXPECT_EQ(outcome.out, "");
  }
}

// By its row, what a cell follows from in that row alone is held no further than around it; by its line,
// where the row is found only afterwards, it is held whole.
TEST(Explain, SaysTheSameOfACellByItsRowAndByItsLine) {
  constexpr int kRows = 66'000;
  const TempFolder folder;
  std::string table = "site,a [m],b [s],c [K]\n";
  for (int row = 0; row < kRows; ++row) {
    const std::string c = row % 11 == 3 ? "<0.5" : std::to_string(row % 29 + 1);
    table += "\"s, " + std::to_string(row % 7) + "\"," + std::to_string(row) + ".5," +
             (row % 5 == 1 ? "" : std::to_string(row % 13)) + "," + c + "\n";
  }
  folder.write("t.csv", table);
  folder.write("study.toml", R"([sheet.t]
data = 't.csv'
fill.b = '1 [s]'
fill.c = ['limit(self) / 2', 'col_mean(self)']
equations = '''
  raw = a / measured(b)
  speed = a / b
  twice = 2 * speed
  least = fallback(c, limit(c))
  above = speed - col_mean(speed)
  step = speed - previous(speed)
  named = concat(site, "!")
'''
[sheet.u]
data = 't.csv'
link.w = { how = 'row' }
equations = 'v = w.a / b'
[sheet.w]
data = 't.csv'
)");
  std::size_t compared = 0;
  for (const char* column : {"t.site", "t.a", "t.b", "t.c", "t.raw", "t.speed", "t.twice", "t.least",
                             "t.above", "t.step", "t.named", "u.b", "u.v"}) {
    for (const int row : {65'536, 65'537}) {
      const Outcome by_row = run_program(folder, {"explain", column, "--row", std::to_string(row)});
      const Outcome by_line = run_program(folder, {"explain", column, "--line", std::to_string(row + 1)});
      ASSERT_EQ(by_row.code, 0) << column << by_row.err;
      EXPECT_EQ(by_row.out, by_line.out);
      ++compared;
    }
  }
  EXPECT_EQ(compared, 26U);
}

}  // namespace
}  // namespace opensum
