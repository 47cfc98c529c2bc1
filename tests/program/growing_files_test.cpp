// Formats that take up rows while these are computed: long tables, sorted ones and several in a file.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <iostream>
#include <string>
#include <vector>

#include "program/csv_cells.h"
#include "program/program.h"

namespace opensum {
namespace {

// More than is read at once, with nulls, cells that cannot be read, truths, dates and texts that need
// escapes.
std::string long_table() {
  std::string text = "n,a [m],b [s],word,ok,day\n";
  const std::vector<std::string> words = {"north", "\"a, \"\"b\"\"\"", "Ærø", "", "tab\there"};
  for (int i = 0; i < 70'000; ++i) {
    text += fmt::format("{},{:.3f},{},{},{},2031-04-{:02}\n", i, (i * 7919 % 10007) / 10.0,
                        i % 97 == 0     ? ""
                        : i % 1009 == 0 ? "<0.5"
                                        : std::to_string(i % 13),
                        words[static_cast<std::size_t>(i) % words.size()],
                        i % 11 == 0  ? ""
                        : i % 2 == 0 ? "true"
                                     : "false",
                        1 + i % 28);
  }
  return text;
}

constexpr const char* kStudy = R"(headers = 'symbol'
write = ['csv', 'jsonl', 'sqlite']
[sheet.long]
data = 't.csv'
equations = '''
  v [m/s] = a / b
  w = concat(word, "!")
  late = day > date("2031-04-10")
'''
[sheet.sorted]
rows_of = 'long'
sort_by = ['v down', 'n']
equations = 'z [m/s] = v * 2'
[sheet.words]
rows_of = 'long'
one_row_per = ['word', 'ok']
equations = 'm [m/s] = col_mean(v)'
)";

TEST(GrowingFiles, HoldTheRowsOfTheCsvInItsOrder) {
  TempFolder folder;
  folder.write("t.csv", long_table());
  ASSERT_GT(folder.read("t.csv").size(), 2'100'000U);
  folder.write("study.toml", kStudy);
  const Outcome run = run_program(folder, {"run", "--output", "results"});
  ASSERT_EQ(run.code, 0) << run.err;
  std::size_t cells = 0;
  for (const std::string sheet : {"long", "sorted", "words"}) {
    for (const std::string& file : {"results/tables.sqlite#" + sheet, "results/" + sheet + ".jsonl"}) {
      const Outcome look = run_program(folder, {"look", file, "--format", "csv"});
      ASSERT_EQ(look.code, 0) << look.err;
      cells += compare_cells(file, folder.read("results/" + sheet + ".csv"), look.out);
    }
  }
  std::cout << cells << " cells compared\n";
  EXPECT_GT(cells, 1'500'000U);
}

TEST(GrowingFiles, AreTheSameForAnyNumberOfThreads) {
  TempFolder folder;
  folder.write("t.csv", long_table());
  folder.write("study.toml", kStudy);
  for (const std::string threads : {"1", "7"}) {
    ASSERT_EQ(run_program(folder, {"run", "--threads", threads, "--output", "of" + threads}).code, 0);
  }
  for (const char* file : {"tables.sqlite", "long.jsonl", "sorted.jsonl", "words.jsonl"})
    EXPECT_TRUE(folder.read(std::string("of1/") + file) == folder.read(std::string("of7/") + file)) << file;
}

}  // namespace
}  // namespace opensum
