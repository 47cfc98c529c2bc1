// A part of a study, and a study with other constants.
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "program/program.h"

namespace opensum {
namespace {

constexpr const char* kPartOfRunStudy =
    "constants = '''\n  k \"Factor of the scale\" [m/s] = 2.5\n  double_k = 2 * k\n'''\nwrite = ['csv', "
    "'ods']\n"
    "[sheet.base]\ndata = 'base.csv'\n"
    "[sheet.run]\ndata = 'run.csv'\nlink.base = { match = 'code' }\nequations = '''\n  y = k * x * "
    "base.f\n'''\n"
    "claims = '''\n  \"y is small\": y < 0 [m]\n'''\n"
    "[sheet.alone]\ndata = 'alone.csv'\nequations = 'z = 2 * a'\n"
    "[fit.line]\nsheet = 'run'\nx = 'x'\ny = 'y'\n"
    "[plot.picture]\nsheet = 'run'\nx = 'x'\ny = 'y'\nfit = 'line'\nformats = ['svg']\n"
    "[plot.other]\nsheet = 'alone'\nx = 'a'\ny = 'z'\nformats = ['svg']\n";

void write_study(const TempFolder& folder) {
  folder.write("base.csv", "code,f\nA,1\nB,2\n");
  folder.write("run.csv", "code,x [s]\nA,1\nB,2\nA,4\n");
  folder.write("alone.csv", "a\n1\n2\n");
  folder.write("study.toml", kPartOfRunStudy);
}

TEST(PartOfRun, ComputesWhatIsNeededAndLeavesTheRest) {
  const TempFolder folder;
  write_study(folder);
  EXPECT_EQ(run_program(folder, {"run"}).code, 5) << "a claim does not hold";
  const auto names = folder.names();
  std::map<std::string, std::string> before;
  for (const std::string& name : names) {
    if (!std::filesystem::is_directory(folder.path(name))) before[name] = folder.read(name);
  }
  folder.write("run.csv", "code,x [s]\nA,10\nB,20\nA,40\n");
  // What is not needed is not even read.
  std::filesystem::remove(folder.path("alone.csv"));
  const Outcome outcome = run_program(folder, {"run", "--only", "plot.picture"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  for (const auto& [name, text] : before) {
    if (name == "alone.csv") continue;
    const bool written = name == "results/figures/picture.svg" || name == "results/record.json";
    EXPECT_EQ(folder.read(name) == text, !written && name != "run.csv") << name;
  }
  EXPECT_NE(outcome.out.find("left as it was: alone.csv"), std::string::npos) << outcome.out;
  EXPECT_NE(outcome.out.find("nulls.csv"), std::string::npos) << outcome.out;
  // The sheet itself is written as a whole run writes it.
  EXPECT_EQ(run_program(folder, {"run", "--only", "run"}).code, 5) << "its claims are tested";
  const std::string part = folder.read("results/run.csv");
  folder.write("alone.csv", "a\n1\n2\n");
  EXPECT_EQ(run_program(folder, {"run"}).code, 5);
  EXPECT_EQ(folder.read("results/run.csv"), part);
  EXPECT_EQ(folder.read("results/figures/picture.svg") == before.at("results/figures/picture.svg"), false);
}

TEST(PartOfRun, SaysWhichNamesThereAre) {
  const TempFolder folder;
  write_study(folder);
  const Outcome unknown = run_program(folder, {"run", "--only", "alnoe"});
  EXPECT_EQ(unknown.code, 2);
  EXPECT_NE(unknown.err.find("no sheet, fit or plot `alnoe`"), std::string::npos) << unknown.err;
  EXPECT_NE(unknown.err.find("did you mean alone?"), std::string::npos) << unknown.err;
  folder.write("study.toml",
               std::string(kPartOfRunStudy) + "[plot.run]\nsheet = 'alone'\nx = 'a'\ny = 'z'\n");
  const Outcome several = run_program(folder, {"run", "--only", "run"});
  EXPECT_EQ(several.code, 2);
  EXPECT_NE(several.err.find("`run` may be sheet.run, plot.run"), std::string::npos) << several.err;
  EXPECT_EQ(run_program(folder, {"run", "--only", "plot.run,fit.line"}).code, 0);
}

TEST(OtherConstants, AreSaidInAllThatIsWritten) {
  const TempFolder folder;
  write_study(folder);
  const Outcome outcome = run_program(folder, {"run", "--constant", "k [cm/s] = 400", "--output", "other"});
  EXPECT_EQ(outcome.code, 5) << outcome.err;
  const std::string said = "k is 400 cm/s in this run, in place of 2.5 m/s";
  EXPECT_NE(outcome.out.find(said), std::string::npos) << outcome.out;
  EXPECT_NE(folder.read("other/report.html").find("K is 400 cm/s in this run, in place of 2.5 m/s."),
            std::string::npos);
  for (const char* name : {"other/record.json", "other/run.csv-metadata.json"})
    EXPECT_NE(folder.read(name).find(said), std::string::npos) << name;
  // The numbers are those of a study that says so.
  std::string study = kPartOfRunStudy;
  study.replace(study.find("[m/s] = 2.5"), 11, "[cm/s] = 400");
  folder.write("study.toml", study);
  EXPECT_EQ(run_program(folder, {"run", "--output", "written"}).code, 5);
  EXPECT_EQ(folder.read("other/run.csv"), folder.read("written/run.csv"));
  EXPECT_EQ(folder.read("other/figures/picture.svg"), folder.read("written/figures/picture.svg"));
}

TEST(OtherConstants, MustBeThoseOfTheStudy) {
  const TempFolder folder;
  write_study(folder);
  const auto said = [&](const std::string& constant, const std::string& words) {
    const Outcome outcome = run_program(folder, {"run", "--constant", constant});
    EXPECT_TRUE(outcome.code == 2 || outcome.code == 3) << constant;
    EXPECT_NE(outcome.err.find(words), std::string::npos) << outcome.err;
    EXPECT_FALSE(folder.has("results/run.csv"));
  };
  said("kk [m/s] = 3", "the study has no constant `kk`");
  said("k [kg] = 3", "`k` is in m/s in the study, but in kg here");
  said("k = 3", "`k` is in m/s in the study, but a plain number here");
  said("k = 'fast'", "");
  said("k", "this line is not a definition");
  said("k [m/s] = 1 / 0", "");
  const Outcome twice =
      run_program(folder, {"run", "--constant", "k [m/s] = 3", "--constant", "k [m/s] = 4"});
  EXPECT_EQ(twice.code, 3);
}

}  // namespace
}  // namespace opensum
