// Several threads: the same bytes as one, and the same faults found.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <map>
#include <random>

#include "program/program.h"

namespace opensum {
namespace {

// A table long enough to be read in parts, with nulls of two reasons in it.
std::string long_table(std::size_t rows, const std::string& first_text) {
  std::mt19937 random(3);
  std::uniform_real_distribution<double> uniform(-50, 50);
  std::string out = "x [m],t [s],site,when\n";
  for (std::size_t row = 0; row < rows; ++row) {
    out += row % 97 == 5 ? "," : fmt::format("{:.4f},", uniform(random));
    out +=
        fmt::format("{},{},2031-03-{:02}\n", row % 211 == 7 ? "NA" : fmt::format("{:.7g}", uniform(random)),
                    row == 0 ? first_text : fmt::format("site {}", row % 13), row % 28 + 1);
  }
  return out;
}

constexpr const char* kThreadsStudy =
    "[sheet.run]\ndata = 't.csv'\nequations = '''\n"
    "  v = x / t\n  root = sqrt(x / (1 [m]))\n  mean = row_mean(x, 2 * x, nulls: skip)\n"
    "  m = col_mean(v)\n  g = col_mean(x, by: site)\n  label = concat(site, \"!\")\n  r = moving_mean(x, "
    "rows: "
    "5)\n'''\n"
    "claims = '\"x is small\": x < 49.9 [m]'\nclaims_are = 'warnings'\n";

// Runs a study on a long table with 1, 2 and 7 threads.
void expect_the_same_bytes(const std::string& study, std::size_t rows) {
  const TempFolder folder;
  folder.write("t.csv", long_table(rows, "site 0"));
  ASSERT_GT(folder.read("t.csv").size(), 1U << 20U) << "long enough to be read in parts";
  folder.write("study.toml", study);
  std::map<std::string, std::string> first;
  for (const char* count : {"1", "2", "7"}) {
    const std::string output = std::string("results") + count;
    const Outcome outcome = run_program(folder, {"run", "--threads", count, "--output", folder.path(output)});
    ASSERT_EQ(outcome.code, 0) << outcome.err;
    std::map<std::string, std::string> all = {{"what is said", outcome.err}};
    for (const char* file : {"run.csv", "run.csv-metadata.json", "nulls.csv", "record.json", "report.html"})
      all[file] = folder.read(output + "/" + file);
    ASSERT_FALSE(all["run.csv"].empty());
    if (first.empty()) first = all;
    for (const auto& [name, text] : all)
      EXPECT_TRUE(text == first[name]) << name << " of " << count << " threads" << outcome.err;
  }
}

// A sheet that is sorted is held in memory.
TEST(Threads, GiveTheSameBytes) {
  expect_the_same_bytes(std::string(kThreadsStudy) + "sort_by = ['x']\n", 40000);
}

TEST(Threads, GiveTheSameBytesABlockAtATime) { expect_the_same_bytes(kThreadsStudy, 120000); }

// Quotes around a field change nothing in what is read.
TEST(Threads, ReadTheSameTableAsOne) {
  const TempFolder folder;
  folder.write("study.toml", kThreadsStudy);
  folder.write("t.csv", long_table(40000, "site 0"));
  ASSERT_EQ(run_program(folder, {"run"}).code, 0);
  const std::string in_parts = folder.read("results/run.csv");
  folder.write("t.csv", long_table(40000, "\"site 0\""));
  ASSERT_EQ(run_program(folder, {"run"}).code, 0);
  EXPECT_TRUE(folder.read("results/run.csv") == in_parts);
}

TEST(Threads, FindFaultsWhereTheyStand) {
  const TempFolder folder;
  folder.write("study.toml", "[sheet.run]\ndata = 't.csv'\n");
  std::string table = long_table(40000, "site 0");
  const std::size_t middle = table.find('\n', table.size() / 2) + 1;
  const auto line = std::count(table.begin(), table.begin() + static_cast<std::ptrdiff_t>(middle), '\n') + 1;
  std::string ragged = table;
  ragged.insert(middle, "1,2,a\n");
  folder.write("t.csv", ragged);
  const Outcome outcome = run_program(folder, {"check"});
  EXPECT_EQ(outcome.code, 4) << outcome.err;
  EXPECT_NE(outcome.err.find(fmt::format("t.csv:{}:1: error:", line)), std::string::npos) << outcome.err;
  // A blank line is no row.
  std::string blank = table;
  blank.insert(middle, "\n");
  folder.write("t.csv", blank);
  const Outcome passed = run_program(folder, {"run"});
  EXPECT_EQ(passed.code, 0) << passed.err;
  EXPECT_NE(passed.out.find("run  40000 rows"), std::string::npos) << passed.out;
}

}  // namespace
}  // namespace opensum
