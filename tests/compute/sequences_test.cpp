// Functions of the sequence of rows: laws between them, small cases by hand, and the origin of their nulls.
#include "compute/sequences.h"

#include <gtest/gtest.h>

#include <cmath>

#include "compute/test_sheet.h"

namespace opensum {
namespace {

// A result row by row: the number, or the reason as a negative number far from all data.
std::vector<double> values_of(const std::vector<Chunk>& chunks) {
  std::vector<double> all;
  for (const Chunk& chunk : chunks) {
    for (std::size_t i = 0; i < chunk.numbers.size(); ++i) {
      const Null null = chunk.null_at(i);
      all.push_back(null ? -1000.0 - static_cast<double>(null.reason()) : chunk.numbers[i]);
    }
  }
  return all;
}

double why(Reason reason) { return -1000.0 - static_cast<double>(reason); }

TEST(Sequences, AreAsWorkedOutByHand) {
  Sheet sheet(6);
  sheet.set(2, {3, 1, 4, 1, 5, 9});
  const double edge = why(Reason::no_neighbour);
  const struct {
    const char* equation;
    std::vector<double> values;
  } rows[] = {
      {"row_number()", {1, 2, 3, 4, 5, 6}},
      {"previous(n)", {edge, 3, 1, 4, 1, 5}},
      {"next(n)", {1, 4, 1, 5, 9, edge}},
      {"previous(n, rows: 2)", {edge, edge, 3, 1, 4, 1}},
      {"next(n, rows: 7)", {edge, edge, edge, edge, edge, edge}},
      {"change(n)", {edge, -2, 3, -3, 4, 4}},
      {"sum_so_far(n)", {3, 4, 8, 9, 14, 23}},
      {"mean_so_far(n)", {3, 2, 8.0 / 3, 2.25, 2.8, 23.0 / 6}},
      {"min_so_far(n)", {3, 1, 1, 1, 1, 1}},
      {"max_so_far(n)", {3, 3, 4, 4, 5, 9}},
      {"moving_mean(n, rows: 3)", {edge, 8.0 / 3, 2, 10.0 / 3, 5, edge}},
      {"moving_median(n, rows: 3)", {edge, 3, 1, 4, 5, edge}},
      {"moving_sd(n, rows: 3)", {edge, std::sqrt(7.0 / 3), std::sqrt(3.0), std::sqrt(13.0 / 3), 4, edge}},
      {"rank(n)", {3, 1.5, 4, 1.5, 5, 6}},
      {"sum_so_far(n, by: n)", {3, 1, 4, 2, 5, 9}},
      {"row_number(by: n)", {1, 1, 1, 2, 1, 1}},
      {"previous_known(n)", {edge, 3, 1, 4, 1, 5}},
      {"next_known(n)", {1, 4, 1, 5, 9, edge}},
  };
  for (const auto& row : rows) {
    const auto got = values_of(sheet.run(row.equation));
    ASSERT_EQ(got.size(), row.values.size());
    for (std::size_t i = 0; i < got.size(); ++i)
      EXPECT_NEAR(got[i], row.values[i], 1e-14) << row.equation << " in row " << i;
  }
}

TEST(Sequences, TreatNullsByTheirRule) {
  Sheet sheet(6);
  sheet.set(2, {3, 1, 4, 1, 5, 9});
  // The third value is left out by a condition, which makes it a null that began in the result itself.
  const std::string gap = "exclude(n, where: n == 4)";
  const double out = why(Reason::excluded);
  const double edge = why(Reason::no_neighbour);
  EXPECT_EQ(values_of(sheet.run("sum_so_far(" + gap + ")")), (std::vector<double>{3, 4, out, out, out, out}));
  EXPECT_EQ(values_of(sheet.run("sum_so_far(" + gap + ", nulls: skip)")),
            (std::vector<double>{3, 4, 4, 5, 10, 19}));
  EXPECT_EQ(values_of(sheet.run("moving_mean(" + gap + ", rows: 3)")),
            (std::vector<double>{edge, out, out, out, 5, edge}));
  EXPECT_EQ(values_of(sheet.run("moving_mean(" + gap + ", rows: 3, nulls: skip)")),
            (std::vector<double>{edge, 2, 1, 3, 5, edge}));
  EXPECT_EQ(values_of(sheet.run("previous_known(" + gap + ")")), (std::vector<double>{edge, 3, 1, 1, 1, 5}));
  EXPECT_EQ(values_of(sheet.run("next_known(" + gap + ")")), (std::vector<double>{1, 1, 1, 5, 9, edge}));
  EXPECT_EQ(values_of(sheet.run("change(" + gap + ")")), (std::vector<double>{edge, -2, out, out, 4, 4}));
  EXPECT_EQ(values_of(sheet.run("rank(" + gap + ")")), (std::vector<double>{3, 1.5, out, 1.5, 4, 5}));
  EXPECT_EQ(values_of(sheet.run("fallback(" + gap + ", previous_known(" + gap + "))")),
            (std::vector<double>{3, 1, 1, 1, 5, 9}));
}

// Of a parabola the slope is exact everywhere, of a straight line the area too, whatever the distances.
TEST(Sequences, GoAlongAnotherColumn) {
  Sheet sheet(6);
  sheet.set(0, {1, 2, 4, 5, 8, 10});
  sheet.set(2, {1, 4, 16, 25, 64, 100});
  EXPECT_EQ(values_of(sheet.run("derivative(n, along: x) in [1/g]")),
            (std::vector<double>{2, 4, 8, 10, 16, 20}));
  EXPECT_EQ(values_of(sheet.run("area_so_far(x, along: x) in [g^2]")),
            (std::vector<double>{0, 1.5, 7.5, 12, 31.5, 49.5}));
  EXPECT_EQ(values_of(sheet.run("interpolated(exclude(x, where: n == 16 or n == 64), along: n)")),
            (std::vector<double>{1, 2, 2 + 3 * 12.0 / 21, 5, 5 + 5 * 39.0 / 75, 10}));
  const double edge = why(Reason::no_neighbour);
  EXPECT_EQ(values_of(sheet.run("interpolated(exclude(x, where: n < 4 or n > 64), along: n)")),
            (std::vector<double>{edge, 2, 4, 5, 8, edge}));
  EXPECT_EQ(values_of(sheet.run("derivative(n, along: x, by: n)")), std::vector<double>(6, edge));
  EXPECT_TRUE(sheet.notes().order_faults.empty());
  sheet.run("derivative(x, along: mod(n, 10))");
  ASSERT_EQ(sheet.notes().order_faults.size(), 1U);
  EXPECT_EQ(sheet.notes().order_faults[0].rows.rows, (std::vector<std::size_t>{3, 4, 5}));
}

TEST(Sequences, KeepTheRowInWhichANullBegan) {
  Sheet sheet(kChunkRows + 10);
  const std::size_t rows = kChunkRows + 10;
  const auto before = sheet.run("previous(x)");
  std::size_t compared = 0;
  for (std::size_t row = 1; row < rows; ++row) {
    const Null null = before[row / kChunkRows].null_at(row % kChunkRows);
    EXPECT_EQ(static_cast<bool>(null), static_cast<bool>(sheet[0].null(row - 1)));
    if (!null) continue;
    EXPECT_EQ(sheet.origins()[null.origin()].row, row - 1);
    EXPECT_EQ(sheet.origins()[null.origin()].column, "x");
    ++compared;
  }
  EXPECT_GT(compared, 100U);
}

TEST(Sequences, ObeyTheirLaws) {
  Sheet sheet(kChunkRows + 100);
  // Nulls aside, the change of a sum so far is the value itself.
  const auto change = values_of(sheet.run("change(sum_so_far(fallback(n, 0)))"));
  const auto plain = values_of(sheet.run("fallback(n, 0)"));
  for (std::size_t i = 1; i < plain.size(); ++i) EXPECT_NEAR(change[i], plain[i], 1e-9);
  EXPECT_EQ(values_of(sheet.run("moving_mean(fallback(n, 0), rows: 1)")), plain);
  EXPECT_EQ(values_of(sheet.run("sum_so_far(fallback(n, 0))")).back(),
            sheet.first("col_sum(fallback(n, 0))"));
  EXPECT_EQ(values_of(sheet.run("max_so_far(fallback(n, 0))")).back(),
            sheet.first("col_max(fallback(n, 0))"));
  const auto there_and_back = values_of(sheet.run("previous(next(fallback(n, 0)))"));
  for (std::size_t i = 1; i < plain.size(); ++i) EXPECT_EQ(there_and_back[i], plain[i]);
  EXPECT_NEAR(sheet.first("col_sum(rank(n)) - col_count(n) * (col_count(n) + 1) / 2"), 0, 1e-6);
}

TEST(Sequences, TakeReadingsForWhatTheyAre) {
  Sheet sheet(20);
  sheet.run("change(t)");
  EXPECT_EQ(sheet.unit(), "K");
  sheet.run("moving_mean(t, rows: 3)");
  EXPECT_EQ(sheet.unit(), "°C");
  sheet.run("moving_sd(t, rows: 3)");
  EXPECT_EQ(sheet.unit(), "K");
}

}  // namespace
}  // namespace opensum
