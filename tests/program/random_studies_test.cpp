// Random whole studies through the built program: the cells in which nulls began, parts of a run, results
// that are read back and computed again.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <iostream>
#include <map>

#include "program/csv_cells.h"
#include "program/program.h"
#include "reference/random_study.h"

namespace opensum {
namespace {

// The nulls of a run: by `sheet.column row N`, the reason and the cell in which it began.
using Nulls = std::map<std::string, std::pair<std::string, std::string>>;

Nulls nulls_of(const TempFolder& folder) {
  Nulls nulls;
  const Csv csv = read_csv(folder.read("results/nulls.csv"));
  for (const std::vector<std::string>& row : csv.rows)
    nulls[row[0] + "." + row[3] + " row " + row[1]] = {row[5], row[8]};
  return nulls;
}

TEST(RandomStudies, NameCellsThatExistAndAreNullForThatReason) {
  std::size_t nulls_looked_at = 0;
  std::size_t refused = 0;
  for (std::uint64_t seed = 1; seed <= 40; ++seed) {
    const TempFolder folder;
    folder.write("study.toml", reference::random_study(seed).toml());
    const Outcome outcome = run_program(folder, {"run", "-q"});
    if (outcome.code == 3 || outcome.code == 4) {
      ++refused;
      continue;
    }
    ASSERT_TRUE(outcome.code == 0 || outcome.code == 5) << "seed " << seed << '\n' << outcome.err;
    const Nulls nulls = nulls_of(folder);
    for (const auto& [cell, null] : nulls) {
      const auto& [reason, began] = null;
      const auto first = nulls.find(began);
      ASSERT_NE(first, nulls.end()) << "seed " << seed << ": " << cell << " began in " << began;
      EXPECT_EQ(first->second.second, began) << "seed " << seed << ": " << cell;
      // The key of a link that is null, or too few values, has a reason of its own.
      const bool new_reason = reason == "no_match" || reason == "too_few";
      EXPECT_TRUE(new_reason || first->second.first == reason)
          << "seed " << seed << ": " << cell << " is " << reason << ", and " << began << " is "
          << first->second.first;
      ++nulls_looked_at;
    }
  }
  std::cout << nulls_looked_at << " nulls, " << refused << " studies refused\n";
  EXPECT_GT(nulls_looked_at, 1000U);
}

TEST(RandomStudies, ComeToTheSameInPartsAndAgain) {
  std::size_t sheets = 0;
  for (std::uint64_t seed = 1; seed <= 20; ++seed) {
    const reference::RandomStudy made = reference::random_study(seed);
    const TempFolder folder;
    folder.write("study.toml", made.toml());
    const Outcome whole = run_program(folder, {"run", "-q"});
    if (whole.code == 3 || whole.code == 4) continue;
    EXPECT_EQ(run_program(folder, {"verify"}).code, 0) << "seed " << seed;
    for (const reference::RandomStudy::Sheet& sheet : made.sheets) {
      const std::string file = sheet.name + ".csv";
      const Outcome part = run_program(folder, {"run", "-q", "--only", sheet.name, "--output", "part"});
      ASSERT_TRUE(part.code == 0 || part.code == 5) << "seed " << seed << '\n' << part.err;
      EXPECT_EQ(folder.read("part/" + file), folder.read("results/" + file)) << "seed " << seed;
      // Read back with the metadata beside it, it is written again as it is.
      const Outcome again =
          run_program(folder, {"derive", "results/" + file, "--output", "again.csv", "--force"});
      if (again.code == 0) {
        EXPECT_EQ(folder.read("again.csv"), folder.read("results/" + file)) << "seed " << seed;
      }
      ++sheets;
    }
  }
  std::cout << sheets << " sheets in parts\n";
  EXPECT_GT(sheets, 40U);
}

}  // namespace
}  // namespace opensum
