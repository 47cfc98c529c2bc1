// Files that several studies share, and studies made from others.
#include <gtest/gtest.h>

#include <cstdlib>

#include "program/program.h"

namespace opensum {
namespace {

constexpr const char* kLab =
    "constants = '''\n  rho \"Density of the oil\" [kg/m^3] = 870\n'''\nformulas = 'mass_flow(q) = q * rho'\n"
    "[units]\nbarrel_of_ours = '160 L'\n"
    "[template.flow]\ncolumns.q = { header = 'Flow' }\nequations = '''\n  m [kg/s] = mass_flow(q)\n'''\n";

// The environment with other shared folders, for as long as this lives.
class SharedFolders {
 public:
  SharedFolders(const std::string& path, const std::string& config) {
    ::setenv("OPENSUM_PATH", path.c_str(), 1);
    ::setenv("XDG_CONFIG_HOME", config.c_str(), 1);
  }
  ~SharedFolders() {
    ::unsetenv("OPENSUM_PATH");
    ::unsetenv("XDG_CONFIG_HOME");
  }
  SharedFolders(const SharedFolders&) = delete;
  SharedFolders& operator=(const SharedFolders&) = delete;
};

TEST(Shared, FilesAreFoundAlongThePathAndSaid) {
  const TempFolder lab;
  const TempFolder config;
  const TempFolder folder;
  lab.write("lab.toml", kLab);
  config.write("opensum/house.toml", "constants = 'g_here [m/s^2] = 9.812'\n");
  folder.write("t.csv", "Flow [L/s]\n2\n");
  folder.write(
      "study.toml",
      "use = ['lab.toml', 'house.toml']\n[sheet.run]\nlike = 'flow'\ndata = 't.csv'\nequations = 'w = m * "
      "g_here'\n");
  const Outcome without = run_program(folder, {"run"});
  EXPECT_EQ(without.code, 3);
  const SharedFolders shared("/nowhere:" + lab.path(), config.path());
  const Outcome outcome = run_program(folder, {"run"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(folder.read("results/run.csv"), "Flow [L/s],m [kg/s],w [kg m/s^3]\n2,1.74,17.07288\n");
  for (const std::string& said :
       {"lab.toml is " + lab.path("lab.toml"), "house.toml is " + config.path("opensum/house.toml")}) {
    EXPECT_NE(outcome.out.find(said), std::string::npos) << outcome.out;
    EXPECT_NE(folder.read("results/record.json").find(said), std::string::npos);
  }
  EXPECT_EQ(run_program(folder, {"verify"}).code, 0);
  // Beside the study it goes first; and where it is nowhere, it is said where it was looked for.
  folder.write("lab.toml", std::string(kLab).replace(std::string(kLab).find("870"), 3, "900"));
  EXPECT_EQ(run_program(folder, {"run"}).code, 0);
  EXPECT_NE(folder.read("results/run.csv").find("2,1.8,"), std::string::npos);
  folder.write("study.toml", "use = 'labb.toml'\n[sheet.run]\ndata = 't.csv'\n");
  const Outcome missing = run_program(folder, {"check"});
  EXPECT_EQ(missing.code, 4);
  EXPECT_NE(missing.err.find("there is no labb.toml"), std::string::npos) << missing.err;
  EXPECT_NE(missing.err.find("looked at labb.toml, /nowhere, " + lab.path()), std::string::npos)
      << missing.err;
}

TEST(Shared, UnitsAndFormulasAreListed) {
  const TempFolder lab;
  const TempFolder config;
  const TempFolder folder;
  lab.write("lab.toml", kLab);
  const SharedFolders shared(lab.path(), config.path());
  const Outcome units = run_program(folder, {"units", "barrel_of_ours"});
  EXPECT_EQ(units.code, 0) << units.err;
  EXPECT_NE(units.out.find("160 L"), std::string::npos) << units.out;
  EXPECT_NE(units.out.find(lab.path("lab.toml")), std::string::npos) << units.out;
  const Outcome constants = run_program(folder, {"units", "rho"});
  EXPECT_NE(constants.out.find("870"), std::string::npos) << constants.out;
  EXPECT_NE(constants.out.find("Density of the oil"), std::string::npos) << constants.out;
  const Outcome functions = run_program(folder, {"functions", "mass_flow"});
  EXPECT_EQ(functions.code, 0) << functions.err;
  EXPECT_NE(functions.out.find("mass_flow(q) = q * rho"), std::string::npos) << functions.out;
  lab.write("broken.toml", "constants = 'a = '\n");
  EXPECT_NE(run_program(folder, {"units", "rho"}).err.find("broken.toml"), std::string::npos);
}

TEST(New, MakesAStudyOfATemplate) {
  const TempFolder lab;
  const TempFolder config;
  const TempFolder folder;
  lab.write("lab.toml", kLab);
  folder.write("t.csv", "Flow [L/s]\n2\n");
  folder.write("data/u.csv", "Flow [L/s]\n3\n");
  const SharedFolders shared(lab.path(), config.path());
  const Outcome made = run_program(folder, {"new", "--template", "flow", "t.csv", "data/u.csv"});
  EXPECT_EQ(made.code, 0) << made.err;
  EXPECT_EQ(run_program(folder, {"run"}).code, 0) << folder.read("study.toml");
  EXPECT_EQ(folder.read("results/t.csv"), "Flow [L/s],m [kg/s]\n2,1.74\n");
  EXPECT_EQ(folder.read("results/u.csv"), "Flow [L/s],m [kg/s]\n3,2.61\n");
  const Outcome again = run_program(folder, {"new", "--template", "flow", "t.csv"});
  EXPECT_EQ(again.code, 2) << "a study is never replaced";
  const Outcome unknown = run_program(folder, {"new", "--template", "flwo", "t.csv", "-o", "other.toml"});
  EXPECT_EQ(unknown.code, 2);
  EXPECT_NE(unknown.err.find("did you mean flow?"), std::string::npos) << unknown.err;
}

TEST(New, MakesAStudyOfEarlierResults) {
  const TempFolder folder;
  folder.write("a/old.csv", "Flow [L/s],code\n2,A\n");
  folder.write("a/table.csv", "code,f\nA,10\nB,20\n");
  folder.write("a/shared.toml", "constants = 'k = 3'\n");
  const std::string study =
      "# A remark that is kept.\nuse = \"shared.toml\"\n[sheet.codes]\ndata = "
      "\"table.csv\"\n\n[sheet.run]\ndata = "
      "[\"old.csv\"]   # the run\nlink.codes = { match = \"code\" }\nequations = '''\n  y = Flow * k * "
      "codes.f\n'''\n";
  folder.write("a/study.toml", study);
  ASSERT_EQ(run_program(folder, {"run", "a/study.toml"}).code, 0);
  folder.write("b/next.csv", "Flow [L/s],code\n5,B\n");
  const Outcome unclear =
      run_program(folder, {"new", "--from", "a/results", "b/next.csv", "-o", "b/study.toml"});
  EXPECT_EQ(unclear.code, 2);
  EXPECT_NE(unclear.err.find("codes, run"), std::string::npos) << unclear.err;
  const Outcome made =
      run_program(folder, {"new", "--from", "a/results", "run=b/next.csv", "-o", "b/study.toml"});
  EXPECT_EQ(made.code, 0) << made.err;
  std::string expected = study;
  expected.replace(expected.find("\"shared.toml\""), 13, "\"../a/shared.toml\"");
  expected.replace(expected.find("\"table.csv\""), 11, "\"../a/table.csv\"");
  expected.replace(expected.find("\"old.csv\""), 9, "\"next.csv\"");
  EXPECT_EQ(folder.read("b/study.toml"), expected);
  EXPECT_EQ(run_program(folder, {"run", "b/study.toml"}).code, 0);
  EXPECT_NE(folder.read("b/results/run.csv").find("5,B,b/next.csv,300"), std::string::npos)
      << folder.read("b/results/run.csv");
  // What it used is taken from the record where it is gone.
  std::filesystem::remove(folder.path("a/shared.toml"));
  const Outcome later =
      run_program(folder, {"new", "--from", "a/results", "run=b/next.csv", "-o", "c/study.toml"});
  EXPECT_EQ(later.code, 0) << later.err;
  EXPECT_EQ(folder.read("c/shared.toml"), "constants = 'k = 3'\n");
  EXPECT_EQ(run_program(folder, {"run", "c/study.toml"}).code, 0);
  EXPECT_EQ(run_program(folder, {"new", "--from", "b", "x.csv", "-o", "d.toml"}).code, 4) << "no record";
}

}  // namespace
}  // namespace opensum
