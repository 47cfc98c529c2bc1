// Functions of whole columns that take up their rows in blocks: the same as when all rows come at once,
// wherever blocks begin and end. And values of rows gathered and cut again.
#include "compute/stage_run.h"

#include <gtest/gtest.h>

#include <bit>
#include <random>

#include "compute/test_sheet.h"

namespace opensum {
namespace {

constexpr std::size_t kRows = 9000;

// The values of one function, by blocks of random sizes.
std::vector<Chunk> by_blocks(const Stage& stage, const WholeColumns& whole, std::mt19937& random,
                             TextKeeper& texts) {
  StageRun run(stage, whole.own);
  const std::vector<Chunk> values = evaluate_column(stage.value, whole);
  std::vector<Chunk> beside;
  std::vector<Chunk> where;
  std::vector<std::vector<Chunk>> keys;
  if (!stage.beside.empty()) beside = evaluate_column(stage.beside.front(), whole);
  if (!stage.where.empty()) where = evaluate_column(stage.where.front(), whole);
  for (const Program& key : stage.keys) keys.push_back(evaluate_column(key, whole));
  const auto groups_of = [&](std::size_t first, std::size_t rows) {
    std::vector<GroupKey> by;
    for (std::size_t k = 0; k < keys.size(); ++k) by.push_back({&keys[k], stage.keys[k].kind});
    return local_groups(by, first, rows);
  };
  const auto for_each_block = [&](const auto& visit) {
    for (std::size_t first = 0; first < kRows;) {
      const std::size_t most = std::size_t{1} << random() % 13U;
      const std::size_t rows = std::min(kRows - first, 1 + random() % most);
      visit(first, rows);
      first += rows;
    }
  };
  for_each_block([&](std::size_t first, std::size_t rows) {
    StageRows some;
    some.rows = rows;
    some.first_row = first;
    some.values = slice(values, first, rows);
    if (!beside.empty()) some.beside = slice(beside, first, rows);
    if (!where.empty()) some.where = slice(where, first, rows);
    if (run.has_groups()) some.groups = groups_of(first, rows);
    run.add(some);
  });
  run.finish(whole.origins);
  RowStore result(Held::values, texts);
  for_each_block([&](std::size_t first, std::size_t rows) {
    const LocalGroups groups = groups_of(first, rows);
    result.append(run.values(first, rows, &groups));
  });
  return result.take();
}

std::vector<std::string> functions() {
  std::vector<std::string> all;
  for (const std::string by : {"", ", by: g"}) {
    for (const char* name : {"col_sum",   "col_mean",   "col_median",  "col_min",         "col_max",
                             "col_range", "col_sd",     "col_sem",     "col_mad",         "col_rms",
                             "col_count", "col_first",  "col_last",    "col_first_known", "col_last_known",
                             "previous",  "next",       "change",      "previous_known",  "next_known",
                             "rank",      "sum_so_far", "mean_so_far", "min_so_far",      "max_so_far"})
      all.push_back(std::string(name) + "(x" + by + ")");
    all.push_back("col_first(g" + by + ")");
    all.push_back("previous(g, rows: 3" + by + ")");
    all.push_back("col_quantile(x, 0.9" + by + ")");
    all.push_back("col_at(x, 3" + by + ")");
    all.push_back("moving_mean(x, rows: 5" + by + ")");
    all.push_back("moving_sd(x, rows: 3, nulls: skip" + by + ")");
    all.push_back("col_mean(x, where: n > 3" + by + ")");
    all.push_back("col_mean(x, weights: abs(n)" + by + ")");
    all.push_back("col_correlation(x, n" + by + ")");
    all.push_back("col_area(x, along: row_number()" + by + ")");
    all.push_back("derivative(x, along: row_number()" + by + ")");
    all.push_back("interpolated(x, along: row_number()" + by + ")");
  }
  return all;
}

TEST(StageRun, BlocksOfAnySizeComeToTheSame) {
  Sheet sheet(kRows);
  std::mt19937 random(11);
  TextKeeper texts;
  std::size_t compared = 0;
  for (const std::string& function : functions()) {
    sheet.with_stage(function, [&](const Stage& stage, const WholeColumns& whole) {
      const std::vector<Chunk> expected = whole_column(stage, whole);
      const std::vector<Chunk> got = by_blocks(stage, whole, random, texts);
      ASSERT_EQ(got.size(), expected.size()) << function;
      for (std::size_t row = 0; row < kRows; ++row) {
        const Chunk& a = expected[row / kChunkRows];
        const Chunk& b = got[row / kChunkRows];
        const std::size_t i = row % kChunkRows;
        ASSERT_EQ(a.null_at(i), b.null_at(i)) << function << " in row " << row;
        if (a.null_at(i)) continue;
        if (stage.kind == Kind::text) {
          ASSERT_EQ(a.texts[i], b.texts[i]) << function << " in row " << row;
        } else {
          ASSERT_EQ(std::bit_cast<std::uint64_t>(a.numbers[i]), std::bit_cast<std::uint64_t>(b.numbers[i]))
              << function << " in row " << row;
        }
        ++compared;
      }
    });
  }
  EXPECT_GT(compared, 50 * kRows);
}

TEST(RowStore, GivesBackWhatItTookUp) {
  Sheet sheet(kRows);
  std::mt19937 random(5);
  TextKeeper texts;
  for (std::size_t column = 0; column < 4; ++column) {
    RowStore store(Held::values, texts);
    for (std::size_t first = 0; first < kRows;) {
      const std::size_t rows = std::min<std::size_t>(kRows - first, 1 + random() % 5000);
      if (random() % 4 == 0) {
        store.append_row(sheet[column].chunks, first);
        ++first;
      } else {
        store.append(slice(sheet[column].chunks, first, rows));
        first += rows;
      }
    }
    ASSERT_EQ(store.rows(), kRows);
    Column again;
    again.kind = sheet[column].kind;
    again.chunks = store.take();
    for (std::size_t row = 0; row < kRows; ++row) {
      ASSERT_EQ(again.null(row), sheet[column].null(row)) << row;
      if (again.null(row)) continue;
      if (again.kind == Kind::text) {
        ASSERT_EQ(again.text(row), sheet[column].text(row)) << row;
      } else {
        ASSERT_EQ(again.number(row), sheet[column].number(row)) << row;
      }
    }
  }
}

}  // namespace
}  // namespace opensum
