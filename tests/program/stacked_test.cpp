// One sheet of several files.
#include <gtest/gtest.h>

#include "program/program.h"

namespace opensum {
namespace {

const std::string kStackedStudy =
    "headers = 'symbol'\n[sheet.log]\ndata = 'runs/*.csv'\n"
    "equations = '''\n  per_file = col_mean(x, by: source_file)\n  gap = x - per_file\n'''\n";

TEST(Stacked, FilesOfAPatternAreReadInOrderAndNamedInEachRow) {
  const TempFolder folder;
  folder.write("runs/b.csv", "x [mm],t [s]\n5,1\n7,\n");
  folder.write("runs/a.csv", "t [s],x [mm]\n1,1\n2,3\n");
  folder.write("runs/other.txt", "no\n");
  folder.write("study.toml", kStackedStudy);
  const Outcome outcome = run_program(folder, {"run", "--details"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(folder.read("results/log.csv"),
            "t,x,source_file,per_file,gap\n1,1,runs/a.csv,2,-1\n2,3,runs/a.csv,2,1\n1,5,runs/b.csv,6,-1\n"
            ",7,runs/b.csv,6,1\n");
  EXPECT_EQ(folder.read("results/nulls.csv"), "sheet,row,line,column,state,reason,rule,value,began\n");
  EXPECT_NE(outcome.out.find("log: 4 rows from 2 files from runs/a.csv to runs/b.csv\n"), std::string::npos);
  const Outcome cell = run_program(folder, {"explain", "log.gap", "--row", "3"});
  EXPECT_NE(cell.out.find("log.gap in row 3 (runs/b.csv line 2) is -1 mm\n"), std::string::npos) << cell.out;
  EXPECT_NE(cell.out.find("5 mm (row 3, runs/b.csv line 2), 7 mm (row 4, runs/b.csv line 3)"),
            std::string::npos)
      << cell.out;
  const Outcome line = run_program(folder, {"explain", "log.gap", "--line", "3"});
  EXPECT_EQ(line.code, 2);
  EXPECT_EQ(
      line.err,
      "opensum: error: line 3 is met in more than one file: rows 2 and 4\n      hint: name the row with "
      "--row\n");
}

TEST(Stacked, AListIsReadAsWritten) {
  const TempFolder folder;
  folder.write("b.csv", "x [mm]\n5\n");
  folder.write("a.csv", "x [mm],y\n1,err\n2,3\n3,4\n");
  folder.write(
      "study.toml",
      "headers = 'symbol'\n[sheet.log]\ndata = ['b.csv', 'a.csv']\nread = { missing_also = ['err'] }\n"
      "columns.y.kind = 'number'\n");
  const Outcome outcome = run_program(folder, {"run", "--details"});
  EXPECT_EQ(outcome.code, 0);
  EXPECT_EQ(outcome.err, "opensum: warning: y stands in a.csv, but not in b.csv: it is null in those rows\n");
  EXPECT_EQ(folder.read("results/log.csv"), "x,y,source_file\n5,,b.csv\n1,,a.csv\n2,3,a.csv\n3,4,a.csv\n");
}

TEST(Stacked, CellsThatCannotBeReadNameTheirFile) {
  const TempFolder folder;
  folder.write("a.csv", "x [mm]\n1\n2\n");
  folder.write("b.csv", "x [mm]\n3\nno\n");
  folder.write("study.toml", "[sheet.log]\ndata = ['a.csv', 'b.csv']\nequations = 'y = 2 * x'\n");
  const Outcome outcome = run_program(folder, {"run", "--details"});
  EXPECT_EQ(outcome.code, 4);
  EXPECT_NE(outcome.err.find("b.csv:3: x [mm]: no\n"), std::string::npos) << outcome.err;
}

TEST(Stacked, UnitsMustAgree) {
  const TempFolder folder;
  folder.write("a.csv", "x [mm],z\n1,2\n");
  folder.write("b.csv", "x [um],z [s]\n3,4\n");
  folder.write("study.toml", "[sheet.log]\ndata = ['a.csv', 'b.csv']\n");
  const Outcome outcome = run_program(folder, {"run", "--details"});
  EXPECT_EQ(outcome.code, 3);
  EXPECT_NE(outcome.err.find("b.csv:1:1: error: x is in µm here, but in mm in a.csv\n"), std::string::npos)
      << outcome.err;
  EXPECT_NE(outcome.err.find("b.csv:1:8: error: z is in s here, but without a unit in a.csv\n"),
            std::string::npos)
      << outcome.err;
  EXPECT_FALSE(folder.has("results"));
  // One unit said for all settles it, with the usual warning where a header says another.
  folder.write("study.toml",
               "headers = 'symbol'\n[sheet.log]\ndata = ['a.csv', 'b.csv']\ncolumns = { x.unit = 'mm', "
               "z.unit = 's' }\n");
  const Outcome settled = run_program(folder, {"run", "--details"});
  EXPECT_EQ(settled.code, 0) << settled.err;
  EXPECT_EQ(folder.read("results/log.csv"), "x,z,source_file\n1,2,a.csv\n3,4,b.csv\n");
}

// A second run of the same experiment is two lines.
TEST(Stacked, ASecondRunIsTwoLines) {
  const TempFolder folder;
  folder.write("day1.csv", "x [mm]\n1\n3\n");
  folder.write("day2.csv", "x [mm]\n10\n20\n");
  folder.write("study.toml",
               "headers = 'symbol'\n[sheet.day1]\ndata = 'day1.csv'\nequations = 'd = x - col_first(x)'\n"
               "[sheet.day2]\nlike = 'day1'\ndata = 'day2.csv'\n");
  EXPECT_EQ(run_program(folder, {"run", "--details"}).code, 0);
  EXPECT_EQ(folder.read("results/day2.csv"), "x,d\n10,0\n20,10\n");
}

TEST(Stacked, ASourceColumnThatIsThereAlreadyIsAnError) {
  const TempFolder folder;
  folder.write("a.csv", "source_file\nx\n");
  folder.write("study.toml", "[sheet.log]\ndata = ['a.csv']\n");
  const Outcome outcome = run_program(folder, {"run", "--details"});
  EXPECT_EQ(outcome.code, 3);
  EXPECT_NE(outcome.err.find("source_file"), std::string::npos) << outcome.err;
}

}  // namespace
}  // namespace opensum
