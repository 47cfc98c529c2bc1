// Functions of whole columns against the plain evaluator, and those of dates and text: all of them over
// several operands, groups and rules, then random nestings.
#include <gtest/gtest.h>

#include <iostream>
#include <random>

#include "compute/against_plain.h"

namespace opensum {
namespace {

#ifdef OPENSUM_SANITIZED
constexpr std::size_t kRandomNestings = 60;
#else
constexpr std::size_t kRandomNestings = 600;
#endif

// Every function of whole columns, of one operand.
std::vector<std::string> of_whole_columns(const std::string& x) {
  std::vector<std::string> out;
  const std::vector<std::string> groups = {"", ", by: word", ", by: (word, yes)"};
  for (const std::string name : {"col_sum", "col_mean", "col_median", "col_min", "col_max", "col_range",
                                 "col_sd", "col_sem", "col_mad", "col_rms", "col_geometric_mean"}) {
    for (const std::string& group : groups) {
      out.push_back(name + "(" + x + group + ")");
      out.push_back(name + "(" + x + group + ", nulls: propagate)");
      out.push_back(name + "(" + x + group + ", where: yes, at_least: 3)");
    }
  }
  for (const std::string& group : groups) {
    for (const std::string name :
         {"col_count", "col_first", "col_last", "col_first_known", "col_last_known"}) {
      out.push_back(name + "(" + x + group + ")");
      out.push_back(name + "(" + x + group + ", where: not yes)");
    }
    out.push_back("col_quantile(" + x + ", 0.9" + group + ")");
    out.push_back("col_at(" + x + ", 3" + group + ")");
    for (const std::string name : {"previous", "next"}) {
      out.push_back(name + "(" + x + group + ")");
      out.push_back(name + "(" + x + ", rows: 2" + group + ")");
    }
    for (const std::string name : {"change", "previous_known", "next_known", "rank"}) {
      out.push_back(name + "(" + x + group + ")");
    }
    for (const std::string name : {"sum_so_far", "mean_so_far", "min_so_far", "max_so_far"}) {
      out.push_back(name + "(" + x + group + ")");
      out.push_back(name + "(" + x + group + ", nulls: skip)");
    }
    for (const std::string name : {"moving_mean", "moving_median", "moving_sd"}) {
      out.push_back(name + "(" + x + ", rows: 3" + group + ")");
      out.push_back(name + "(" + x + ", rows: 5" + group + ", nulls: skip)");
    }
    for (const std::string name : {"derivative", "area_so_far", "interpolated"}) {
      for (const std::string along : {"order", "exclude(order, where: n > 1)"}) {
        out.push_back(name + "(" + x + ", along: " + along + group + ")");
        out.push_back(name + "(" + x + ", along: " + along + group + ", nulls: skip)");
      }
    }
    for (const std::string rule : {"", ", nulls: propagate"}) {
      out.push_back("col_area(" + x + ", along: order" + group + rule + ")");
      out.push_back("col_area(" + x + ", along: exclude(order, where: n > 1)" + group + rule + ")");
      out.push_back("col_mean(" + x + ", weights: abs(n)" + group + rule + ")");
      out.push_back("col_mean(" + x + ", weights: a" + group + rule + ")");
      out.push_back("col_correlation(" + x + ", b" + group + rule + ")");
      out.push_back("col_correlation(n, " + x + group + rule + ")");
    }
  }
  out.emplace_back("row_number(by: word)");
  return out;
}

TEST(WholeColumnsAgainstPlain, AgreeOnEveryFunction) {
  std::size_t compared = 0;
  std::size_t rejected = 0;
  for (const std::size_t rows : {std::size_t{0}, std::size_t{1}, std::size_t{2}, std::size_t{30}}) {
    Bench bench(rows, static_cast<unsigned>(7 + rows));
    for (const std::string x : {"a", "n", "t", "yes", "word", "day", "order", "a / b", "-n", "null"}) {
      for (const std::string& equation : of_whole_columns(x)) {
        (bench.compare(equation) ? compared : rejected)++;
      }
    }
    if (HasFailure()) break;
  }
  std::cout << compared << " equations of whole columns compared, " << rejected << " rejected\n";
  EXPECT_GT(compared, 2000U);
}

TEST(WholeColumnsAgainstPlain, AgreeOnRandomNestings) {
  const unsigned seed = 77;
  std::mt19937 random(seed);
  Bench bench(12, seed);
  const auto pick = [&](const std::vector<std::string>& list) { return list[random() % list.size()]; };
  std::size_t compared = 0;
  std::size_t rejected = 0;
  while (compared < kRandomNestings && !HasFailure()) {
    const std::string inner = pick(of_whole_columns(pick({"a", "b", "n", "t", "a / b", "word", "day"})));
    const std::string outer = pick(of_whole_columns(
        pick({inner, "fallback(" + inner + ", n)", inner + " - b", "is_null(" + inner + ")"})));
    (bench.compare(outer) ? compared : rejected)++;
  }
  std::cout << compared << " nestings compared, " << rejected << " rejected; seed " << seed << "\n";
}

TEST(WholeColumnsAgainstPlain, AgreeAcrossChunkBorders) {
  Bench bench(kChunkRows + 3, 5);
  // Reductions look at every row for every row in the plain evaluator, so only a cheap one is compared here.
  EXPECT_TRUE(bench.compare("is_null(word) or starts_with(word, \"re\")"));
  EXPECT_TRUE(bench.compare("concat(word, \"-\", year(day))"));
}

TEST(DatesAndTextAgainstPlain, AgreeOnEveryFunction) {
  std::size_t compared = 0;
  std::size_t rejected = 0;
  Bench bench(400, 9);
  std::vector<std::string> equations = {"whole_years(day, date(\"2031-04-02\"))",
                                        "whole_years(date(\"2024-02-29\"), day)",
                                        "date_time(day, order)",
                                        "day + order",
                                        "day - 1e9 * order",
                                        "day - date(\"1999-12-31T12:00\")",
                                        "shift(day, months: n)",
                                        "shift(day, months: 12)",
                                        "shift(day, months: -1)",
                                        "shift(day, months: null)",
                                        "shift(day, years: -2)",
                                        "shift(day, weeks: n)",
                                        "shift(day, days: n)",
                                        "shift(day, years: 1, days: -3)",
                                        "limit(n)",
                                        "limit(t)"};
  for (const std::string name : {"year", "quarter", "month", "week", "day", "day_of_year", "hour", "minute",
                                 "second", "weekday", "month_name", "weekday_name"}) {
    equations.push_back(name + "(day)");
  }
  for (const std::string period : {"year", "quarter", "month", "week", "day", "hour"}) {
    equations.push_back("start_of(day, \"" + period + "\")");
    equations.push_back("end_of(day, \"" + period + "\")");
  }
  for (const std::string x : {"word", "concat(word, n)", "concat(\" \", day, yes, \"  \")", "null"}) {
    for (const std::string sign : {"-", "e", "re"}) {
      for (const std::string place : {"1", "2", "7"}) {
        equations.push_back("part(" + x + ", " + place + ", split: \"" + sign + "\")");
      }
    }
    equations.push_back("number(" + x + ")");
    equations.push_back("number(concat(n, \"\"))");
    equations.push_back("number(part(concat(\"a\", n), 2, split: \"a\"), [g]) + 1 [kg]");
    for (const std::string name : {"upper", "lower", "trim"}) equations.push_back(name + "(" + x + ")");
    for (const std::string name : {"contains", "starts_with", "ends_with"}) {
      equations.push_back(name + "(" + x + ", \"re\")");
      equations.push_back(name + "(" + x + ", word)");
    }
  }
  for (const std::string& equation : equations) (bench.compare(equation) ? compared : rejected)++;
  std::cout << compared << " equations of dates and text compared, " << rejected << " rejected\n";
  EXPECT_EQ(rejected, 0U);
}

}  // namespace
}  // namespace opensum
