// Random whole studies through the built program: the cells in which nulls began, parts of a run, results
// that are read back and computed again.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <algorithm>
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

// The symbol of a header such as `d3 [g]`.
std::string symbol_of(const std::string& header) { return header.substr(0, header.find(" [")); }

TEST(RandomStudies, AreExplainedAsTheyAreWritten) {
  std::size_t values = 0;
  std::size_t nulls = 0;
  for (std::uint64_t seed = 100; seed <= 130; ++seed) {
    const reference::RandomStudy made = reference::random_study(seed);
    const TempFolder folder;
    folder.write("study.toml", made.toml());
    const Outcome run = run_program(folder, {"run", "-q"});
    if (run.code == 3 || run.code == 4) continue;
    const Nulls why = nulls_of(folder);
    std::uint64_t next = seed;
    for (const reference::RandomStudy::Sheet& sheet : made.sheets) {
      const Csv csv = read_csv(folder.read("results/" + sheet.name + ".csv"));
      if (csv.rows.empty()) continue;
      next = next * 6364136223846793005U + 1442695040888963407U;
      const std::size_t row = (next >> 33U) % csv.rows.size();
      const std::size_t column = (next >> 40U) % csv.header.size();
      const std::string symbol = symbol_of(csv.header[column]);
      if (symbol.ends_with("_filled")) continue;
      const std::string cell = fmt::format("{}.{} row {}", sheet.name, symbol, row + 1);
      const Outcome explained = run_program(folder, {"explain", cell});
      ASSERT_EQ(explained.code, 0) << "seed " << seed << ": " << cell << '\n' << explained.err;
      const std::string first = explained.out.substr(0, explained.out.find('\n'));
      const auto null = why.find(cell);
      const std::string& text = csv.rows[row][column];
      if (null != why.end()) {
        EXPECT_NE(first.find("null (" + null->second.first), std::string::npos) << cell << '\n' << first;
        if (first.find("which began in") != std::string::npos) {
          EXPECT_NE(explained.out.find(null->second.second), std::string::npos) << cell << explained.out;
        }
        ++nulls;
      } else {
        EXPECT_NE(first.find(text), std::string::npos)
            << "seed " << seed << ": " << cell << " is " << text << '\n'
            << first;
        ++values;
      }
    }
  }
  std::cout << values << " values and " << nulls << " nulls explained\n";
  EXPECT_GT(values, 50U);
  EXPECT_GT(nulls, 10U);
}

// The table that is typed into a sheet; empty where it has none.
std::string table_of(const reference::RandomStudy::Sheet& sheet) {
  const std::string begin = "table = '''\n";
  if (!sheet.head.starts_with(begin)) return {};
  return sheet.head.substr(begin.size(), sheet.head.find("'''", begin.size()) - begin.size());
}

// A table with tabs and decimal commas, but for dates, which are written as they were read.
std::string with_decimal_commas(const std::string& table) {
  std::string out;
  std::string cell;
  for (const char c : table) {
    if (c != ',' && c != '\n') {
      cell += c;
      continue;
    }
    if (cell.find(':') == std::string::npos) std::replace(cell.begin(), cell.end(), '.', ',');
    out += cell + (c == ',' ? '\t' : '\n');
    cell.clear();
  }
  return out;
}

TEST(RandomStudies, ComeToTheSameFromFilesOfEveryFormat) {
  struct Format {
    const char* file;
    const char* rest;  // of the sheet's lines
  };
  // Databases and workbooks of days are without kinds that these tables have: truths and nanoseconds.
  const Format formats[] = {{"csv", ""},
                            {"tsv", "read = { delimiter = 'tab', decimal_char = ',' }\n"},
                            {"ods", ""},
                            {"sqlite", ""}};
  std::size_t compared = 0;
  for (std::uint64_t seed = 200; seed <= 215; ++seed) {
    const reference::RandomStudy made = reference::random_study(seed);
    const TempFolder folder;
    folder.write("typed.toml", "output = 'typed'\n" + made.toml());
    const Outcome typed = run_program(folder, {"run", "-q", "typed.toml"});
    if (typed.code == 3 || typed.code == 4) continue;
    std::string tables = "output = 'tables'\nwrite = ['csv', 'ods', 'sqlite']\n";
    for (const reference::RandomStudy::Sheet& sheet : made.sheets) {
      if (table_of(sheet).empty()) continue;
      folder.write(sheet.name + ".csv", table_of(sheet));
      tables += "[sheet." + sheet.name + "]\ndata = '" + sheet.name + ".csv'\n";
    }
    folder.write("tables.toml", tables);
    const Outcome written = run_program(folder, {"run", "-q", "tables.toml"});
    ASSERT_EQ(written.code, 0) << written.err;
    for (const Format& format : formats) {
      const std::string ending = format.file;
      reference::RandomStudy from_files = made;
      for (reference::RandomStudy::Sheet& sheet : from_files.sheets) {
        const std::string table = table_of(sheet);
        if (table.empty()) continue;
        std::string data = sheet.name + "." + ending;
        if (ending == "tsv") {
          folder.write(data, with_decimal_commas(table));
        } else if (ending != "csv") {
          data = "tables/tables." + ending + "#" + sheet.name;
        }
        sheet.head = "data = '" + data + "'\n" + format.rest + sheet.head.substr(sheet.head.rfind("'''") + 4);
      }
      folder.write("study.toml", from_files.toml());
      const Outcome outcome = run_program(folder, {"run", "-q"});
      ASSERT_EQ(outcome.code, typed.code) << "seed " << seed << " " << ending << '\n' << outcome.err;
      for (const reference::RandomStudy::Sheet& sheet : made.sheets)
        compared += compare_cells(fmt::format("seed {} {} {}", seed, ending, sheet.name),
                                  folder.read("results/" + sheet.name + ".csv"),
                                  folder.read("typed/" + sheet.name + ".csv"));
    }
  }
  std::cout << compared << " cells compared\n";
  EXPECT_GT(compared, 5000U);
}

// The columns that both tables have are the same.
TEST(RandomStudies, ComeToTheSameByWayOfCopiesOfTheirSheets) {
  std::size_t compared = 0;
  std::size_t refused = 0;
  for (std::uint64_t seed = 300; seed <= 330; ++seed) {
    const reference::RandomStudy made = reference::random_study(seed);
    const TempFolder folder;
    folder.write("plain.toml", "output = 'plain'\n" + made.toml());
    const Outcome plain = run_program(folder, {"run", "-q", "plain.toml"});
    if (plain.code == 3 || plain.code == 4) {
      ++refused;
      continue;
    }
    std::string copies;
    std::vector<std::string> names;
    for (const reference::RandomStudy::Sheet& sheet : made.sheets) {
      names.push_back(sheet.name);
      copies += "\n[sheet.copy_" + sheet.name + "]\nrows_of = \"" + sheet.name + "\"\n";
    }
    folder.write("study.toml", made.toml() + copies);
    const Outcome outcome = run_program(folder, {"run", "-q"});
    ASSERT_EQ(outcome.code, plain.code) << "seed " << seed << '\n' << outcome.err;
    for (const std::string& name : names) {
      const Csv one = read_csv(folder.read("plain/" + name + ".csv"));
      const Csv copy = read_csv(folder.read("results/copy_" + name + ".csv"));
      ASSERT_EQ(one.rows.size(), copy.rows.size()) << "seed " << seed << " " << name;
      for (std::size_t c = 0; c < copy.header.size(); ++c) {
        // What is taken over is the filled column.
        std::string filled = copy.header[c];
        filled.insert(symbol_of(filled).size(), "_filled");
        auto same = std::find(one.header.begin(), one.header.end(), filled);
        if (same == one.header.end()) same = std::find(one.header.begin(), one.header.end(), copy.header[c]);
        ASSERT_NE(same, one.header.end()) << "seed " << seed << " " << name << ": " << copy.header[c];
        for (std::size_t row = 0; row < one.rows.size(); ++row, ++compared)
          EXPECT_EQ(copy.rows[row][c], one.rows[row][static_cast<std::size_t>(same - one.header.begin())])
              << "seed " << seed << " " << name << "." << copy.header[c] << " row " << row + 1;
      }
    }
  }
  std::cout << compared << " cells compared, " << refused << " studies refused\n";
  EXPECT_GT(compared, 5000U);
}

}  // namespace
}  // namespace opensum
