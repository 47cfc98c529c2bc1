// What is written once and used again: sheets like others, templates, shared files, formulas, loops.
#include <gtest/gtest.h>

#include "program/program.h"

namespace opensum {
namespace {

const std::string kRun = "t [s],ch1 [mV],ch2 [mV],ch3 [mV]\n0,1,10,100\n1,2,20,\n2,4,40,400\n";
const std::string kDark = "t [s],ch1 [mV],ch2 [mV],ch3 [mV]\n0,0.5,1,10\n1,0.5,2,20\n2,1,3,30\n";

struct Written {
  Outcome outcome;
  std::vector<std::string> sheets;
};

Written run(const std::string& study, const std::vector<std::pair<std::string, std::string>>& files,
            const std::vector<std::string>& sheets) {
  const TempFolder folder;
  for (const auto& [name, text] : files) folder.write(name, text);
  folder.write("study.toml", "headers = 'symbol'\n" + study);
  Written written;
  written.outcome = run_program(folder, {"run"});
  for (const std::string& sheet : sheets) {
    const std::string name = "results/" + sheet + ".csv";
    written.sheets.push_back(folder.has(name) ? folder.read(name) : "");
  }
  return written;
}

// The second run of an experiment is two lines.
TEST(Again, ASheetIsLikeAnother) {
  const Written written =
      run("[sheet.b]\nlike = 'a'\ndata = 'b.csv'\n"
          "[sheet.a]\ndata = 'a.csv'\nread = { skip_rows = 1 }\ncolumns.x = { header = 'ch1' }\nkeep = 't > "
          "0 [s]'\n"
          "fill.ch3 = '0'\nequations = '''\n  y = 2 * x\n  z = ch3 + x\n'''\nclaims = '\"x\": x > 0 [mV]'\n",
          {{"a.csv", "log\n" + kRun}, {"b.csv", "log\n" + kDark}}, {"a", "b"});
  EXPECT_EQ(written.outcome.code, 0) << written.outcome.err;
  EXPECT_EQ(written.sheets[0], "t,x,ch2,ch3,ch3_filled,y,z\n1,2,20,,0,4,2\n2,4,40,400,400,8,404\n");
  EXPECT_EQ(written.sheets[1], "t,x,ch2,ch3,ch3_filled,y,z\n1,0.5,2,20,20,1,20.5\n2,1,3,30,30,2,31\n");
}

TEST(Again, WhatIsInheritedIsReplacedAddedToOrLeftOut) {
  const Written written = run(
      "[template.base]\nkeep = 't > 0 [s]'\nfill.ch3 = '0'\ncolumns.ch1 = { label = 'One', unit = 'mV' }\n"
      "equations = '''\n  y = 2 * ch1\n  z = ch3\n  w = y\n'''\n"
      "[sheet.b]\nlike = 'base'\ndata = 'a.csv'\nwithout = ['keep', 'fill.ch3', 'z']\n"
      "columns.ch1 = { label = 'Eins' }\nequations = '''\n  y = 3 * ch1\n  v = w\n'''\n",
      {{"a.csv", kRun}}, {"b"});
  EXPECT_EQ(written.outcome.code, 0) << written.outcome.err;
  EXPECT_EQ(written.sheets[0], "t,ch1,ch2,ch3,y,w,v\n0,1,10,100,3,3,3\n1,2,20,,6,6,6\n2,4,40,400,12,12,12\n");
}

// The same correction (sample minus reference, from its first value) on all channels is one line.
TEST(Again, ALoopWritesADefinitionForEachColumn) {
  const Written written =
      run("[sheet.a]\ndata = 'a.csv'\nlink.dark = 'row'\n"
          "equations = '''\n  first = row_number()\n"
          "  for ch in ch1..ch3 as nets: {ch}_net \"Net {ch.label}\" [mV] = ({ch} - dark.ch1)\n"
          "    - col_first({ch} - dark.ch1)   # from its first value\n"
          "  least = row_min(nets, nulls: skip)\n'''\n[sheet.dark]\ndata = 'd.csv'\n",
          {{"a.csv", kRun}, {"d.csv", kDark}}, {"a"});
  EXPECT_EQ(written.outcome.code, 3);
  const Written good =
      run("[sheet.a]\ndata = 'a.csv'\nlink.dark = 'row'\n"
          "equations = '''\n  first = row_number()\n"
          "  for ch in ch1..ch3 as nets: {ch}_net \"Net {ch.label}\" [mV] = (({ch} - dark.{ch})\n"
          "    - col_first({ch} - dark.{ch}))   # from its first value\n"
          "  least = row_min(nets, nulls: skip)\n'''\n[sheet.dark]\ndata = 'd.csv'\n",
          {{"a.csv", kRun}, {"d.csv", kDark}}, {"a"});
  EXPECT_EQ(good.outcome.code, 0) << good.outcome.err;
  EXPECT_EQ(good.sheets[0],
            "t,ch1,ch2,ch3,first,ch1_net,ch2_net,ch3_net,least\n0,1,10,100,1,0,0,0,0\n1,2,20,,2,1,9,,1\n"
            "2,4,40,400,3,2.5,28,280,2.5\n");
}

TEST(Again, AFaultInALoopNamesTheTurnAndInAnInheritedLineTheSheets) {
  const Outcome outcome = run("[sheet.a]\ndata = 'a.csv'\nequations = 'for c in \"ch*\": {c}_x [K] = "
                              "{c}'\n[sheet.b]\nlike = 'a'\n",
                              {{"a.csv", "ch1 [K],ch2 [mV]\n1,2\n"}}, {})
                              .outcome;
  EXPECT_EQ(outcome.code, 3);
  EXPECT_EQ(outcome.err,
            "study.toml:4:37: error: the result is in mV, which cannot be given in K\n"
            "    4 | equations = 'for c in \"ch*\": {c}_x [K] = {c}'\n"
            "      |                                     ^\n"
            "      in: for c = ch2\n      in the sheets a, b\n")
      << outcome.err;
}

// A formula kept in a lab file serves several studies; a fault in it is shown there and where it is used.
TEST(Again, FormulasAndTemplatesAreKeptInAFile) {
  const std::string lab =
      "constants = 'gain = 4'\nformulas = '''\n  scaled(x, offset) = gain * (x - offset)\n  twice(x) = "
      "scaled(x, x / 2) / 2\n'''\n"
      "[units]\ntick = '2 mV'\n[template.log]\nread = { missing_also = ['-999'] }\nequations = 'd = "
      "scaled(ch1, 1 [mV])'\n";
  for (const char* equation : {"e = scaled(ch2, ch1)", "e = gain * (ch2 - ch1)"}) {
    const TempFolder folder;
    folder.write("lab/lab.toml", lab);
    folder.write("s/a.csv", kRun);
    folder.write("s/study.toml",
                 std::string("headers = 'symbol'\nuse = '../lab/lab.toml'\n[sheet.a]\nlike = 'log'\n"
                             "data = 'a.csv'\nequations = '''\n  ") +
                     equation + "\n  f = twice(ch1)\n  g [tick] = ch1\n'''\n");
    const Outcome outcome = run_program(folder, {"run", "s/study.toml"});
    EXPECT_EQ(outcome.code, 0) << outcome.err;
    EXPECT_EQ(folder.read("s/results/a.csv"),
              "t,ch1,ch2,ch3,d,e,f,g\n0,1,10,100,0,36,1,0.5\n1,2,20,,4,72,2,1\n2,4,40,400,12,144,4,2\n");
    // Files that are used are inputs: on the record, and never written over.
    EXPECT_NE(folder.read("s/results/record.json").find("lab/lab.toml"), std::string::npos);
  }
  const TempFolder folder;
  folder.write("lab.toml", "formulas = '''\n  off(x, y) = x + y\n'''\n");
  folder.write("a.csv", kRun);
  folder.write("study.toml", "use = 'lab.toml'\n[sheet.a]\ndata = 'a.csv'\nequations = 'e = off(ch1, t)'\n");
  const Outcome outcome = run_program(folder, {"run"});
  EXPECT_EQ(outcome.code, 3);
  EXPECT_EQ(outcome.err,
            "lab.toml:2:15: error: mV (x) cannot be added to s (y)\n    2 |   off(x, y) = x + y\n"
            "      |               ^   ~\n      |               x is in mV, y in s\n"
            "      in: off(ch1, t) as used at study.toml:4:18\n      hint: both sides of + need the same "
            "dimension\n");
}

TEST(Again, FormulasAreExplainedAsWhatTheyCalculate) {
  const TempFolder folder;
  folder.write("a.csv", kRun);
  folder.write("study.toml",
               "constants = 'gain = 4'\nformulas = 'scaled(x, offset) = gain * (x - offset)'\n"
               "[sheet.a]\ndata = 'a.csv'\nequations = 'e = scaled(ch2, 2 * ch1)'\n");
  const std::string text = run_program(folder, {"explain", "a.e", "--row", "2"}).out;
  EXPECT_NE(text.find("is 64 mV\n\ne = scaled(ch2, 2 * ch1)\n  = 4 * (20 [mV] - 2 * 2 [mV])\n"),
            std::string::npos)
      << text;
}

}  // namespace
}  // namespace opensum
