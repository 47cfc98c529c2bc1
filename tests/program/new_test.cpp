// Starter studies: they run as they stand, and with every line uncommented that is there for it.
#include <gtest/gtest.h>

#include <sstream>

#include "program/program.h"

namespace opensum {
namespace {

// The study with the comments taken away from lines that are code behind a #.
std::string uncommented(const std::string& study) {
  std::istringstream stream(study);
  std::string out;
  for (std::string line; std::getline(stream, line);) {
    const std::size_t at = line.find_first_not_of(' ');
    if (at != std::string::npos && line.compare(at, 2, "# ") == 0) {
      const std::string code = line.substr(at + 2);
      const bool prose = code.find(" = ") == std::string::npos && code.find("\": ") == std::string::npos &&
                         code != "'''" && !code.starts_with("[plot.") && !code.starts_with("[fit.");
      const bool example = code.starts_with("NAME ") || code.starts_with("The names");
      if (!prose && !example) line = line.substr(0, at) + code;
    }
    out += line + '\n';
  }
  return out;
}

TEST(New, WritesAStudyThatRunsAsItStandsAndUncommented) {
  const TempFolder folder;
  ASSERT_EQ(run_program(folder, {"demo", "d"}).code, 0);
  const Outcome outcome = run_program(folder, {"new", "d/day1.csv"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(outcome.out, "written: study.toml\nIt runs as it stands: opensum run\n");
  const Outcome plain = run_program(folder, {"run"});
  EXPECT_EQ(plain.code, 0) << plain.err;
  EXPECT_EQ(plain.err, "");
  // The measured columns are written as they were read, nulls as empty cells.
  std::string data = folder.read("d/day1.csv");
  data.replace(data.find(",NA,"), 4, ",,");
  EXPECT_EQ(folder.read("results/day1.csv"), data);
  folder.write("study.toml", uncommented(folder.read("study.toml")));
  const Outcome full = run_program(folder, {"run", "--details"});
  EXPECT_EQ(full.code, 0) << full.err << folder.read("study.toml");
  EXPECT_TRUE(folder.has("results/figures/first.png"));
  EXPECT_NE(full.out.find("mean_of_row"), std::string::npos);
  EXPECT_NE(full.out.find("filled:"), std::string::npos);
  EXPECT_NE(full.out.find("kept:"), std::string::npos);
  EXPECT_NE(full.out.find("claims:"), std::string::npos);
}

TEST(New, KeepsHowAFileIsReadAndNotesDoubts) {
  const TempFolder folder;
  folder.write("sub/log.csv",
               "made by a logger\nCharge (C);Clock;Day;Load;Load;Höhe [m]\n1,5;0:10;02.04.2031;-999;<1;5\n"
               "2,5;0:20;03.04.2031;4;2;6\nend\n");
  const std::vector<std::string> options = {"--skip-rows",    "1", "--skip-end", "1",
                                            "--decimal-char", ",", "--label",    "Höhe=Height"};
  std::vector<std::string> args = {"new", "sub/log.csv", "--output", "sub/s.toml"};
  args.insert(args.end(), options.begin(), options.end());
  const Outcome outcome = run_program(folder, args);
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  const std::string study = folder.read("sub/s.toml");
  for (const char* line :
       {"data = \"log.csv\"\nread.skip_rows = 1\nread.skip_end = 1\nread.decimal_char = \",\"\n",
        "columns.Charge_C.header = \"Charge (C)\"  # number, no unit stated, all 2 known\n",
        // What is doubtful stands before the columns.
        "take away its # where it is right:\n# columns.Charge_C.unit = \"°C\"  # if `C` is the unit\n",
        "# columns.Clock.kind = \"duration\"", "# columns.Day.format = \"%d.%m.%Y\"",
        "columns.Load_1.header = 4  #", "# columns.Load_1.missing = [\"\", \"-999\"]",
        "columns.\"Höhe\".header = \"Höhe [m]\"  # number in m, all 2 known\ncolumns.\"Höhe\".label = "
        "\"Height\"\n",
        "# fill.Load_2 = \"limit(self) / 2\"\n"}) {
    EXPECT_NE(study.find(line), std::string::npos) << line << "\n" << study;
  }
  EXPECT_EQ(run_program(folder, {"run", "sub/s.toml"}).code, 0);
  folder.write("sub/s.toml", uncommented(study));
  const Outcome full = run_program(folder, {"run", "sub/s.toml"});
  EXPECT_EQ(full.code, 0) << full.err << folder.read("sub/s.toml");
}

TEST(New, TakesSeveralFilesAndNeverOverwrites) {
  const TempFolder folder;
  folder.write("a/x.csv", "v [m]\n1\n");
  folder.write("b/x.csv", "v [m]\n2\n");
  EXPECT_EQ(run_program(folder, {"new", "a/x.csv", "b/x.csv"}).code, 0);
  EXPECT_EQ(run_program(folder, {"run"}).code, 0);
  EXPECT_EQ(folder.read("results/x_2.csv"), "v [m]\n2\n");
  const std::string before = folder.read("study.toml");
  EXPECT_NE(before.find("[sheet.x_2]\nlike = \"x_1\""), std::string::npos) << before;
  folder.write("linked.toml", uncommented(before));
  EXPECT_EQ(run_program(folder, {"run", "linked.toml"}).code, 0);
  const Outcome again = run_program(folder, {"new", "a/x.csv"});
  EXPECT_EQ(again.code, 2);
  EXPECT_EQ(again.err,
            "opensum: error: study.toml exists already\n      hint: choose another name with --output\n");
  EXPECT_EQ(folder.read("study.toml"), before);
}

TEST(New, TakesTablesOfAnyKind) {
  for (const std::string data : {"x\n", "x\n\n\n", "a,b\nx,y\n", "t,v\n2031-04-02,true\n",
                                 "\"x\ny\",v\n1,1\n\"a \"\"q\"\"\nb\",2\n3,4\n4,5\n", "\"a \\\"\"b\"\n1\n"}) {
    const TempFolder folder;
    folder.write("t.csv", data);
    EXPECT_EQ(run_program(folder, {"new", "t.csv"}).code, 0) << data;
    const Outcome outcome = run_program(folder, {"run"});
    EXPECT_EQ(outcome.code, 0) << data << outcome.err << folder.read("study.toml");
  }
  const TempFolder folder;
  folder.write("t.csv", "");
  EXPECT_EQ(run_program(folder, {"new", "t.csv"}).code, 4);
  EXPECT_EQ(run_program(folder, {"new", "none.csv"}).code, 4);
  EXPECT_EQ(folder.names().size(), 1U);
}

TEST(New, OffersLinksThatMatchLikeSheetsAndRowsForCells) {
  const TempFolder folder;
  folder.write("a.csv", "code,x [g]\np,1\nq,2\nr,3\n");
  folder.write("b.csv", "code,x [g]\ns,4\n");
  folder.write("codes.csv", "code,density [kg/m^3],x [g]\np,1000,9\nq,900,8\nq2,900,7\n");
  folder.write("twice.csv", "code,n\np,1\np,2\nq,3\nr,4\n");
  std::string wide = "Specimen width: 12.5 mm\nOperator: none\n\nname";
  std::string row = "u";
  for (int i = 400; i < 420; ++i) {
    wide += "," + std::to_string(i) + " nm";
    row += "," + std::to_string(i % 7);
  }
  folder.write("wide.csv", wide + "\n" + row + "\n" + row + "\n");
  ASSERT_EQ(run_program(folder, {"new", "a.csv", "b.csv", "codes.csv", "twice.csv"}).code, 0);
  const std::string study = folder.read("study.toml");
  EXPECT_NE(study.find("[sheet.b]\nlike = \"a\"  # the same headers\ndata = \"b.csv\"\n"), std::string::npos)
      << study;
  EXPECT_NE(study.find("2 of 3 rows have their code there:\n# link.codes = { match = \"code\" }"),
            std::string::npos);
  // A key that repeats there is none, and none of the numbers is found.
  EXPECT_EQ(study.find("link.twice"), std::string::npos) << study;
  EXPECT_EQ(study.find("match = \"x\""), std::string::npos) << study;
  EXPECT_EQ(run_program(folder, {"run"}).code, 0);
  const Outcome outcome =
      run_program(folder, {"new", "wide.csv", "--skip-rows", "3", "--output", "wide.toml"});
  ASSERT_EQ(outcome.code, 0) << outcome.err;
  const std::string of_wide = folder.read("wide.toml");
  EXPECT_NE(of_wide.find("# preamble.Specimen_width = \"Specimen width\"  # 12.5 mm"), std::string::npos)
      << of_wide;
  EXPECT_NE(of_wide.find("# c_400_nm … c_419_nm (20 columns)"), std::string::npos) << of_wide;
  EXPECT_NE(of_wide.find("# one_row_per_cell = \"c_400_nm..c_419_nm\""), std::string::npos);
  EXPECT_EQ(run_program(folder, {"run", "wide.toml"}).code, 0);
}

}  // namespace
}  // namespace opensum
