// What the keys of a study do, seen in what the built program writes.
#include <gtest/gtest.h>

#include "program/program.h"

namespace opensum {
namespace {

// Runs a study over a table and gives the written sheet.
std::string written(const std::string& study, const std::string& table, std::string* summary = nullptr) {
  const TempFolder folder;
  folder.write("study.toml", study);
  folder.write("t.csv", table);
  const Outcome outcome = run_program(folder, {"run", "--details"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  if (summary != nullptr) *summary = outcome.out;
  return folder.read("results/run.csv");
}

const std::string kSheet = "[sheet.run]\ndata = 't.csv'\n";

TEST(StudyKeys, MeasuredTextIsKeptAsRead) {
  EXPECT_EQ(written(kSheet, "x [g],note,d\n1.50, b ,2031-04-02\n+2e3,\"a,\"\"b\"\"\",2031-04-03T10:00\n"),
            "x [g],note,d\n1.50,\" b \",2031-04-02\n+2e3,\"a,\"\"b\"\"\",2031-04-03T10:00\n");
}

TEST(StudyKeys, ColumnsGetSymbolsLabelsUnitsKindsAndDigits) {
  EXPECT_EQ(
      written(kSheet +
                  "columns.m = { header = 'Mass of it', unit = 'g', label = 'Mass' }\n"
                  "columns.id = { header = 2, kind = 'number' }\n"
                  "columns.third = { digits = 3 }\ncolumns.full = { digits = 'full' }\n"
                  "equations = '''\n  third = m / 3\n  full \"In full\" = m / 3\n  twice = 2 * id\n'''\n",
              "Mass of it,code\n1,007\n"),
      "Mass [g],code,third [g],In full [g],twice\n1,007,0.333,0.3333333333333333,14\n");
}

TEST(StudyKeys, HeadersCanBeSymbols) {
  EXPECT_EQ(written("headers = 'symbol'\n" + kSheet, "Long name [g]\n1\n"), "Long_name\n1\n");
  EXPECT_EQ(written("headers = 'symbol'\n" + kSheet + "headers = 'label'\n", "Long name [g]\n1\n"),
            "Long name [g]\n1\n");
}

TEST(StudyKeys, MissingTokensAreReplacedOrAdded) {
  const std::string table = "x,y\n-999,NA\n1,2\n";
  EXPECT_EQ(written(kSheet + "read = { missing_also = ['-999'] }\nequations = 'z = x + 1'\n", table),
            "x,y,z\n,,\n1,2,2\n");
  EXPECT_EQ(written(kSheet + "read = { missing = ['-999'], unreadable = 'null' }\n"
                             "columns.y = { kind = 'number' }\nequations = 'z = y + 1'\n",
                    table),
            "x,y,z\n,,\n1,2,3\n");
}

TEST(StudyKeys, ConstantsAndOwnUnitsServeEverySheet) {
  EXPECT_EQ(
      written("constants = '''\n  per_rack [vial] = 24\n  racks [rack] = 2\n  total = racks + per_rack\n'''\n"
              "[units]\nvial = 'base'\nrack = '24 vial'\n" +
                  kSheet + "equations = 'left [vial] = total - used'\n",
              "used [vial]\n10\n"),
      "used [vial],left [vial]\n10,62\n");
}

TEST(StudyKeys, NullPoliciesHoldForTheWholeStudy) {
  const std::string table = "a,b,c\n1,,3\n4,5,6\n";
  const std::string equations = "equations = '''\n  m = row_mean(a, b, c)\n  s = col_sum(b)\n'''\n";
  std::string summary;
  EXPECT_EQ(written(kSheet + equations, table, &summary), "a,b,c,m,s\n1,,3,,5\n4,5,6,5,5\n");
  EXPECT_NE(summary.find("nulls left out: s: col_sum of 1 of 2 values\n"), std::string::npos) << summary;
  EXPECT_EQ(written("[nulls]\nrow = 'skip'\ncolumn = 'propagate'\n" + kSheet + equations, table, &summary),
            "a,b,c,m,s\n1,,3,2,\n4,5,6,5,\n");
  EXPECT_NE(summary.find("nulls left out: m leaves out 1 null in 1 of 2 rows\n"), std::string::npos)
      << summary;
}

TEST(StudyKeys, SeriesOfSeveralSheetsShareAFigure) {
  const TempFolder folder;
  folder.write("one.csv", "x [m],y [kg]\n1,1\n2,\n");
  folder.write("two.csv", "x [cm],y [g]\n150,2000\n");
  folder.write("study.toml",
               "[sheet.one]\ndata = 'one.csv'\n[sheet.two]\ndata = 'two.csv'\n"
               "[plot.both]\nsheets = ['one', 'two']\nx = 'x'\ny = 'y'\nformats = ['svg']\n");
  const Outcome outcome = run_program(folder, {"run", "--details"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_NE(outcome.out.find("plot both: 1 of 2 points of one not drawn: a value is null\n"),
            std::string::npos);
  EXPECT_TRUE(folder.has("results/figures/both.svg"));
  EXPECT_FALSE(folder.has("results/figures/both.png"));
}

// A column of a hundred thousand rows crosses chunks; the same number by two ways.
TEST(StudyKeys, LongTablesGiveTheSameAsTheirSums) {
  std::string table = "x\n";
  for (int i = 0; i < 100000; ++i) table += std::to_string(i % 1000) + "\n";
  const TempFolder folder;
  folder.write("t.csv", table);
  const Outcome outcome =
      run_program(folder, {"derive", "t.csv", "s = col_sum(x)", "m = col_mean(x) * col_count(x)"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_TRUE(outcome.out.starts_with("x,s,m\n0,49950000,49950000\n")) << outcome.out.substr(0, 60);
}

}  // namespace
}  // namespace opensum
