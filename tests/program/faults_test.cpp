// Whatever call of the system fails, files are whole: those from before or those of the run, and nothing else
// is left.
#include <fcntl.h>
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cstdlib>
#include <map>
#include <set>

#include "program/program.h"

namespace opensum {
namespace {

constexpr const char* kFaultsTable = "t [s],x [m],name\n1,2,a\n2,,b\n3,7,c\n4,9.5,d\n";

// A study with one kind of output beside those that every run has.
std::string study_with(const std::string& format, const std::string& equation) {
  std::string text =
      "write = ['" + format + "']\n[sheet.run]\ndata = 't.csv'\nequations = '''\n  " + equation + "\n'''\n";
  if (format == "csv")
    text += "[fit.f]\nx = 't'\ny = 'x'\n[plot.p]\nx = 't'\ny = 'x'\nformats = ['png', 'svg', 'pdf']\n";
  return text;
}

using Files = std::map<std::string, std::string>;

Files files_in(const TempFolder& folder) {
  Files files;
  for (const std::string& name : folder.names()) {
    if (!std::filesystem::is_directory(folder.path(name))) files[name] = folder.read(name);
  }
  return files;
}

// Runs the program with the n-th call of a kind failing; whether it came to that.
bool fail(const TempFolder& folder, const std::string& kind, long number, Outcome& outcome) {
  const TempFolder told;
  ::setenv("LD_PRELOAD", OPENSUM_FAILING_CALLS, 1);
  ::setenv("OPENSUM_FAULT", fmt::format("{}:{}", kind, number).c_str(), 1);
  ::setenv("OPENSUM_FAULT_TOLD", told.path("told").c_str(), 1);
  outcome = run_program(folder, {"run", "--threads", "1"});
  ::unsetenv("LD_PRELOAD");
  ::unsetenv("OPENSUM_FAULT");
  ::unsetenv("OPENSUM_FAULT_TOLD");
  return told.has("told");
}

// Messages are files here, too.
constexpr long kLeastSize = 1500;

class Faults : public testing::TestWithParam<const char*> {};

TEST_P(Faults, LeaveFilesWholeAndNothingElse) {
  const std::string format = GetParam();
  const TempFolder folder;
  folder.write("t.csv", kFaultsTable);
  folder.write("study.toml", study_with(format, "v = x / t"));
  ASSERT_EQ(run_program(folder, {"run"}).code, 0);
  const Files before = files_in(folder);
  // The same files with other contents.
  folder.write("study.toml", study_with(format, "v = 2 * x / t"));
  ASSERT_EQ(run_program(folder, {"run"}).code, 0);
  const Files after = files_in(folder);
  ASSERT_EQ(before.size(), after.size());
  std::size_t injected = 0;
  for (const std::string kind : {"open", "read", "write", "fsync", "rename", "close", "malloc", "size"}) {
    const bool by_size = kind == "size";
    for (long number = by_size ? kLeastSize : 1;;) {
      for (const auto& [name, text] : before) {
        if (name != "study.toml") folder.write(name, text);
      }
      Outcome outcome;
      const bool met = fail(folder, kind, number, outcome);
      if (!met && (!by_size || outcome.code == 0)) break;
      ++injected;
      const std::string what = fmt::format("{} {} {}: {}", format, kind, number, outcome.err);
      // Ended by itself, with one of its codes and, where it failed, with words.
      EXPECT_TRUE(outcome.code >= 0 && outcome.code <= 5) << what << " code " << outcome.code;
      EXPECT_TRUE(outcome.code == 0 || !outcome.err.empty() || kind == "write") << what;
      std::size_t fresh = 0;
      std::size_t old = 0;
      const Files now = files_in(folder);
      for (const auto& [name, text] : now) {
        ASSERT_TRUE(after.count(name) > 0) << what << " left " << name;
        if (before.at(name) == after.at(name)) continue;
        const bool is_fresh = text == after.at(name);
        EXPECT_TRUE(is_fresh || text == before.at(name)) << what << " broke " << name;
        if (name != "study.toml") ++(is_fresh ? fresh : old);
      }
      EXPECT_EQ(now.size(), after.size()) << what;
      EXPECT_TRUE(fresh == 0 || old == 0) << what << " mixed " << fresh << " and " << old;
      EXPECT_TRUE(outcome.code != 0 || old == 0) << what << " was taken for done";
      EXPECT_TRUE(fresh == 0 || outcome.err.find("nothing was written") == std::string::npos) << what;
      // There are hundreds of calls by libraries of fonts and many thousands of allocations: some of them.
      constexpr long kAll = 60;
      number += by_size || kind == "malloc" || number > kAll ? 1 + number / 5 : 1;
    }
  }
  RecordProperty("injected", static_cast<int>(injected));
  EXPECT_GT(injected, 100U);
}

INSTANTIATE_TEST_SUITE_P(OfOutputs, Faults,
                         testing::Values("csv", "ods", "xlsx", "sqlite", "json", "jsonl", "tex", "nc"),
                         [](const auto& of) { return std::string(of.param); });

}  // namespace
}  // namespace opensum
