// What bad input gets from the built program: the right exit code, a message, and nothing half-written.
#include <gtest/gtest.h>
#include <unistd.h>

#include "program/program.h"

namespace opensum {
namespace {

const char* const kBadInputStudy = "[sheet.run]\ndata = 't.csv'\nequations = 'a = x + 1'\n";

TEST(BadFiles, EndWithExitCodeFourAndLeaveNothing) {
  const struct {
    const char* what;
    std::string data;
    int code;
  } rows[] = {
      {"empty", "", 4},
      {"blank lines", "\n\n", 4},
      {"header only", "x,y\n", 0},
      {"one row", "x,y\n1,2\n", 0},
      {"all null", "x\nNA\n-\n", 0},
      {"ragged", "x,y\n1\n", 4},
      {"NUL", std::string("x,y\n1,\0\n", 8), 4},
      {"not UTF-8", "x,y\n1,\xFF\n", 4},
      {"UTF-16 without its mark",
       std::string("x\0\n\0"
                   "1\0\n\0",
                   8),
       4},
      {"UTF-16",
       std::string("\xFF\xFEx\0\n\0"
                   "1\0\n\0",
                   10),
       0},
      {"unclosed quote", "x,y\n1,\"\n", 4},
      {"text where numbers are wanted", "x\na\nb\n", 3},
      {"mostly numbers", "x\n1\n2\nerr\n", 4},
      {"a huge value", "x\n1e308\n-1e308\n", 0},
      {"beyond the largest number", "x\n1\n2\n1e999\n", 4},
      {"a wrong unit", "x [kg]\n1\n", 3},
      {"duplicate headers", "x,x\n1,2\n", 3},
      {"another header", "z\n1\n", 3},
      {"odd header", "\"x\"\n1\n", 0},
  };
  for (const auto& row : rows) {
    const TempFolder folder;
    folder.write("study.toml", kBadInputStudy);
    folder.write("t.csv", row.data);
    const Outcome outcome = run_program(folder, {"run"});
    EXPECT_EQ(outcome.code, row.code) << row.what << "\n" << outcome.err;
    EXPECT_EQ(folder.has("results"), row.code == 0) << row.what;
    EXPECT_EQ(outcome.err.find("error:") != std::string::npos, row.code != 0) << row.what << outcome.err;
    EXPECT_EQ(folder.read("t.csv"), row.data);
    // The same file looked at gives a table or the same kind of message.
    EXPECT_TRUE(run_program(folder, {"look", "t.csv"}).code == 0 || row.code != 0) << row.what;
  }
}

TEST(BadStudies, ReportEverythingTogether) {
  const TempFolder folder;
  folder.write("t.csv", "x [kg],y\n1,2\n");
  folder.write("study.toml",
               "titel = 'x'\n"
               "[sheet.run]\n"
               "data = 't.csv'\n"
               "equations = '''\n"
               "  a = x + y\n"
               "  b = q\n"
               "  c = b + 1\n"
               "  d [kkg] = x\n"
               "'''\n"
               "[plot.p]\n"
               "x = 'x'\n"
               "y = 'zz'\n");
  const Outcome outcome = run_program(folder, {"check"});
  EXPECT_EQ(outcome.code, 3);
  EXPECT_EQ(outcome.err,
            "study.toml:1:1: error: unknown key `titel`\n"
            "    1 | titel = 'x'\n"
            "      | ^^^^^\n"
            "      hint: did you mean title?\n"
            "study.toml:5:7: error: kg (x) cannot be added to a plain number (y)\n"
            "    5 |   a = x + y\n"
            "      |       ^   ~\n"
            "      |       x is in kg, y a plain number\n"
            "      hint: both sides of + need the same dimension\n"
            "study.toml:6:7: error: there is no column or constant `q`\n"
            "    6 |   b = q\n"
            "      |       ^\n"
            "study.toml:8:6: error: `kkg` is not a known unit\n"
            "    8 |   d [kkg] = x\n"
            "      |      ^^^\n"
            "      hint: did you mean kg?\n"
            "study.toml:12:6: error: there is no column `zz` in the sheet run\n"
            "   12 | y = 'zz'\n"
            "      |      ^^\n");
  EXPECT_EQ(outcome.out, "");
}

TEST(BadStudies, KeepTheirPlacesWithWindowsLineEnds) {
  const TempFolder folder;
  folder.write("t.csv", "x\r\n1\r\n");
  folder.write("study.toml",
               "# é\r\n[sheet.run]\r\ndata = \"t.csv\"\r\nequations = \"\"\"\r\n  a = x\r\n  b = µ + "
               "\\\"\r\n\"\"\"\r\n");
  const Outcome outcome = run_program(folder, {"check"});
  EXPECT_EQ(outcome.code, 3);
  EXPECT_NE(outcome.err.find("study.toml:6:11: error: the text has no closing quote\n    6 |   b = µ + "
                             "\\\"\n      |           ^^\n"),
            std::string::npos)
      << outcome.err;
}

TEST(BadPlaces, ToWriteAreExitCodeTwo) {
  const TempFolder folder;
  folder.write("t.csv", "x\n1\n");
  folder.write("study.toml", kBadInputStudy);
  folder.write("results", "a file where the folder should be");
  const Outcome blocked = run_program(folder, {"run"});
  EXPECT_EQ(blocked.code, 2);
  EXPECT_EQ(blocked.err, "opensum: error: results/run.csv cannot be written: Not a directory\n");
  const Outcome elsewhere = run_program(folder, {"run", "--output", "fresh"});
  EXPECT_EQ(elsewhere.code, 0) << elsewhere.err;
  if (::geteuid() != 0) {
    std::filesystem::create_directory(folder.path("closed"));
    std::filesystem::permissions(folder.path("closed"), std::filesystem::perms::owner_read);
    EXPECT_EQ(run_program(folder, {"run", "--output", "closed/deep"}).code, 2);
  }
  const Outcome onto_input = run_program(folder, {"run", "--output", "."});
  EXPECT_EQ(onto_input.code, 0) << "run.csv and t.csv are different files";
  folder.write("run.csv", "x\n1\n");
  folder.write("own.toml", "output = '.'\n[sheet.run]\ndata = 'run.csv'\n");
  EXPECT_EQ(run_program(folder, {"run", "own.toml"}).code, 2);
  EXPECT_EQ(folder.read("run.csv"), "x\n1\n");
}

TEST(BadCommandLines, NameTheOption) {
  const TempFolder folder;
  folder.write("t.csv", "x\n1\n");
  const struct {
    std::vector<std::string> args;
    const char* err;
  } rows[] = {
      {{"run", "stdy.toml"},
       "opensum: error: stdy.toml cannot be read: No such file or directory\n"
       "      hint: name the study: opensum run STUDY; opensum demo writes one to begin with\n"},
      {{"derive", "t.csv", "a = x", "--output", "t.docx"},
       "opensum: error: `t.docx` is no ending of a table that can be written\n"
       "      hint: write a name ending in .csv, .tsv, .json, .ods, .xlsx or .sqlite\n"},
      {{"look", "t.csv", "--unit", "x"}, "opensum: error: --unit takes SYMBOL=UNIT, not `x`\n"},
      {{"look", "t.csv", "--unit", "x=kgg"},
       "--unit:1:3: error: `kgg` is not a known unit\n"
       "    1 | x=kgg\n"
       "      |   ^^^\n"
       "      hint: did you mean kg?\n"},
      {{"units", "presure"}, "opensum: error: there is no unit, constant or quantity `presure`\n"},
      {{"look", "tt.csv"},
       "opensum: error: tt.csv cannot be read: No such file or directory\n"
       "      hint: did you mean t.csv?\n"},
  };
  for (const auto& row : rows) {
    const Outcome outcome = run_program(folder, row.args);
    EXPECT_EQ(outcome.err, row.err);
    EXPECT_EQ(outcome.out, "");
    EXPECT_GE(outcome.code, 2);
  }
}

}  // namespace
}  // namespace opensum
