// Equations across sheets, seen in what the built program writes.
#include <gtest/gtest.h>

#include "program/program.h"

namespace opensum {
namespace {

struct SheetRun {
  Outcome outcome;
  std::string run;
};

// Runs a study of files; gives the sheet `run`.
SheetRun run(const std::string& study, const std::vector<std::pair<std::string, std::string>>& files) {
  const TempFolder folder;
  for (const auto& [name, text] : files) folder.write(name, text);
  folder.write("study.toml", "headers = 'symbol'\n" + study);
  SheetRun result;
  result.outcome = run_program(folder, {"run", "--details"});
  if (folder.has("results")) result.run = folder.read("results/run.csv");
  return result;
}

const std::string kRun = "t [s],x [mm],site\n0,1,a\n1,2,b\n2,,a\n3,4,c\n";
const std::string kDark = "t [ms],x [mm]\n0,0.5\n1000,0.25\n2000,1\n3000,2\n";
const std::string kSites = "name,height [m],since\nb,20,2031-04-02\na,10,2030-01-01\n";

TEST(Sheets, AreLinkedRowByRow) {
  const SheetRun result =
      run("[sheet.run]\ndata = 'r.csv'\nlink.dark = 'row'\n"
          "equations = '''\n  net = x - dark.x\n  zero = x - dark.x + "
          "col_first(dark.x)\n'''\n[sheet.dark]\ndata = 'd.csv'\n",
          {{"r.csv", kRun}, {"d.csv", kDark}});
  EXPECT_EQ(result.outcome.code, 0) << result.outcome.err;
  EXPECT_EQ(result.run, "t,x,site,net,zero\n0,1,a,0.5,1\n1,2,b,1.75,2.25\n2,,a,,\n3,4,c,2,2.5\n");
  EXPECT_NE(result.outcome.out.find("  link dark: 4 of 4 rows matched\n"), std::string::npos);
}

TEST(Sheets, AreLinkedByTheRowsOfTheirSourcesWhateverIsKept) {
  const SheetRun result =
      run("[sheet.run]\ndata = 'r.csv'\nkeep = 't > 0 [s]'\nlink.dark = 'row'\n"
          "equations = 'net = x - dark.x'\n[sheet.dark]\ndata = 'd.csv'\nkeep = 't != 3 [s]'\n",
          {{"r.csv", kRun}, {"d.csv", kDark}});
  EXPECT_EQ(result.run, "t,x,site,net\n1,2,b,1.75\n2,,a,\n3,4,c,\n") << result.outcome.err;
  EXPECT_NE(result.outcome.out.find("link dark: 2 of 3 rows matched; not: 1 no_match"), std::string::npos)
      << result.outcome.out;
}

TEST(Sheets, AreLinkedByKeysWithUnits) {
  const SheetRun result =
      run("[sheet.run]\ndata = 'r.csv'\nlink.dark = { match = 't' }\nlink.place = { sheet = 'sites', match = "
          "'site = name' }\n"
          "equations = '''\n  net = x - dark.x\n  height = place.height\n  age [d] = place.since - "
          "date(\"2030-01-01\")\n"
          "  who = fallback(place.name, \"none\")\n'''\n[sheet.dark]\ndata = 'd.csv'\n[sheet.sites]\ndata = "
          "'s.csv'\n",
          {{"r.csv", kRun}, {"d.csv", kDark}, {"s.csv", kSites}});
  EXPECT_EQ(
      result.run,
      "t,x,site,net,height,age,who\n0,1,a,0.5,10,0,a\n1,2,b,1.75,20,456,b\n2,,a,,10,0,a\n3,4,c,2,,,none\n")
      << result.outcome.err;
  EXPECT_NE(result.outcome.out.find("link place to sites: 3 of 4 rows matched; not: 1 no_match"),
            std::string::npos);
}

TEST(Sheets, AreLinkedByNearestPreviousAndInterpolation) {
  const std::string table = "u [mm],v\n0,0\n2,20\n6,100\n";
  const SheetRun result =
      run("[sheet.run]\ndata = 'r.csv'\n"
          "link.line = { sheet = 'table', match = 'x = u', how = 'interpolate' }\n"
          "link.near = { sheet = 'table', match = 'x = u', how = 'nearest', within = '0.0015 m' }\n"
          "link.step = { sheet = 'table', match = 'x = u', how = 'previous' }\n"
          "equations = '''\n  i = line.v\n  n = near.v\n  p = step.v\n'''\n[sheet.table]\ndata = 't.csv'\n",
          {{"r.csv", kRun}, {"t.csv", table}});
  EXPECT_EQ(result.run, "t,x,site,i,n,p\n0,1,a,10,,0\n1,2,b,20,20,20\n2,,a,,,\n3,4,c,60,,20\n")
      << result.outcome.err;
  EXPECT_NE(result.outcome.out.find("n  1  1 of 4 known; null: 1 ambiguous, 2 no_match"), std::string::npos)
      << result.outcome.out;
}

// Keys that are derived, and a link into a sheet that links on.
TEST(Sheets, AreLinkedByDerivedKeysAndThroughOthers) {
  const SheetRun result =
      run("[sheet.run]\ndata = 'r.csv'\nlink.mid = { match = 'key' }\nequations = '''\n  key = concat(site, "
          "\"1\")\n"
          "  deep = mid.height * 2\n'''\n"
          "[sheet.mid]\ndata = 'm.csv'\nlink.sites = { match = 'place = name' }\nequations = 'height = "
          "sites.height + 1 [m]'\n"
          "[sheet.sites]\ndata = 's.csv'\n",
          {{"r.csv", kRun}, {"m.csv", "key,place\na1,b\nb1,a\n"}, {"s.csv", kSites}});
  EXPECT_EQ(result.run, "t,x,site,key,deep\n0,1,a,a1,42\n1,2,b,b1,22\n2,,a,a1,42\n3,4,c,c1,\n")
      << result.outcome.err;
}

TEST(Sheets, ReduceOthersWithoutALink) {
  const SheetRun result =
      run("[sheet.run]\ndata = 'r.csv'\nfill.x = 'col_mean(dark.x)'\nequations = '''\n  m = col_mean(dark.x, "
          "where: dark.t > 0 [s])\n"
          "  n = col_count(dark.x)\n  late = x - col_last(dark.x)\n'''\nclaims = '\"small\": x < "
          "col_max(dark.x) + 3 [mm]'\n"
          "[sheet.dark]\ndata = 'd.csv'\n",
          {{"r.csv", kRun}, {"d.csv", kDark}});
  EXPECT_EQ(result.run,
            "t,x,x_filled,site,m,n,late\n0,1,1,a,1.08333333333,4,-1\n1,2,2,b,1.08333333333,4,0\n"
            "2,,0.9375,a,1.08333333333,4,-1.0625\n3,4,4,c,1.08333333333,4,2\n")
      << result.outcome.err;
}

// Sheets may need one another as long as their columns do not.
TEST(Sheets, NeedOneAnotherColumnByColumn) {
  const SheetRun result =
      run("[sheet.run]\ndata = 'r.csv'\nlink.dark = 'row'\nequations = '''\n  double = 2 * x\n  back = "
          "dark.more + x\n'''\n"
          "[sheet.dark]\ndata = 'd.csv'\nlink.run = 'row'\nequations = 'more = x + run.double'\n",
          {{"r.csv", kRun}, {"d.csv", kDark}});
  EXPECT_EQ(result.run, "t,x,site,double,back\n0,1,a,2,3.5\n1,2,b,4,6.25\n2,,a,,\n3,4,c,8,14\n")
      << result.outcome.err;
  const SheetRun cycle =
      run("[sheet.run]\ndata = 'r.csv'\nlink.dark = 'row'\nequations = 'a = dark.b'\n"
          "[sheet.dark]\ndata = 'd.csv'\nlink.run = 'row'\nequations = 'b = run.a'\n",
          {{"r.csv", kRun}, {"d.csv", kDark}});
  EXPECT_EQ(cycle.outcome.code, 3);
  EXPECT_NE(cycle.outcome.err.find("these definitions need one another: run.a → dark.b → run.a"),
            std::string::npos)
      << cycle.outcome.err;
}

TEST(Sheets, AreExplainedAcrossLinks) {
  const TempFolder folder;
  folder.write("r.csv", kRun);
  folder.write("t.csv", "u [mm],v\n0,0\n2,20\n6,100\n");
  folder.write(
      "study.toml",
      "[sheet.run]\ndata = 'r.csv'\nlink.t = { sheet = 'table', match = 'x = u', how = 'interpolate' }\n"
      "equations = 'w = t.v - col_mean(table.v)'\n[sheet.table]\ndata = 't.csv'\n");
  EXPECT_EQ(
      run_program(folder, {"explain", "run.w", "--row", "4"}).out,
      "run.w in row 4 (r.csv line 5) is 20\n\nw = t.v - col_mean(table.v)\n  = 60 - 40\n"
      "    t.v  60  linked by x = 4 mm: 0.5 of the way from 20 in table row 2 (t.csv line 3) to 100 in row 3 "
      "(line 4)\n"
      "    col_mean(table.v) is 40\n"
      "      from 3 values of table: 0 (row 1, line 2), 20 (row 2, line 3), 100 (row 3, line 4)\n");
}

}  // namespace
}  // namespace opensum
