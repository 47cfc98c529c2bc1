// Reductions whose rows come in pieces, the groups of rows, and the table of hashes by which rows are found.
#include "compute/reduction.h"

#include <gtest/gtest.h>

#include <bit>
#include <cmath>
#include <map>
#include <random>

#include "compute/grouping.h"
#include "compute/row_hash.h"
#include "equation/operation.h"

namespace opensum {
namespace {

struct Row {
  double value = 0;
  Null null;
  bool takes_part = true;
  std::size_t group = 0;
};

std::vector<Row> random_rows(std::size_t count, std::mt19937& random) {
  std::normal_distribution<double> normal(1e6, 1e-2);
  std::vector<Row> rows(count);
  for (Row& row : rows) {
    row.value = normal(random);
    if (random() % 7 == 0) row.null = Null(Reason::missing, 2);
    if (random() % 31 == 0) row.null = Null(Reason::divide_by_zero, 9);
    row.takes_part = random() % 5 != 0;
    row.group = random() % 6;
  }
  return rows;
}

// Values and conditions as chunks of a column that begins with the first row.
std::vector<Chunk> chunks_of(const std::vector<Row>& rows, bool condition) {
  std::vector<Chunk> chunks;
  for (std::size_t i = 0; i < rows.size(); ++i) {
    if (i % kChunkRows == 0) chunks.emplace_back();
    Chunk& chunk = chunks.back();
    chunk.numbers.push_back(condition ? (rows[i].takes_part ? 1 : 0) : rows[i].value);
    if (!condition) chunk.nulls.push_back(rows[i].null);
  }
  return chunks;
}

Stage stage_of(Op op, bool skip) {
  Stage stage;
  stage.op = op;
  stage.name = "reduction";
  stage.nulls.skip = skip;
  if (op == Op::col_at) stage.setting = RowNumber{3};
  if (op == Op::col_quantile) stage.setting = QuantileFraction{0.3};
  return stage;
}

std::vector<Outcome> outcomes_in_pieces(const Stage& stage, const std::vector<Row>& rows, std::size_t piece,
                                        Origins& origins, ReductionTally& tally) {
  Reduction reduction(stage, 9);
  reduction.make_groups(6);
  for (std::size_t begin = 0; begin < rows.size(); begin += piece) {
    const std::vector<Row> some(
        rows.begin() + static_cast<std::ptrdiff_t>(begin),
        rows.begin() + static_cast<std::ptrdiff_t>(std::min(begin + piece, rows.size())));
    std::vector<std::size_t> groups;
    for (const Row& row : some) groups.push_back(row.group);
    const std::vector<Chunk> values = chunks_of(some, false);
    const std::vector<Chunk> where = chunks_of(some, true);
    reduction.add({values, {}, where, groups, some.size(), begin});
  }
  tally = reduction.tally();
  return reduction.outcomes(origins);
}

TEST(Reductions, AreTheSameInPiecesOfAnySize) {
  std::mt19937 random(17);
  const std::vector<Row> rows = random_rows(9000, random);
  std::size_t compared = 0;
  for (int number = 0; number < static_cast<int>(Op::count_); ++number) {
    if (!is_reduction(static_cast<Op>(number))) continue;
    for (const bool skip : {true, false}) {
      const Stage stage = stage_of(static_cast<Op>(number), skip);
      Origins origins;
      for (int i = 0; i < 12; ++i) origins.add("sheet", "column");
      ReductionTally whole_tally;
      const std::vector<Outcome> whole = outcomes_in_pieces(stage, rows, rows.size(), origins, whole_tally);
      for (const std::size_t piece : {1U, 100U, 4096U, 5000U}) {
        ReductionTally tally;
        const std::vector<Outcome> parts = outcomes_in_pieces(stage, rows, piece, origins, tally);
        ASSERT_EQ(parts.size(), whole.size());
        EXPECT_EQ(tally.used, whole_tally.used);
        EXPECT_EQ(tally.met, whole_tally.met);
        for (std::size_t group = 0; group < whole.size(); ++group) {
          ASSERT_EQ(std::bit_cast<std::uint64_t>(parts[group].number.seconds),
                    std::bit_cast<std::uint64_t>(whole[group].number.seconds))
              << number << " in pieces of " << piece;
          ASSERT_EQ(parts[group].null, whole[group].null) << number;
          ++compared;
        }
      }
    }
  }
  EXPECT_GT(compared, 500U);
}

TEST(Reductions, FindFaultsInsideOfTheirOperand) {
  std::mt19937 random(3);
  const std::vector<Row> rows = random_rows(500, random);
  std::size_t expected = 0;
  for (const Row& row : rows) expected += row.null == Null(Reason::divide_by_zero, 9) ? 1 : 0;
  InnerFaults faults;
  faults.note(chunks_of(rows, false), 9, 0);
  ASSERT_EQ(faults.found().size(), 1U);
  EXPECT_EQ(faults.found()[0].reason, Reason::divide_by_zero);
  EXPECT_EQ(faults.found()[0].rows.count, expected);
  InnerFaults of_another;
  of_another.note(chunks_of(rows, false), 2, 0);
  EXPECT_TRUE(of_another.found().empty()) << "only what began in the column itself";
}

// Against sums in numbers of 113 bits, for offsets from none to far beyond the spread.
TEST(Spread, HoldsTheDigitsThatTheValuesHave) {
  __extension__ using Long = __float128;
  std::mt19937 random(29);
  std::normal_distribution<double> normal(0, 1);
  for (const double offset : {0.0, 1.0, 1e6, 1e12, -1e15}) {
    for (const std::size_t count : {2U, 3U, 100U, 20000U}) {
      std::vector<double> values;
      for (std::size_t i = 0; i < count; ++i) values.push_back(offset + normal(random));
      // A first value far off must not spoil the rest.
      if (count == 100) values.front() = 0;
      Long sum = 0;
      for (const double value : values) sum += value;
      const Long mean = sum / static_cast<Long>(count);
      Long squares = 0;
      for (const double value : values) squares += (value - mean) * (value - mean);
      const double expected = std::sqrt(static_cast<double>(squares / static_cast<Long>(count - 1)));
      EXPECT_NEAR(deviation_of(values) / expected, 1, 4e-16) << offset << " " << count;
    }
  }
  EXPECT_EQ(deviation_of(std::vector<double>{3, 3, 3}), 0);
  EXPECT_EQ(deviation_of(std::vector<double>{1.7e308, 1.7e308}), 0);
  EXPECT_FALSE(std::isfinite(deviation_of(std::vector<double>{1.7e308, -1.7e308})))
      << "beyond the largest number";
}

TEST(Groups, AreNumberedAsTheyFirstAppear) {
  std::mt19937 random(7);
  const std::vector<std::string> names = {"", "a", "b", "ab", "long enough to live on the heap", "1"};
  std::vector<Chunk> texts;
  std::vector<Chunk> numbers;
  constexpr std::size_t kRows = 10000;
  for (std::size_t row = 0; row < kRows; ++row) {
    if (row % kChunkRows == 0) {
      texts.emplace_back();
      numbers.emplace_back();
    }
    texts.back().texts.push_back(names[random() % names.size()]);
    texts.back().nulls.push_back(random() % 9 == 0 ? Null(Reason::missing, 1) : Null());
    numbers.back().numbers.push_back(random() % 2 == 0 ? 0.0 : random() % 2 == 0 ? -0.0 : 2.5);
  }
  // A plain map over all rows.
  std::map<std::pair<std::string, double>, std::size_t> known;
  std::vector<std::size_t> expected;
  for (std::size_t row = 0; row < kRows; ++row) {
    const Chunk& chunk = texts[row / kChunkRows];
    const std::string text =
        chunk.nulls[row % kChunkRows] ? "null" : "=" + std::string(chunk.texts[row % kChunkRows]);
    const double number = numbers[row / kChunkRows].numbers[row % kChunkRows] + 0.0;
    expected.push_back(known.try_emplace({text, number == 0 ? 0 : number}, known.size()).first->second);
  }
  for (const std::size_t piece : {1U, 777U, 4096U, 10000U}) {
    GroupNumbers groups;
    std::vector<std::size_t> found;
    for (std::size_t begin = 0; begin < kRows; begin += piece) {
      const LocalGroups local = local_groups({{&texts, Kind::text, false}, {&numbers, Kind::number, false}},
                                             begin, std::min<std::size_t>(piece, kRows - begin));
      const std::vector<std::size_t> of_local = groups.add(local);
      EXPECT_EQ(groups.find(local), of_local);
      for (const std::uint32_t group : local.of_row) found.push_back(of_local[group]);
    }
    EXPECT_EQ(found, expected) << "in pieces of " << piece;
    EXPECT_EQ(groups.count(), known.size());
  }
}

TEST(RowHash, FindsWhatAMapFinds) {
  std::mt19937 random(11);
  std::vector<double> keys;
  for (int i = 0; i < 5000; ++i) keys.push_back(static_cast<double>(random() % 3000) / 8);
  for (const bool all_collide : {false, true}) {
    const std::size_t count = all_collide ? 300 : keys.size();
    RowHash hash(count);
    std::map<double, std::size_t> plain;
    const auto hash_for = [&](double key) { return all_collide ? 42U : hash_of(key); };
    for (std::size_t row = 0; row < count; ++row) {
      const auto before = plain.try_emplace(keys[row], row);
      const std::size_t found = hash.find_or_add(hash_for(keys[row]), row,
                                                 [&](std::size_t other) { return keys[other] == keys[row]; });
      ASSERT_EQ(found, before.second ? RowHash::kNone : before.first->second);
    }
    for (double key = -1; key < 380; key += 0.0625) {
      const auto expected = plain.find(key);
      ASSERT_EQ(hash.find(hash_for(key), [&](std::size_t other) { return keys[other] == key; }),
                expected == plain.end() ? RowHash::kNone : expected->second);
    }
  }
  EXPECT_EQ(hash_of(0.0), hash_of(-0.0));
  EXPECT_NE(hash_of(hash_of(1.0), hash_of(2.0)), hash_of(hash_of(2.0), hash_of(1.0))) << "keys have an order";
}

}  // namespace
}  // namespace opensum
