// Whatever could not be printed or written is said, and never taken for done.
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <signal.h>
#include <sys/resource.h>

#include <filesystem>

#include "program/program.h"

namespace opensum {
namespace {

constexpr const char* kLostOutputTable = "x [m],t [s]\n1,2\n2,3\n4,5\n";
constexpr const char* kLostOutputStudy = "[sheet.run]\ndata = 't.csv'\nequations = '''\n  v = x / t\n'''\n";

TEST(LostOutput, IsSaidByEveryCommand) {
  const TempFolder folder;
  folder.write("t.csv", kLostOutputTable);
  folder.write("study.toml", kLostOutputStudy);
  const std::vector<std::vector<std::string>> commands = {{"run"},
                                                          {"check"},
                                                          {"look", "t.csv"},
                                                          {"new", "t.csv", "--output", "first.toml"},
                                                          {"derive", "t.csv", "v = x / t"},
                                                          {"fit", "t.csv", "--x", "t", "--y", "x"},
                                                          {"explain", "run.v"},
                                                          {"calc", "1 + 1"},
                                                          {"units"},
                                                          {"demo"},
                                                          {"--help"},
                                                          {"derive", "--help"},
                                                          {"--version"}};
  for (const std::vector<std::string>& args : commands) {
    const Outcome outcome = run_program(folder, args, "", "/dev/full");
    EXPECT_EQ(outcome.code, 2) << args[0];
    EXPECT_NE(outcome.err.find("error: not all of what was to be printed could be: No space left on device"),
              std::string::npos)
        << args[0] << ": " << outcome.err;
  }
}

TEST(LostOutput, OfACommandThatPrintsNothingIsNone) {
  const TempFolder folder;
  folder.write("t.csv", kLostOutputTable);
  EXPECT_EQ(run_program(folder, {"derive", "t.csv", "v = x / t", "--output", "v.csv"}, "", "/dev/full").code,
            0);
  EXPECT_EQ(folder.read("v.csv"), "x [m],t [s],v [m/s]\n1,2,0.5\n2,3,0.666666666667\n4,5,0.8\n");
}

TEST(LostOutput, WorkbookThatIsNotWholeIsNotKept) {
  const TempFolder folder;
  std::string rows = "x [m],name\n";
  for (int row = 0; row < 60000; ++row) rows += fmt::format("{},sample {}\n", row % 7, row);
  folder.write("t.csv", rows);
  folder.write("before.xlsx", "what was there");
  // Files larger than this cannot be written: the parts that are gathered before packing are, the packed
  // workbook is not.
  rlimit before{};
  ASSERT_EQ(::getrlimit(RLIMIT_FSIZE, &before), 0);
  const auto was = ::signal(SIGXFSZ, SIG_IGN);
  const rlimit small{3'000'000, before.rlim_max};
  ASSERT_EQ(::setrlimit(RLIMIT_FSIZE, &small), 0);
  const Outcome outcome =
      run_program(folder, {"derive", "t.csv", "y = 2 * x", "--force", "--output", "before.xlsx"});
  ::setrlimit(RLIMIT_FSIZE, &before);
  ::signal(SIGXFSZ, was);
  EXPECT_EQ(outcome.code, 2);
  EXPECT_NE(outcome.err.find("before.xlsx cannot be written: its part xl/worksheets/sheet1.xml is not whole"),
            std::string::npos)
      << outcome.err;
  EXPECT_EQ(folder.read("before.xlsx"), "what was there");
  EXPECT_EQ(std::distance(std::filesystem::directory_iterator(folder.path()), {}), 2);
}

TEST(LostOutput, DigitsThatAWorkbookDoesNotHoldAreCounted) {
  const TempFolder folder;
  folder.write("t.csv", "x\n0.12345678901234567\n0.1234567890123456\n1e300\n");
  const Outcome outcome = run_program(folder, {"derive", "t.csv", "y = x", "--output", "t.xlsx"});
  EXPECT_EQ(outcome.code, 0);
  EXPECT_NE(outcome.err.find("numbers in t.xlsx are rounded to 16 significant digits and times of day to 10 "
                             "µs; cells that hold more: 1"),
            std::string::npos)
      << outcome.err;
}

TEST(LostOutput, ANameThatIsEmptyIsRefused) {
  const TempFolder folder;
  folder.write("t.csv", kLostOutputTable);
  folder.write("study.toml", "output = ''\n" + std::string(kLostOutputStudy));
  EXPECT_EQ(run_program(folder, {"run"}).code, 3);
  folder.write("study.toml", kLostOutputStudy);
  const std::vector<std::vector<std::string>> commands = {
      {"run", "--output", ""},
      {"run", ""},
      {"check", ""},
      {"demo", ""},
      {"explain", "run.v", "--study", ""},
      {"new", "t.csv", "--output", ""},
      {"derive", "t.csv", "v = x / t", "--output", ""},
      {"plot", "t.csv", "--x", "t", "--y", "x", "--output", ""}};
  for (const std::vector<std::string>& args : commands) {
    const Outcome outcome = run_program(folder, args);
    EXPECT_EQ(outcome.code, 2) << args[0];
    EXPECT_NE(outcome.err.find("a name is missing"), std::string::npos) << args[0] << ": " << outcome.err;
  }
}

TEST(LostOutput, NamesThatCollideAreRefusedBeforeAnythingIsWritten) {
  const TempFolder folder;
  folder.write("t.csv", kLostOutputTable);
  const auto study = [&](const std::string& name, const std::string& more) {
    folder.write("study.toml", "[sheet." + name + "]\ndata = 't.csv'\n" + more);
    return run_program(folder, {"check"});
  };
  EXPECT_EQ(study("nulls", "").code, 3);
  EXPECT_EQ(study("nulls", "write = ['json', 'csv']\n").code, 3);
  EXPECT_EQ(study("record", "write = 'json'\n").code, 3);
  EXPECT_EQ(study("fits", "[fit.f]\nx = 't'\ny = 'x'\n").code, 3);
  EXPECT_EQ(study("nulls", "write = 'ods'\n").code, 0);
  EXPECT_EQ(study("record", "").code, 0);
  EXPECT_EQ(study("fits", "").code, 0);
}

TEST(Slips, OnTheWayToATableAreReported) {
  const TempFolder folder;
  folder.write("fit.toml", "[fit.f]\nx = 'a'\ny = 'b'\n");
  folder.write("list.toml",
               "[sheet.a]\ntable = '''\na\n1\n'''\nfill.a = 'row_mean(q)'\nequations = '''\n"
               "for t in nosuch as q: r_{t} = {t}\nb = row_min(q)\nc = fallback(q)\nd = complete(q)\n'''\n");
  EXPECT_EQ(run_program(folder, {"fit", "nosuch.csv", "--x", "a", "--y", "b"}).code, 4);
  EXPECT_EQ(run_program(folder, {"plot", "nosuch.csv", "--x", "a", "--y", "b", "--fit", "line"}).code, 4);
  EXPECT_EQ(run_program(folder, {"run", "fit.toml"}).code, 3);
  EXPECT_EQ(run_program(folder, {"check", "list.toml"}).code, 3);
}

}  // namespace
}  // namespace opensum
