// Which rows and columns are written, in which order; sheets that are typed or planned.
#include <gtest/gtest.h>

#include "program/program.h"

namespace opensum {
namespace {

const std::string kSelectingData = "x [g],name,day\n3,b,2031-04-02\n,a,2031-04-01\n1,b,\n2,a,2031-04-03\n";

std::string written(const std::string& keys, Outcome* outcome = nullptr) {
  const TempFolder folder;
  folder.write("t.csv", kSelectingData);
  folder.write("study.toml", "headers = 'symbol'\n[sheet.s]\n" + keys);
  const Outcome result = run_program(folder, {"run"});
  if (outcome != nullptr) *outcome = result;
  return folder.has("results/s.csv") ? folder.read("results/s.csv") : result.err;
}

TEST(Selecting, SortsWithNullsLastAndEqualsAsTheyWere) {
  const std::string sheet = "data = 't.csv'\n";
  EXPECT_EQ(written(sheet + "sort_by = ['x']\n"),
            "x,name,day\n1,b,\n2,a,2031-04-03\n3,b,2031-04-02\n,a,2031-04-01\n");
  EXPECT_EQ(written(sheet + "sort_by = ['x down']\n"),
            "x,name,day\n3,b,2031-04-02\n2,a,2031-04-03\n1,b,\n,a,2031-04-01\n");
  EXPECT_EQ(written(sheet + "sort_by = ['name', 'day down']\n"),
            "x,name,day\n2,a,2031-04-03\n,a,2031-04-01\n3,b,2031-04-02\n1,b,\n");
  EXPECT_EQ(written(sheet + "sort_by = ['twice down']\nequations = 'twice = 2 * x'\nshow = ['twice']\n"),
            "twice\n6\n4\n2\n\"\"\n");
}

// Reductions and sequences see the rows of the source, whatever the order in which they are written.
TEST(Selecting, SortsOnlyWhatIsWritten) {
  EXPECT_EQ(written("data = 't.csv'\nsort_by = ['x']\nshow = ['x', 'n']\nequations = 'n = row_number()'\n"),
            "x,n\n1,3\n2,4\n3,1\n,2\n");
  const TempFolder folder;
  folder.write("t.csv", kSelectingData);
  folder.write("study.toml", "[sheet.s]\ndata = 't.csv'\nsort_by = ['x']\nequations = 'y = 2 * x'\n");
  ASSERT_EQ(run_program(folder, {"run"}).code, 0);
  EXPECT_EQ(folder.read("results/nulls.csv"),
            "sheet,row,line,column,state,reason,rule,value,began\n"
            "s,4,3,x,null,missing,,,s.x row "
            "4\ns,4,3,y,null,missing,,,s.x row 4\n");
  EXPECT_EQ(run_program(folder, {"explain", "s.y", "--row", "1"}).out,
            "s.y in row 1 (t.csv line 4) is 2 g\n\ny = 2 * x\n  = 2 * 1 [g]\n    x  1 g  "
            "measured, t.csv line 4\n");
}

TEST(Selecting, ShowsColumnsInTheOrderAskedFor) {
  EXPECT_EQ(written("data = 't.csv'\nshow = ['name', 'x']\nfill.x = '0'\n"),
            "name,x,x_filled\nb,3,3\na,,0\nb,1,1\na,2,2\n");
  Outcome outcome;
  written("data = 't.csv'\nshow = ['nme']\nsort_by = ['y down']\n", &outcome);
  EXPECT_EQ(outcome.code, 3);
  EXPECT_NE(outcome.err.find("there is no column `nme` in the sheet s"), std::string::npos);
  EXPECT_NE(outcome.err.find("there is no column `y` in the sheet s"), std::string::npos);
}

TEST(Selecting, TakesTablesTypedIntoTheStudyAndPlannedRows) {
  EXPECT_EQ(written("table = '''\nt [degC],v\n1,2\n3,\n'''\nequations = 'k = kelvin(t)'\n"),
            "t,v,k\n1,2,274.15\n3,,276.15\n");
  EXPECT_EQ(written("rows = 3\nequations = '''\n  n = row_number()\n  dose [mg] = n * 2.5 [mg]\n'''\n"),
            "n,dose\n1,2.5\n2,5\n3,7.5\n");
  Outcome outcome;
  written("rows = 0\n", &outcome);
  EXPECT_EQ(outcome.code, 3);
}

// A condition may look a measured value up in another sheet, whose own rows are chosen before.
TEST(Selecting, LooksThroughLinksByMeasuredKeys) {
  const std::string other = "link.k = { sheet = 'kinds', match = 'name = code' }\n";
  const std::string kinds = "[sheet.kinds]\ndata = 'k.csv'\nkeep = 'm < 9 [mg]'\n";
  const auto run = [&](const std::string& keys) {
    const TempFolder folder;
    folder.write("t.csv", kSelectingData);
    folder.write("k.csv", "code,m [mg],day\na,2000,2031-04-03\nb,1,2031-04-01\n");
    folder.write("study.toml", "headers = 'symbol'\n[sheet.s]\ndata = 't.csv'\n" + other + keys);
    const Outcome outcome = run_program(folder, {"run"});
    return folder.has("results/s.csv") ? folder.read("results/s.csv") : outcome.err;
  };
  const std::string all = "[sheet.kinds]\ndata = 'k.csv'\n";
  EXPECT_EQ(run("keep = 'k.m >= x'\n" + all), "x,name,day\n2,a,2031-04-03\n");
  EXPECT_EQ(run("keep = 'k.day < date(\"2031-04-02\")'\n" + all), "x,name,day\n3,b,2031-04-02\n1,b,\n");
  EXPECT_EQ(run("keep = 'half < x'\nequations = 'half = k.m / 2'\n" + kinds),
            "x,name,day,half\n3,b,2031-04-02,0.5\n1,b,,0.5\n");
  EXPECT_EQ(run("keep = 'not is_null(k.m)'\n" + kinds), "x,name,day\n3,b,2031-04-02\n1,b,\n");
  // What another sheet computes is known, too; two sheets that wait for one another are a ring.
  EXPECT_EQ(run("keep = 'k.twice > 5 [mg]'\n" + all + "equations = 'twice = 2 * m'\n"),
            "x,name,day\n,a,2031-04-01\n2,a,2031-04-03\n");
  const std::string ring =
      run("keep = 'k.m > 1 [mg]'\n[sheet.kinds]\ndata = 'k.csv'\nlink.s = { match = 'code = "
          "name' }\nkeep = 's.x > 0 [g]'\n");
  EXPECT_NE(ring.find("these definitions need one another: rows of s → rows of kinds → rows of s"),
            std::string::npos)
      << ring;
}

TEST(Selecting, WorksWithoutAStudy) {
  const TempFolder folder;
  folder.write("t.csv", kSelectingData);
  const Outcome outcome = run_program(folder, {"derive", "t.csv", "y = 2 * x", "--show", "name,y",
                                               "--sort-by", "name", "--sort-by", "x down"});
  EXPECT_EQ(outcome.out, "name,y [g]\na,4\na,\nb,6\nb,2\n") << outcome.err;
  EXPECT_EQ(run_program(folder, {"derive", "t.csv", "y = 2 * x", "--show", "nme"}).code, 3);
}

}  // namespace
}  // namespace opensum
