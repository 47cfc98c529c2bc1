// Sheets that have the rows of another sheet, or one row for each group of them.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <cmath>
#include <map>
#include <random>
#include <sstream>

#include "program/program.h"

namespace opensum {
namespace {

const std::string kSamples =
    "site,depth [m],t [degC],c [mg/L]\n"
    "A,1,20,3\nB,2,18,\nA,3,16,5\n,1,15,7\nB,1,19,8\nC,2,17,<9\n";

const std::string kRowsOfStudy =
    "headers = 'symbol'\n[sheet.samples]\ndata = 's.csv'\nsort_by = ['depth down']\n"
    "equations = 'load [g/m^2] = c * depth'\n";

// Runs a study on the samples in a folder of its own.
Outcome run(const TempFolder& folder, const std::string& study) {
  folder.write("s.csv", kSamples);
  folder.write("study.toml", study);
  return run_program(folder, {"run", "--details"});
}

TEST(RowsOf, AreTakenAsTheOtherSheetIsSorted) {
  const TempFolder folder;
  const Outcome outcome =
      run(folder, kRowsOfStudy +
                      "[sheet.all]\nrows_of = 'samples'\n"
                      "equations = '''\n  place = row_number()\n  before = previous(c)\n'''\n");
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(folder.read("results/all.csv"),
            "site,depth,t,c,load,place,before\nA,3,16,5,15,1,\nB,2,18,,,2,5\nC,2,17,<9,,3,\nA,1,20,3,3,4,\n"
            ",1,15,7,7,5,3\nB,1,19,8,8,6,7\n");
  EXPECT_NE(outcome.out.find("all: 6 rows of samples\n  taken over: 5 columns, 3 with nulls\n"),
            std::string::npos)
      << outcome.out;
}

TEST(RowsOf, TakesOnlySomeColumnsAndReachesTheOthersInTheSameRow) {
  const TempFolder folder;
  const Outcome outcome = run(
      folder, kRowsOfStudy +
                  "[sheet.some]\nrows_of = 'samples'\ntake = ['load', 'site']\nkeep = 'load > 5 [g/m^2]'\n"
                  "sort_by = ['site']\nequations = '''\n  d [cm] = samples.depth\n"
                  "  net = load - col_min(samples.load)\n  place = rank(load)\n'''\n");
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(folder.read("results/some.csv"),
            "load,site,d,net,place\n15,A,300,12,3\n8,B,100,5,2\n7,,100,4,1\n");
  EXPECT_NE(outcome.out.find(
                "some: 3 rows of samples\n  kept: 3 of 6 rows where load > 5 [g/m^2]\n        2 of the rows "
                "left out because the condition is null there\n"),
            std::string::npos)
      << outcome.out;
}

TEST(RowsOf, GapsKeepTheCellWhereTheyBegan) {
  const TempFolder folder;
  run(folder, kRowsOfStudy +
                  "[sheet.deep]\nrows_of = 'samples'\nkeep = 'depth > 1 [m]'\nfill.c = 'limit(self) / 3'\n");
  EXPECT_EQ(folder.read("results/deep.csv"),
            "site,depth,t,c,c_filled,load\nA,3,16,5,5,15\nB,2,18,,,\nC,2,17,<9,3,\n");
  const std::string nulls = folder.read("results/nulls.csv");
  EXPECT_NE(nulls.find("deep,2,3,c,null,missing,limit(self) / 3: missing,,samples.c row 2\n"),
            std::string::npos)
      << nulls;
  EXPECT_NE(nulls.find("deep,3,7,c,filled,below_limit,limit(self) / 3,3,samples.c row 3\n"),
            std::string::npos)
      << nulls;
  EXPECT_NE(nulls.find("deep,3,7,load,null,below_limit,,,samples.c row 3\n"), std::string::npos) << nulls;
  const Outcome cell = run_program(folder, {"explain", "deep.c", "--row", "3"});
  EXPECT_NE(cell.out.find("taken over from samples row 3: measured, s.csv line 7: the cell reads"),
            std::string::npos)
      << cell.out << cell.err;
}

TEST(RowsOf, OneRowPerGroupReducesTheRowsOfTheGroup) {
  const TempFolder folder;
  const Outcome outcome =
      run(folder, kRowsOfStudy +
                      "[sheet.sites]\nrows_of = 'samples'\none_row_per = ['site']\nkeep = 'depth < 3 [m]'\n"
                      "equations = '''\n  n = col_count(c)\n  load \"Load\" = col_sum(load)\n"
                      "  t [degC] = col_mean(t, where: c > 3 [mg/L])\n  first = col_first(c)\n"
                      "  share [%] = load / col_sum(samples.load)\n  each = load / n\n'''\n"
                      "[sheet.whole]\nrows_of = 'samples'\none_row_per = []\nequations = 't = col_mean(t)'\n"
                      "[sheet.rich]\nrows_of = 'sites'\nkeep = 'sites.n <= 1'\ntake = ['site', 'each']\n");
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(folder.read("results/sites.csv"),
            "site,n,load,t,first,share,each\nB,1,8,19,,24.2424242424,8\nC,0,,,,,\nA,1,3,,3,9.09090909091,3\n"
            ",1,7,15,7,21.2121212121,7\n");
  EXPECT_EQ(folder.read("results/whole.csv"), "t\n17.5\n");
  EXPECT_EQ(folder.read("results/rich.csv"), "site,each\nB,8\nC,\nA,3\n,7\n");
  EXPECT_NE(outcome.out.find(
                "sites: 4 rows for groups of rows of samples\n  kept: 5 of 6 rows where depth < 3 [m]\n"),
            std::string::npos)
      << outcome.out;
  const Outcome cell = run_program(folder, {"explain", "sites.load", "--row", "1"});
  EXPECT_NE(cell.out.find("from 1 value of samples and 1 null: 8 g/m^2 (row 6, line 6)"), std::string::npos)
      << cell.out;
  const Outcome checked = run_program(folder, {"check"});
  EXPECT_NE(checked.out.find("sites: one row per site of the rows of samples where depth < 3 [m]\n"),
            std::string::npos)
      << checked.out;
}

TEST(RowsOf, NoRowsGiveNoGroupsButAWholeHasItsRow) {
  const TempFolder folder;
  folder.write("s.csv", "a [m],b\n");
  folder.write(
      "study.toml",
      "headers = 'symbol'\n[sheet.s]\ndata = 's.csv'\n[sheet.g]\nrows_of = 's'\none_row_per = ['b']\n"
      "equations = 'm = col_mean(a)'\n[sheet.w]\nrows_of = 's'\none_row_per = []\n"
      "equations = 'm = col_mean(a)'\n");
  const Outcome outcome = run_program(folder, {"run", "--details"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(folder.read("results/g.csv"), "b,m\n");
  EXPECT_EQ(folder.read("results/w.csv"), "m\n\"\"\n");
}

TEST(RowsOf, ARingOverRowsAndColumnsIsPrinted) {
  const TempFolder folder;
  const Outcome outcome =
      run(folder,
          "[sheet.samples]\ndata = 's.csv'\nequations = 'x = t - col_mean(cold.t)'\nsort_by = ['x']\n"
          "[sheet.cold]\nrows_of = 'samples'\n");
  EXPECT_EQ(outcome.code, 3);
  EXPECT_NE(
      outcome.err.find("these definitions need one another: samples.x → cold.t → rows of cold → samples.x"),
      std::string::npos)
      << outcome.err;
}

TEST(RowsOf, ItsColumnsHaveNamesUnitsAndPatternsLikeMeasuredOnes) {
  const TempFolder folder;
  const Outcome outcome =
      run(folder,
          "headers = 'symbol'\n[sheet.samples]\ndata = 's.csv'\nequations = '''\n  t_low [degC] = t - 1 "
          "[K]\n  t_high "
          "[degC] = t + 1 [K]\n'''\n[sheet.pairs]\nrows_of = 'samples'\ntake = ['t_low', 't_high']\n"
          "equations = '''\n  t_mid = row_mean(\"t_*\")\n  span = t_high - t_low\n'''\n");
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(folder.read("results/pairs.csv").substr(0, 42), "t_low,t_high,t_mid,span\n19,21,20,2\n17,19,1");
  const Outcome wrong =
      run(folder,
          "[sheet.samples]\ndata = 's.csv'\n[sheet.b]\nrows_of = 'samples'\nequations = 'x = "
          "depth + t'\n");
  EXPECT_EQ(wrong.code, 3);
  EXPECT_NE(wrong.err.find("m (depth) cannot be added to °C (t)"), std::string::npos) << wrong.err;
}

// Groups, a link and rows of rows, against plain loops over the same made-up numbers.
TEST(RowsOf, ThreeSheetsAgreeWithPlainLoops) {
  constexpr int kRows = 400;
  std::mt19937 random(20);
  std::string log = "unit,run,flow [L/min],dT [K]\n";
  struct Row {
    std::string unit;
    int run;
    double flow;
    double rise;
  };
  std::vector<Row> rows;
  for (int i = 0; i < kRows; ++i) {
    Row row{std::string(1, static_cast<char>('a' + random() % 5)), static_cast<int>(random() % 3),
            static_cast<double>(random() % 1000) / 64, static_cast<double>(random() % 1000) / 32};
    const bool known = random() % 8 != 0;
    log +=
        fmt::format("{},{},{},{}\n", row.unit, row.run, row.flow, known ? fmt::format("{}", row.rise) : "");
    if (!known) row.rise = NAN;
    rows.push_back(row);
  }
  const std::map<std::string, double> cp = {{"a", 4.18}, {"b", 3.9}, {"c", 2.4}, {"d", 1.9}};
  std::string fluids = "name,cp [J/(g K)]\n";
  for (const auto& [name, value] : cp) fluids += fmt::format("{},{}\n", name, value);
  const TempFolder folder;
  folder.write("log.csv", log);
  folder.write("fluids.csv", fluids);
  folder.write(
      "study.toml",
      "headers = 'symbol'\nconstants = 'rho = 1 [kg/L]'\n[sheet.fluids]\ndata = 'fluids.csv'\n"
      "[sheet.log]\ndata = 'log.csv'\nkeep = 'flow > 1 [L/min]'\n"
      "link.fluids = { match = 'unit = name' }\n"
      "equations = 'duty [W] = flow * rho * fluids.cp * dT'\n"
      "[sheet.runs]\nrows_of = 'log'\none_row_per = ['unit', 'run']\nequations = '''\n"
      "  n = col_count(duty)\n  mean = col_mean(duty)\n  top = col_max(duty)\n  of_unit [%] = mean / "
      "col_mean(log.duty)\n'''\n");
  const Outcome outcome = run_program(folder, {"run", "--details"});
  ASSERT_EQ(outcome.code, 0) << outcome.err;
  struct Group {
    std::vector<double> duties;
  };
  std::vector<std::pair<std::string, int>> order;
  std::map<std::pair<std::string, int>, Group> groups;
  double all = 0;
  int count = 0;
  for (const Row& row : rows) {
    if (row.flow <= 1) continue;
    const auto key = std::pair(row.unit, row.run);
    if (groups.find(key) == groups.end()) order.push_back(key);
    Group& group = groups[key];
    const auto fluid = cp.find(row.unit);
    if (fluid == cp.end() || std::isnan(row.rise)) continue;
    const double duty = row.flow / 60 * fluid->second * 1000 * row.rise;
    group.duties.push_back(duty);
    all += duty;
    ++count;
  }
  std::istringstream lines(folder.read("results/runs.csv"));
  std::string line;
  std::getline(lines, line);
  EXPECT_EQ(line, "unit,run,n,mean,top,of_unit");
  std::size_t compared = 0;
  for (const auto& key : order) {
    ASSERT_TRUE(std::getline(lines, line));
    std::istringstream fields(line);
    std::vector<std::string> cells;
    for (std::string cell; std::getline(fields, cell, ',');) cells.push_back(cell);
    cells.resize(6);
    const std::vector<double>& duties = groups[key].duties;
    EXPECT_EQ(cells[0], key.first);
    EXPECT_EQ(cells[1], std::to_string(key.second));
    EXPECT_EQ(cells[2], std::to_string(duties.size()));
    if (duties.empty()) {
      EXPECT_EQ(cells[3] + cells[4] + cells[5], "");
      continue;
    }
    double sum = 0;
    double top = duties.front();
    for (const double duty : duties) {
      sum += duty;
      top = std::max(top, duty);
    }
    const double mean = sum / static_cast<double>(duties.size());
    EXPECT_NEAR(std::stod(cells[3]) / mean, 1, 1e-11);
    EXPECT_NEAR(std::stod(cells[4]) / top, 1, 1e-11);
    EXPECT_NEAR(std::stod(cells[5]) / (100 * mean / (all / count)), 1, 1e-11);
    ++compared;
  }
  EXPECT_FALSE(std::getline(lines, line));
  EXPECT_GE(compared, 12U);
}

// From long to wide: a column for each text of a list, and loops over the columns of the source.
TEST(RowsOf, LoopsOverTextsMakeWideTables) {
  const TempFolder folder;
  folder.write(
      "study.toml",
      "[sheet.long]\ntable = \"\"\"\nrun,sensor,reading [V]\n1,A,1\n1,B 2,2\n1,A,3\n2,B 2,5\n\"\"\"\n"
      "[sheet.wide]\nrows_of = 'long'\none_row_per = ['run']\nequations = \"\"\"\n"
      " for s in \\\"A\\\", \\\"B 2\\\": r_{s} \\\"Sensor {s.label}\\\" = col_mean(reading, where: sensor == "
      "\\\"{s}\\\")\n for c in reading: top_{c} = col_max({c})\n\"\"\"\n");
  const Outcome outcome = run_program(folder, {"run", "--details"});
  ASSERT_EQ(outcome.code, 0) << outcome.err << folder.read("study.toml");
  EXPECT_EQ(folder.read("results/wide.csv"),
            "run,Sensor A [V],Sensor B 2 [V],top_reading [V]\n1,2,2,3\n2,,5,5\n");
}

}  // namespace
}  // namespace opensum
