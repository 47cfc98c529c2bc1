// What becomes of gaps: fills, rows left out, claims on what is left, seen in what the built program writes.
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "program/program.h"

namespace opensum {
namespace {

const std::string kGapsData =
    "t [s],a [g],b [g],c [g],site,conc [mg/L],day\n"
    "0,1,2,3,x,<0.05,2031-04-02\n"
    "1,,2.5,3.5,x,0.2,\n"
    "2,2,,4,y,0.3,2031-04-04\n"
    "3,,,5,,>20,2031-04-05\n"
    "4,3,4,,x,,2031-04-06\n";

struct GapsRun {
  Outcome outcome;
  std::string sheet;
  std::string nulls;
  nlohmann::json record;
};

GapsRun run(const std::string& keys, const std::string& data = kGapsData) {
  const TempFolder folder;
  folder.write("t.csv", data);
  folder.write("study.toml", "nulls_of = 'all'\n[sheet.s]\ndata = 't.csv'\nheaders = 'symbol'\n" + keys);
  GapsRun result;
  result.outcome = run_program(folder, {"run", "--details"});
  if (folder.has("results")) {
    result.sheet = folder.read("results/s.csv");
    result.nulls = folder.read("results/nulls.csv");
    result.record = nlohmann::json::parse(folder.read("results/record.json"));
  }
  EXPECT_EQ(folder.read("t.csv"), data);
  return result;
}

// A column of a written sheet, from its symbol.
std::vector<std::string> column(const std::string& sheet, const std::string& symbol) {
  std::vector<std::vector<std::string>> rows(1, std::vector<std::string>(1));
  for (const char c : sheet) {
    if (c == ',') rows.back().emplace_back();
    if (c == '\n') rows.emplace_back(1);
    if (c != ',' && c != '\n') rows.back().back() += c;
  }
  std::vector<std::string> found;
  const auto place = std::find(rows[0].begin(), rows[0].end(), symbol) - rows[0].begin();
  if (place == static_cast<std::ptrdiff_t>(rows[0].size())) return {"there is no " + symbol};
  for (std::size_t i = 1; i + 1 < rows.size(); ++i) found.push_back(rows[i][static_cast<std::size_t>(place)]);
  return found;
}

using Cells = std::vector<std::string>;

TEST(Fills, TakeEveryKindOfRule) {
  const struct {
    const char* key;
    const char* symbol;
    Cells cells;
  } rows[] = {
      {"fill.a = '0'", "a_filled", {"1", "0", "2", "0", "3"}},
      {"fill.a = '500 [mg]'", "a_filled", {"1", "0.5", "2", "0.5", "3"}},
      {"fill.a = 'b'", "a_filled", {"1", "2.5", "2", "", "3"}},
      {"fill.a = 'col_mean(self)'", "a_filled", {"1", "2", "2", "2", "3"}},
      {"fill.c = 'col_mean(self, by: site)'", "c_filled", {"3", "3.5", "4", "5", "3.25"}},
      {"fill.a = 'row_mean(b, c, nulls: skip)'", "a_filled", {"1", "3", "2", "5", "3"}},
      {"fill.a = 'previous_known(self)'", "a_filled", {"1", "1", "2", "2", "3"}},
      {"fill.a = 'next_known(self)'", "a_filled", {"1", "2", "2", "3", "3"}},
      {"fill.b = 'interpolated(self, along: t)'", "b_filled", {"2", "2.5", "3", "3.5", "4"}},
      {"fill.conc = ['limit(self) / 2', '1 [mg/L]']", "conc_filled", {"0.025", "0.2", "0.3", "10", "1"}},
      {"fill.a = ['row_mean(b, c)', 'c']", "a_filled", {"1", "3", "2", "5", "3"}},
      {"fill.site = '\"none\"'", "site_filled", {"x", "x", "y", "none", "x"}},
      {"fill.site = 'upper(previous_known(self))'", "site_filled", {"x", "x", "y", "Y", "x"}},
      {"fill.day = 'date(\"2031-01-01\") + t'",
       "day_filled",
       {"2031-04-02", "2031-01-01T00:00:01", "2031-04-04", "2031-04-05", "2031-04-06"}},
      {"fill.day = '\"2031-01-01\"'",
       "day_filled",
       {"2031-04-02", "2031-01-01", "2031-04-04", "2031-04-05", "2031-04-06"}},
  };
  for (const auto& row : rows) {
    const GapsRun result = run(row.key);
    EXPECT_EQ(result.outcome.code, 0) << row.key << result.outcome.err;
    EXPECT_EQ(column(result.sheet, row.symbol), row.cells) << row.key;
  }
}

TEST(Fills, TakePatternsWhichExactNamesBeat) {
  const std::string data = "w_1 [g],w_2 [g],v [g]\n1,,3\n,5,6\n";
  const GapsRun all = run("fill.'w_*' = 'v'\nequations = 'sum = row_sum(\"w_*\")'\n", data);
  EXPECT_EQ(column(all.sheet, "w_1_filled"), (Cells{"1", "6"}));
  EXPECT_EQ(column(all.sheet, "w_2_filled"), (Cells{"3", "5"}));
  EXPECT_EQ(column(all.sheet, "sum"), (Cells{"4", "11"}));
  const GapsRun one = run("fill.w_1 = '0'\nfill.'w_?' = 'v'\n", data);
  EXPECT_EQ(column(one.sheet, "w_1_filled"), (Cells{"1", "0"}));
  EXPECT_EQ(column(one.sheet, "w_2_filled"), (Cells{"3", "5"}));
  const Outcome unlike = run("equations = 'a = row_sum(\"?\")'\n", "m [g],s [m]\n1,2\n").outcome;
  EXPECT_NE(unlike.err.find("error: g (m) does not go with m (s)"), std::string::npos) << unlike.err;
}

TEST(Fills, AreWhatEveryNameMeansButMeasured) {
  const GapsRun result =
      run("fill.a = 'b'\nequations = '''\n  z = a + c\n  m = measured(a) + c\n  n = col_count(a)\n"
          "  k = col_count(measured(a))\n  r = row_sum(a..c, nulls: skip)\n'''\n");
  EXPECT_EQ(result.outcome.code, 0) << result.outcome.err;
  EXPECT_EQ(column(result.sheet, "a"), (Cells{"1", "", "2", "", "3"}));
  EXPECT_EQ(column(result.sheet, "z"), (Cells{"4", "6", "6", "", ""}));
  EXPECT_EQ(column(result.sheet, "m"), (Cells{"4", "", "6", "", ""}));
  EXPECT_EQ(column(result.sheet, "n").front(), "4");
  EXPECT_EQ(column(result.sheet, "k").front(), "3");
  EXPECT_EQ(column(result.sheet, "r"), (Cells{"6", "8.5", "6", "5", "7"}));
}

TEST(Fills, SeeEachOtherAsMeasured) {
  const GapsRun result = run("fill.a = 'b'\nfill.b = 'a'\n");
  EXPECT_EQ(column(result.sheet, "a_filled"), (Cells{"1", "2.5", "2", "", "3"}));
  EXPECT_EQ(column(result.sheet, "b_filled"), (Cells{"2", "2.5", "2", "", "4"}));
}

TEST(Fills, AreOnTheRecordCellByCell) {
  const GapsRun result = run("fill.a = ['b', 'next_known(self) / 0']\nequations = 'z = a + c'\n");
  EXPECT_EQ(result.nulls,
            "sheet,row,line,column,state,reason,rule,value,began\n"
            "s,1,2,conc,null,below_limit,,<0.05,s.conc row 1\n"
            "s,2,3,a,filled,missing,b,2.5,s.a row 2\ns,2,3,day,null,missing,,,s.day row 2\n"
            "s,3,4,b,null,missing,,,s.b row 3\n"
            "s,4,5,a,null,missing,b; next_known(self) / 0: divide_by_zero,,s.a row 4\n"
            "s,4,5,b,null,missing,,,s.b row 4\ns,4,5,site,null,missing,,,s.site row 4\n"
            "s,4,5,conc,null,above_limit,,>20,s.conc row 4\ns,4,5,z,null,missing,,,s.a row 4\n"
            "s,5,6,c,null,missing,,,s.c row 5\ns,5,6,conc,null,missing,,,s.conc row 5\n"
            "s,5,6,z,null,missing,,,s.c row 5\n");
  const auto& fill = result.record["sheets"][0]["fills"][0];
  EXPECT_EQ(fill["gaps"], 2);
  EXPECT_EQ(fill["rules"][0]["filled"], 1);
  EXPECT_EQ(fill["rules"][1]["filled"], 0);
  EXPECT_EQ(fill["left"]["divide_by_zero"], 1);
  EXPECT_NE(result.outcome.out.find("    a: 1 of 2 gaps\n      1 by b\n      0 by next_known(self) / 0\n"
                                    "      1 left, for the rule gave null there: 1 divide_by_zero\n"),
            std::string::npos)
      << result.outcome.out;
}

TEST(Fills, OfUnreadableCellsNeedThemDeclaredNull) {
  const std::string data = "x,y\n1,5\nerr,6\n3,7\n";
  EXPECT_EQ(run("fill.x = 'y'\n", data).outcome.code, 4);
  const GapsRun result = run("read = { unreadable = 'null' }\nfill.x = 'y'\n", data);
  EXPECT_EQ(column(result.sheet, "x_filled"), (Cells{"1", "6", "3"}));
  EXPECT_EQ(column(result.sheet, "x"), (Cells{"1", "", "3"}));
}

TEST(Fills, TakeTablesOfAnySize) {
  for (const std::string data : {"x\n", "x,y\n1,2\n", "x,y\n,\n,\n", "x\n\n\n1\n"}) {
    const GapsRun result = run("fill.x = 'col_mean(self)'\n", data);
    EXPECT_EQ(result.outcome.code, 0) << data << result.outcome.err;
  }
  EXPECT_EQ(run("fill.x = 'col_mean(self)'\n", "").outcome.code, 4);
}

TEST(Keep, LeavesRowsWithTheirLinesAndCountsTheOthers) {
  const GapsRun result = run("keep = 'site == \"x\"'\nequations = 'n = row_number()'\n");
  EXPECT_EQ(column(result.sheet, "t"), (Cells{"0", "1", "4"}));
  EXPECT_EQ(column(result.sheet, "n"), (Cells{"1", "2", "3"}));
  EXPECT_NE(result.outcome.out.find("  kept: 3 of 5 rows where site == \"x\"\n"
                                    "        1 of the rows left out because the condition is null there\n"),
            std::string::npos)
      << result.outcome.out;
  EXPECT_NE(result.nulls.find("s,3,6,c,null,missing,,,s.c row 3"), std::string::npos) << result.nulls;
}

TEST(Keep, SaysWhatTheNullsOfEachColumnCost) {
  const GapsRun result = run("keep = 'complete(a..c)'\n");
  EXPECT_EQ(column(result.sheet, "t"), (Cells{"0"}));
  EXPECT_NE(result.outcome.out.find("  kept: 1 of 5 rows where complete(a..c)\n"
                                    "        nulls of a cost 2 rows, 1 of them alone\n"
                                    "        nulls of b cost 2 rows, 1 of them alone\n"
                                    "        nulls of c cost 1 row, 1 of them alone\n"),
            std::string::npos)
      << result.outcome.out;
}

TEST(Keep, UsesEquationsThatGoRowByRow) {
  EXPECT_EQ(
      column(run("keep = 'twice > 3 [g]'\nequations = 'twice = half + half\n  half = a / 1'\n").sheet, "t"),
      Cells{"there is no t"});  // two definitions on two lines need ''' quotes
  const std::string equations =
      "equations = '''\n  twice = one + one\n  one = a\n  mean = col_mean(a)\n'''\n";
  EXPECT_EQ(column(run("keep = 'twice > 3 [g]'\n" + equations).sheet, "t"), (Cells{"2", "4"}));
  EXPECT_EQ(run("keep = 'a > mean'\n" + equations).outcome.code, 3);
  const Outcome linked = run("link.o = 'row'\nkeep = 'o.x > 0'\n[sheet.o]\ntable = '''\nx\n1\n'''\n").outcome;
  EXPECT_EQ(linked.code, 4);
  EXPECT_NE(linked.err.find("s has 5 rows in its source and o has 1"), std::string::npos) << linked.err;
}

TEST(Keep, CountsUnreadableCellsInKeptRowsOnly) {
  const std::string data = "x,ok\n1,true\nerr,false\n3,true\n";
  const GapsRun result = run("keep = 'ok'\nequations = 'y = x + 1'\n", data);
  EXPECT_EQ(result.outcome.code, 0) << result.outcome.err;
  EXPECT_EQ(column(result.sheet, "y"), (Cells{"2", "4"}));
  EXPECT_EQ(run("keep = 'not ok'\nequations = 'y = x + 1'\n", data).outcome.code, 4);
}

TEST(Claims, EndWithExitCodeFiveAfterEverythingIsWritten) {
  const std::string claims = "claims = '''\n  \"a is small\": a < 2 [g]\n  \"b is known\": b > 0\n'''\n";
  const GapsRun result = run(claims);
  EXPECT_EQ(result.outcome.code, 5);
  EXPECT_EQ(column(result.sheet, "t").size(), 5U);
  const auto& facts = result.record["sheets"][0]["claims"];
  EXPECT_EQ(facts[0]["true"], 1);
  EXPECT_EQ(facts[0]["false"], 2);
  EXPECT_EQ(facts[0]["undecided"], 2);
  EXPECT_NE(result.outcome.err.find("t.csv:4: a = 2 g"), std::string::npos) << result.outcome.err;
  EXPECT_NE(result.outcome.out.find("\"a is small\" BROKEN: true in 1 of 5 rows, false in 2, undecided in 2"),
            std::string::npos);
  EXPECT_EQ(run("claims_are = 'warnings'\n" + claims).outcome.code, 0);
  EXPECT_EQ(run("claims = '\"c is large\": c >= 3 [g]'\n").outcome.code, 0);
  EXPECT_EQ(run("claims = '\"c\": c + 1 [g]'\n").outcome.code, 3);
}

TEST(Policy, MakesAnErrorOfADivisionByZeroInsideAReduction) {
  const TempFolder folder;
  folder.write("t.csv", "x,y\n1,2\n3,0\n");
  folder.write(
      "study.toml",
      "[nulls]\ndivide_by_zero = 'error'\n[sheet.s]\ndata = 't.csv'\nequations = 'm = col_mean(x / y)'\n");
  const Outcome outcome = run_program(folder, {"run", "--details"});
  EXPECT_EQ(outcome.code, 4);
  EXPECT_NE(outcome.err.find("t.csv:3: x = 3, y = 0"), std::string::npos) << outcome.err;
}

const std::string kProbes =
    "[sheet.run]\ntable = \"\"\"\nt [s],a [degC],b "
    "[degC]\n0,20,21\n1,21,22.1\n2,22,\n3,23,24\n4,24,25.1\n5,25,\n\"\"\"\n"
    "fill.b = 'fit_value(b_on_a, a)'\nequations = 'raw = measured(b)'\n"
    "[fit.b_on_a]\nsheet = 'run'\nx = 'a'\nmodel = 'line'\n";

// The second probe from the first: a fit of what was measured closes the gaps, b = 0.83 °C + 1.01 (a - 0 °C).
TEST(Gaps, AreFilledByAFitOfMeasuredColumns) {
  for (const char* y : {"raw", "measured(b)"}) {
    const TempFolder folder;
    folder.write("study.toml", kProbes + "y = '" + y + "'\n");
    const Outcome outcome = run_program(folder, {"run", "--details"});
    ASSERT_EQ(outcome.code, 0) << y << outcome.err;
    EXPECT_EQ(
        folder.read("results/run.csv"),
        "t [s],a [°C],b [°C],b (filled) [°C],raw [°C]\n0,20,21,21,21\n1,21,22.1,22.1,22.1\n2,22,,23.05,\n"
        "3,23,24,24,24\n4,24,25.1,25.1,25.1\n5,25,,26.08,\n");
  }
  const TempFolder folder;
  folder.write("study.toml", kProbes + "y = 'b'\n");
  const Outcome cycle = run_program(folder, {"check"});
  EXPECT_EQ(cycle.code, 3);
  EXPECT_NE(cycle.err.find("fill of b → fit b_on_a → fill of b"), std::string::npos) << cycle.err;
}

TEST(Gaps, AreFilledByDerivedColumnsOfOtherSheets) {
  const TempFolder folder;
  folder.write("study.toml", kProbes +
                                 "y = 'raw'\n[sheet.other]\ntable = \"\"\"\nt [s],c [K]\n0,1\n5,\n\"\"\"\n"
                                 "link.run = { match = 't' }\nfill.c = 'run.b - run.a'\n");
  const Outcome outcome = run_program(folder, {"run", "--details"});
  ASSERT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(folder.read("results/other.csv"), "t [s],c [K],c (filled) [K]\n0,1,1\n5,,1.08\n");
}

TEST(Derive, FillsAndKeepsWithoutAStudy) {
  const TempFolder folder;
  folder.write("t.csv", kGapsData);
  const Outcome outcome = run_program(folder, {"derive", "t.csv", "z [g] = a + b", "--fill", "a = b",
                                               "--fill", "a = c", "--keep", "t < 4 [s]"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(outcome.out.substr(0, outcome.out.find('\n', outcome.out.find('\n') + 1) + 1),
            "t [s],a [g],a (filled) [g],b [g],c [g],site,conc [mg/L],day,z [g]\n"
            "0,1,1,2,3,x,<0.05,2031-04-02,3\n");
  const Outcome wrong = run_program(folder, {"derive", "t.csv", "z = a", "--fill", "a = col_men(self)"});
  EXPECT_EQ(wrong.code, 3);
  EXPECT_EQ(
      wrong.err,
      "--fill:1:5: error: there is no function `col_men`\n    1 | a = col_men(self)\n      |     ^^^^^^^\n"
      "      hint: did you mean col_mean?\n");
  EXPECT_EQ(run_program(folder, {"derive", "t.csv", "z = a", "--fill", "a"}).code, 2);
}

}  // namespace
}  // namespace opensum
