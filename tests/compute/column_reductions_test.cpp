// Reductions down the column: against plain formulas over groups, on hard data, and the origin of their
// nulls.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "compute/test_sheet.h"
#include "compute/whole_columns.h"

namespace opensum {
namespace {

// Plain formulas over the known values of each group.
double plain(const std::string& function, std::vector<double> v) {
  const double n = static_cast<double>(v.size());
  long double sum = 0;
  for (const double value : v) sum += value;
  const long double mean = sum / n;
  long double squares = 0;
  for (const double value : v) squares += (value - mean) * (value - mean);
  const double sd = std::sqrt(static_cast<double>(squares / (n - 1)));
  std::sort(v.begin(), v.end());
  const auto quantile = [&](double p) {
    const double at = (n - 1) * p;
    const auto k = static_cast<std::size_t>(at);
    return k + 1 < v.size() ? v[k] + (at - static_cast<double>(k)) * (v[k + 1] - v[k]) : v[k];
  };
  if (function == "col_sum") return static_cast<double>(sum);
  if (function == "col_mean") return static_cast<double>(mean);
  if (function == "col_sd") return sd;
  if (function == "col_sem") return sd / std::sqrt(n);
  if (function == "col_min") return v.front();
  if (function == "col_max") return v.back();
  if (function == "col_range") return v.back() - v.front();
  if (function == "col_count") return n;
  return function == "col_median" ? quantile(0.5) : quantile(0.9);
}

TEST(ColumnReductions, AgreeWithPlainFormulasByGroup) {
  std::size_t compared = 0;
  for (const std::size_t rows : {std::size_t{12}, std::size_t{300}, kChunkRows + 50}) {
    Sheet sheet(rows);
    for (const std::string function : {"col_sum", "col_mean", "col_sd", "col_sem", "col_min", "col_max",
                                       "col_range", "col_count", "col_median", "col_quantile"}) {
      const std::string argument = function == "col_quantile" ? "x, 0.9" : "x";
      const auto chunks = sheet.run(function + "(" + argument + ", by: g, where: n > 10)");
      std::map<std::string, std::vector<double>> groups;
      const auto key = [&](std::size_t row) {
        return sheet[3].null(row) ? std::string("null") : "text " + std::string(sheet[3].text(row));
      };
      for (std::size_t row = 0; row < rows; ++row) {
        const bool taken = !sheet[2].null(row) && sheet[2].number(row) > 10;
        if (taken && !sheet[0].null(row)) groups[key(row)].push_back(sheet[0].number(row));
      }
      for (std::size_t row = 0; row < rows; ++row) {
        const Chunk& chunk = chunks[row / kChunkRows];
        const auto& values = groups[key(row)];
        const bool spread = function == "col_sd" || function == "col_sem";
        if (function != "col_count" && values.size() < (spread ? 2U : 1U)) {
          EXPECT_EQ(chunk.null_at(row % kChunkRows).reason(), Reason::too_few);
          continue;
        }
        const double expected = plain(function, values);
        EXPECT_NEAR(chunk.numbers[row % kChunkRows], expected, 1e-12 * (1 + std::fabs(expected))) << function;
        ++compared;
      }
      if (HasFailure()) return;
    }
  }
  EXPECT_GT(compared, 30000U);
}

// Data of known mean and standard deviation with a large offset and a tiny spread: 1001 values of which the
// first is c + 0.2 and the others alternate between c + 0.1 and c + 0.3; the mean is c + 0.2, the standard
// deviation 0.1 exactly.
TEST(ColumnReductions, KeepTheirDigitsOnHardData) {
  for (const double offset : {1.0, 1000000.0, 10000000.0}) {
    Sheet sheet(1001);
    std::vector<double> values = {offset + 0.2};
    for (int i = 0; i < 500; ++i) {
      values.push_back(offset + 0.1);
      values.push_back(offset + 0.3);
    }
    sheet.set(0, values);
    EXPECT_NEAR(sheet.first("col_mean(x) / 1 [g]"), offset + 0.2, 1e-15 * offset + 1e-15);
    // What is left is the rounding of the data themselves.
    EXPECT_NEAR(sheet.first("col_sd(x) / 1 [g]"), 0.1, 1e-15 * offset);
  }
}

TEST(ColumnReductions, LeaveNullsOutAndSayHowMany) {
  Sheet sheet(100);
  const std::size_t known = 100 - sheet[0].null_count();
  sheet.run("col_mean(x)");
  ASSERT_EQ(sheet.notes().tallies.size(), 1U);
  EXPECT_EQ(sheet.notes().tallies[0].function, "col_mean");
  EXPECT_EQ(sheet.notes().tallies[0].used, known);
  EXPECT_EQ(sheet.notes().tallies[0].met, 100U);
  EXPECT_EQ(sheet.first("col_count(x)"), static_cast<double>(known));
}

TEST(ColumnReductions, KeepTheCellInWhichANullBegan) {
  Sheet sheet(100);
  std::size_t row = 0;
  while (!sheet[0].null(row)) ++row;
  const Null null = sheet.first_null("col_mean(x, nulls: propagate)");
  EXPECT_EQ(null.reason(), Reason::missing);
  EXPECT_EQ(sheet.origins()[null.origin()].column, "x");
  EXPECT_EQ(sheet.origins()[null.origin()].row, row);
  const Null at = sheet.first_null("col_at(x, " + std::to_string(row + 1) + ")");
  EXPECT_EQ(sheet.origins()[at.origin()].row, row);
  EXPECT_EQ(sheet.first_null("col_mean(x, at_least: 101)").reason(), Reason::too_few);
  EXPECT_EQ(sheet.first_null("col_at(x, 1000)").reason(), Reason::too_few);
}

TEST(ColumnReductions, TakeReadingsForWhatTheyAre) {
  Sheet sheet(50);
  sheet.run("col_mean(t)");
  EXPECT_EQ(sheet.unit(), "°C");
  sheet.run("col_sd(t)");
  EXPECT_EQ(sheet.unit(), "K");
  EXPECT_EQ(sheet.first("col_range(t)"), sheet.first("col_max(t) - col_min(t)"));
  sheet.run("t - col_mean(t)");
  EXPECT_EQ(sheet.unit(), "K");
}

// Laws: a mean of differences from the mean is nil; the sum is the mean times the count.
TEST(ColumnReductions, ObeyTheirLaws) {
  Sheet sheet(500);
  EXPECT_NEAR(sheet.first("col_mean(x - col_mean(x)) / 1 [g]"), 0, 1e-12);
  EXPECT_NEAR(sheet.first("col_sum(x) / (col_mean(x) * col_count(x))"), 1, 1e-14);
  EXPECT_EQ(sheet.first("col_quantile(x, 0.5) - col_median(x)"), 0);
  EXPECT_EQ(sheet.first("col_quantile(x, 0) - col_min(x)"), 0);
  EXPECT_EQ(sheet.first("col_quantile(x, 1) - col_max(x)"), 0);
  EXPECT_EQ(sheet.run("col_first_known(g)").at(0).texts.at(0), sheet.run("col_at(g, 1)").at(0).texts.at(0));
}

}  // namespace
}  // namespace opensum
