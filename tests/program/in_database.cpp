// Runs studies here and in a database, and compares all that comes of them.
#include "program/in_database.h"

#include <fmt/format.h>

#include <algorithm>
#include <iostream>
#include <iterator>
#include <regex>

#include "program/csv_cells.h"

namespace opensum {

const char* const kSweepTables = R"(
CREATE TABLE sweep AS SELECT i AS n,
 CASE WHEN i % 11 = 3 THEN NULL WHEN i % 7 = 0 THEN 0 WHEN i % 5 = 0 THEN -i/7.0 ELSE i/3.0 END::float8 AS a,
 CASE WHEN i % 13 = 5 THEN NULL WHEN i % 6 = 0 THEN 0 ELSE (i - 200)/13.0 END::float8 AS b,
 (CASE WHEN i % 17 = 1 THEN NULL ELSE 0.1 * (i % 10) END)::float8 AS c,
 CASE WHEN i % 19 = 2 THEN NULL WHEN i % 23 = 0 THEN 1e200 WHEN i % 29 = 0 THEN -3e-200 ELSE i::float8 * 1e5 END::float8
   AS wild,
 CASE WHEN i % 9 = 4 THEN NULL ELSE (ARRAY['north','South','west end','Ærø','NA',''])[1 + i % 6] END AS site,
 CASE WHEN i % 8 = 2 THEN NULL ELSE i % 3 = 0 END AS ok,
 CASE WHEN i % 15 = 7 THEN NULL ELSE timestamp '2031-04-02 10:00' + i * interval '37 hours 11 minutes 7.25 seconds' END
   AS t,
 (i % 12)::int AS k, (i::numeric/8)::numeric(9,2) AS num, (i/8.0)::real AS r,
 CASE WHEN i % 31 = 0 THEN 'NaN' ELSE sin(i) END::float8 AS gap
 FROM generate_series(1,400) i;
CREATE TABLE prop AS SELECT k, k*1.5 + 0.25 AS density, CASE WHEN k = 4 THEN NULL ELSE k/8.0 END AS visc,
 (k*30)::float8 AS x FROM generate_series(0,10) k;
)";

namespace {

// Every function on operands that try its corners.
std::vector<std::string> equations() {
  std::vector<std::string> all;
  for (const char* op : {"+", "-", "*", "/", "^"}) {
    for (const auto& [x, y] : {std::pair{"a", "b"},
                               {"c", "a"},
                               {"a", "3"},
                               {"2", "b"},
                               {"wild", "a"},
                               {"wild", "wild"},
                               {"num", "r"},
                               {"gap", "c"}})
      all.push_back(fmt::format("{} {} {}", x, op, y));
  }
  for (const char* one : {"a^2", "b^0.5", "a^(-1)", "c^3", "b^(1/3)", "-a"}) all.emplace_back(one);
  for (const char* function : {"abs",  "sign",  "sqrt",  "cbrt", "exp",   "ln",    "log10", "log2",
                               "sin",  "cos",   "tan",   "asin", "acos",  "atan",  "sinh",  "cosh",
                               "tanh", "expm1", "log1p", "erf",  "round", "floor", "ceil",  "trunc"}) {
    for (const char* x : {"a", "b", "c", "b / 20", "gap"}) all.push_back(fmt::format("{}({})", function, x));
  }
  for (const char* function : {"exp", "sinh", "cosh", "ln", "sqrt", "cbrt", "abs", "log10"})
    all.push_back(fmt::format("{}(wild)", function));
  for (const char* function : {"round", "floor", "ceil", "trunc"}) {
    for (const char* step : {"0.1", "100", "0.25", "7"})
      all.push_back(fmt::format("{}(a, to: {})", function, step));
    all.push_back(fmt::format("{}(b, to: 0.25)", function));
  }
  for (const char* one : {"mod(a, 7)", "mod(a, b)", "mod(b, -0.3)", "hypot(a, b)", "atan2(a, b)",
                          "clamp(a, 3, 20)", "clamp(a, b, c)", "ratio(a, b)", "ratio(a, b, zero: 0)",
                          "agrees(a, b, within: 5)", "agrees(a, b, within: c - 0.3)"})
    all.emplace_back(one);
  for (const char* sign : {"<", "<=", ">", ">=", "==", "!="}) {
    for (const char* sides :
         {"a {} b", "c {} 0.3", "3 * 0.1 {} c", "a / 3 {} num", "n {} k", "t {} date(\"2031-09-01\")"})
      all.push_back(fmt::format(fmt::runtime(sides), sign));
  }
  for (const char* one : {"site == \"north\"",
                          "site != \"Ærø\"",
                          "ok == true",
                          "a > 0 and b > 0",
                          "a > 0 or b > 0",
                          "not ok",
                          "if(a > b, a, b)",
                          "if(ok, a, null)",
                          "if(ok, 1, 2)",
                          "if(ok, \"x\", site)",
                          "fallback(a, b, c)",
                          "fallback(a, 0)",
                          "fallback(site, \"none\")",
                          "is_null(a)",
                          "is_null(site)",
                          "complete(a, b)",
                          "exclude(a, where: b > 0)",
                          "is_any(k, 1, 2, 3)",
                          "is_any(site, \"north\", \"west end\")",
                          "is_any(a, b, c)",
                          "concat(site, \"!\")",
                          "contains(site, \"o\")",
                          "starts_with(site, \"no\")",
                          "ends_with(site, \"th\")",
                          "upper(site)",
                          "t - date(\"2031-04-02\")",
                          "shift(t, days: 3)",
                          "t + k * 1 [h]",
                          "t + 3e12 [s] * k",
                          "year(t + 90000 [d] * k)",
                          "t - 40 [yr]",
                          "t - 1e12 [s]"})
    all.emplace_back(one);
  for (const char* function :
       {"row_sum", "row_mean", "row_min", "row_max", "row_range", "row_product", "row_median", "row_sd"}) {
    for (const char* rule : {"", ", nulls: skip", ", nulls: skip, at_least: 2"})
      all.push_back(fmt::format("{}(a, b, c{})", function, rule));
  }
  all.emplace_back("row_count(a, b, c)");
  for (const char* part :
       {"year", "quarter", "month", "week", "day", "day_of_year", "weekday", "hour", "minute", "second"})
    all.push_back(fmt::format("{}(t)", part));
  for (const char* period : {"year", "quarter", "month", "week", "day", "hour"}) {
    all.push_back(fmt::format("start_of(t, \"{}\")", period));
    all.push_back(fmt::format("end_of(t, \"{}\")", period));
  }
  for (const char* function : {"col_sum", "col_mean", "col_median", "col_min", "col_max", "col_range",
                               "col_sd", "col_sem", "col_rms", "col_geometric_mean", "col_mad"}) {
    for (const char* operands : {"a", "a, by: k", "c, where: b > 0", "a, by: site",
                                 "c, by: ok, nulls: propagate", "gap, at_least: 500"})
      all.push_back(fmt::format("{}({})", function, operands));
  }
  for (const char* one : {"col_count(a)",
                          "col_count(a, by: site)",
                          "col_quantile(a, 0.1)",
                          "col_mean(a, weights: c)",
                          "col_mean(a, weights: b)",
                          "col_correlation(a, b)",
                          "col_correlation(a, 0 * c + 0.1)",
                          "a - col_mean(a)",
                          "(a - col_mean(a, by: k)) / col_sd(a, by: k)",
                          "col_sd(0 * c + 0.1)",
                          "col_sum(b - b)",
                          "previous(a)",
                          "previous(c, rows: 3)",
                          "next(a)",
                          "next(site, rows: 2)",
                          "previous(a, by: k)",
                          "row_number()",
                          "row_number(by: site)",
                          "a - previous(a)",
                          "change(a)",
                          "change(c)",
                          "change(a, by: k)",
                          "sum_so_far(num)",
                          "sum_so_far(a)",
                          "sum_so_far(a, nulls: skip)",
                          "mean_so_far(b, nulls: skip)",
                          "mean_so_far(a, by: k, nulls: skip)",
                          "min_so_far(b, nulls: skip)",
                          "max_so_far(a, by: site)",
                          "moving_mean(a, rows: 5)",
                          "moving_mean(a, rows: 5, nulls: skip)",
                          "moving_sd(b, rows: 3)",
                          "moving_sd(c, rows: 7, nulls: skip)",
                          "moving_sd(0 * num + 0.1, rows: 3)",
                          "moving_median(a, rows: 3)",
                          "rank(a)",
                          "rank(0.1 * k)",
                          "rank(b, by: k)",
                          "prop.density * a",
                          "prop.visc",
                          "low.density",
                          "near.density",
                          "near.visc + a"})
    all.emplace_back(one);
  return all;
}

}  // namespace

void InDatabase::SetUp() {
  server_ = DatabaseServer::start();
  if (!server_) GTEST_SKIP() << "no server is installed";
}

std::size_t InDatabase::compare(const std::string& name) {
  return compare_cells(name, folder_.read("here/" + name), folder_.read("there/" + name));
}

std::map<std::string, std::string> InDatabase::nulls(const std::string& folder) {
  std::map<std::string, std::string> all;
  for (const auto& row : read_csv(folder_.read(folder + "/nulls.csv")).rows) {
    if (row[0] != "prop" && row[0] != "whole")
      all[row[0] + "." + row[3] + " " + row[1] + " " + row[4]] = row[5];
  }
  return all;
}

void InDatabase::expect_same(const std::string& study, const std::vector<std::string>& tables,
                             std::size_t& cells, std::size_t& reasons) {
  folder_.write("study.toml", study);
  const Outcome here = run_program(folder_, {"run", "--output", "here"});
  const Outcome there = run_program(folder_, {"run", "--in-database", "--output", "there"});
  ASSERT_EQ(here.code, 0) << here.err;
  ASSERT_EQ(there.code, 0) << there.err;
  for (const std::string& table : tables) cells += compare(table);
  const auto nulls_here = nulls("here");
  const auto nulls_there = nulls("there");
  reasons += nulls_here.size();
  std::vector<std::pair<std::string, std::string>> unlike;
  std::set_symmetric_difference(nulls_here.begin(), nulls_here.end(), nulls_there.begin(), nulls_there.end(),
                                std::back_inserter(unlike));
  EXPECT_TRUE(unlike.empty()) << ::testing::PrintToString(unlike);
}

std::string InDatabase::sweep(const std::vector<std::string>& lines, Order order) const {
  const bool sorted = order == Order::none;
  std::string text = fmt::format(
      "headers = 'symbol'\nnulls_of = 'all'\n[sheet.prop]\ndata = '{}'\n[sheet.s]\ndata = '{}'\nwrite = "
      "['csv']\n"
      "{}link.prop = {{ match = 'k' }}\nlink.low = {{ sheet = 'prop', match = 'n = x', how = 'previous' }}\n"
      "link.near = {{ sheet = 'prop', match = 'n = x', how = 'nearest', within = '12' }}\n"
      "fill.c = ['b / 100', '0.5']\nequations = '''\n",
      server_->address("prop"), server_->address("sweep"), sorted ? "sort_by = ['n']\n" : "");
  for (const std::string& line : lines) text += line + '\n';
  text += "'''\n";
  // Rows without an order are not taken by a sheet that is sorted.
  if (sorted)
    text +=
        fmt::format("[sheet.whole]\ndata = '{}'\nfill.c = ['b / 100', '0.5']\n", server_->address("sweep"));
  return text +
         fmt::format(
             "[sheet.g]\nrows_of = '{}'\none_row_per = ['site', 'k']\n{}equations = '''\n  am = col_mean(a)\n"
             "  bs = col_sum(b * 2)\n  cnt = col_count(a)\n  md = col_median(b)\n  sd = col_sd(a)\n  mx = "
             "col_max(wild)\n"
             "  q = am / bs\n  gm = col_geometric_mean(c)\n  cp = col_mean(c, nulls: propagate)\n'''\n",
             sorted ? "whole" : "s", sorted ? "sort_by = ['site', 'k']\n" : "");
}

InDatabase::Swept InDatabase::sweep_all(Order order) {
  std::size_t cells = 0;
  Swept swept;
  std::vector<std::string> all = equations();
  if (order == Order::none) {
    const std::regex of_order("previous|next|change|row_number|_so_far|moving_");
    std::erase_if(all, [&](const std::string& one) { return std::regex_search(one, of_order); });
  }
  constexpr std::size_t kAtATime = 60;
  const std::size_t first_line = order == Order::none ? 14 : 13;
  for (std::size_t begin = 0; begin < all.size(); begin += kAtATime) {
    std::vector<std::string> lines;
    for (std::size_t i = begin; i < std::min(begin + kAtATime, all.size()); ++i)
      lines.push_back(fmt::format("  e{} = {}", i, all[i]));
    // What has no counterpart is refused with its line, never computed here in silence.
    const std::regex line_of_error(
        "study.toml:([0-9]+):[0-9]+: error: the sheet s cannot be computed in the database");
    for (;;) {
      folder_.write("study.toml", sweep(lines, order));
      const Outcome outcome = run_program(folder_, {"run", "--in-database", "--output", "there"});
      if (outcome.code == 0) break;
      std::smatch match;
      if (!std::regex_search(outcome.err, match, line_of_error)) {
        ADD_FAILURE() << outcome.err;
        return swept;
      }
      const std::size_t at = std::stoul(match[1]) - first_line;
      swept.refused.push_back(lines[at]);
      lines.erase(lines.begin() + static_cast<std::ptrdiff_t>(at));
    }
    swept.equations += lines.size();
    expect_same(sweep(lines, order), {"s.csv", "g.csv"}, cells, swept.nulls);
  }
  std::cout << swept.equations << " equations, " << cells << " cells and " << swept.nulls
            << " nulls compared; " << swept.refused.size() << " refused:\n";
  for (const std::string& one : swept.refused) std::cout << one << '\n';
  return swept;
}

}  // namespace opensum
