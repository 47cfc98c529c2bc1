// Studies that are computed in a database come to what they come to here.
#include <cairo.h>
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <cstdlib>
#include <iostream>
#include <map>
#include <memory>
#include <regex>

#include "program/csv_cells.h"
#include "program/database_server.h"
#include "program/program.h"

namespace opensum {
namespace {

// A table with nulls, zeros, numbers of all sizes, dates, truths and texts, and one that is linked to.
const char* const kTables = R"(
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

class InDatabase : public ::testing::Test {
 protected:
  void SetUp() override {
    server_ = DatabaseServer::start();
    if (!server_) GTEST_SKIP() << "no server is installed";
  }

  // Compares two tables of results cell by cell; how many cells there are.
  std::size_t compare(const std::string& name) {
    return compare_cells(name, folder_.read("here/" + name), folder_.read("there/" + name));
  }

  // Nulls by sheet, row and column, with their reasons.
  std::map<std::string, std::string> nulls(const std::string& folder) {
    std::map<std::string, std::string> all;
    for (const auto& row : read_csv(folder_.read(folder + "/nulls.csv")).rows) {
      if (row[0] != "prop") all[row[0] + "." + row[3] + " " + row[1] + " " + row[4]] = row[5];
    }
    return all;
  }

  // Runs a study here and in the database, and compares all that is written.
  void expect_same(const std::string& study, const std::vector<std::string>& tables, std::size_t& cells,
                   std::size_t& reasons) {
    folder_.write("study.toml", study);
    const Outcome here = run_program(folder_, {"run", "--output", "here"});
    const Outcome there = run_program(folder_, {"run", "--in-database", "--output", "there"});
    ASSERT_EQ(here.code, 0) << here.err;
    ASSERT_EQ(there.code, 0) << there.err;
    for (const std::string& table : tables) cells += compare(table);
    const auto nulls_here = nulls("here");
    const auto nulls_there = nulls("there");
    reasons += nulls_here.size();
    EXPECT_EQ(nulls_here, nulls_there);
  }

  std::string sweep(const std::vector<std::string>& lines) const {
    std::string text = fmt::format(
        "headers = 'symbol'\nnulls_of = 'all'\n[sheet.prop]\ndata = '{}'\n[sheet.s]\ndata = '{}'\nwrite = "
        "['csv']\n"
        "link.prop = {{ match = 'k' }}\nlink.low = {{ sheet = 'prop', match = 'n = x', how = 'previous' }}\n"
        "link.near = {{ sheet = 'prop', match = 'n = x', how = 'nearest', within = '12' }}\n"
        "fill.c = ['b / 100', '0.5']\nequations = '''\n",
        server_->address("prop"), server_->address("sweep"));
    for (const std::string& line : lines) text += line + '\n';
    return text +
           "'''\n[sheet.g]\nrows_of = 's'\none_row_per = ['site', 'k']\nequations = '''\n  am = col_mean(a)\n"
           "  bs = col_sum(b * 2)\n  cnt = col_count(a)\n  md = col_median(b)\n  sd = col_sd(a)\n  mx = "
           "col_max(wild)\n"
           "  q = am / bs\n  gm = col_geometric_mean(c)\n  cp = col_mean(c, nulls: propagate)\n'''\n";
  }

  std::unique_ptr<DatabaseServer> server_;
  TempFolder folder_;
};

TEST_F(InDatabase, EveryFunctionComesToTheSame) {
  server_->sql(kTables);
  std::size_t cells = 0;
  std::size_t reasons = 0;
  std::size_t compared = 0;
  std::vector<std::string> refused;
  const std::vector<std::string> all = equations();
  constexpr std::size_t kAtATime = 60;
  constexpr std::size_t kFirstLine = 13;
  for (std::size_t begin = 0; begin < all.size(); begin += kAtATime) {
    std::vector<std::string> lines;
    for (std::size_t i = begin; i < std::min(begin + kAtATime, all.size()); ++i)
      lines.push_back(fmt::format("  e{} = {}", i, all[i]));
    // What has no counterpart is refused with its line, never computed here in silence.
    const std::regex line_of_error(
        "study.toml:([0-9]+):[0-9]+: error: the sheet s cannot be computed in the database");
    for (;;) {
      folder_.write("study.toml", sweep(lines));
      const Outcome outcome = run_program(folder_, {"run", "--in-database", "--output", "there"});
      if (outcome.code == 0) break;
      std::smatch match;
      ASSERT_TRUE(std::regex_search(outcome.err, match, line_of_error)) << outcome.err;
      const std::size_t at = std::stoul(match[1]) - kFirstLine;
      ASSERT_LT(at, lines.size()) << outcome.err;
      refused.push_back(lines[at]);
      lines.erase(lines.begin() + static_cast<std::ptrdiff_t>(at));
    }
    compared += lines.size();
    expect_same(sweep(lines), {"s.csv", "g.csv"}, cells, reasons);
  }
  std::cout << compared << " equations, " << cells << " cells and " << reasons << " nulls compared; "
            << refused.size() << " refused:\n";
  for (const std::string& one : refused) std::cout << one << '\n';
  EXPECT_GT(compared, 330U);
  EXPECT_GT(reasons, 10000U);
  EXPECT_LT(refused.size(), 30U);
}

// Numbers at both ends of what a double holds, texts with signs of all sorts, and tables of no or one row.
TEST_F(InDatabase, CornersOfTheDataComeToTheSame) {
  server_->sql(R"(CREATE TABLE corners (n int, s text, x float8, y float8, t timestamp);
INSERT INTO corners VALUES (1, ' a ', 1.5, 2, '2031-01-01'), (2, 'a', NULL, 3, NULL),
 (3, E'b\tc''d', -0.0, 1e-200, '2031-06-01 12:00:00.123456'), (4, E'x\\y', 1e-310, 0.5, '1999-12-31'),
 (5, '; drop table corners', 5e-324, 1e300, '2031-01-01'), (6, '''; --', 1.7e308, 1.7e308, '0001-01-01'),
 (7, 'null', -1.7e308, 1e-308, '9999-12-31 23:59:59');
CREATE TABLE none (LIKE corners);
CREATE TABLE one AS SELECT * FROM corners LIMIT 1;
CREATE TABLE nulls AS SELECT NULL::int AS n, NULL::text AS s, NULL::float8 AS x, NULL::float8 AS y,
 NULL::timestamp AS t FROM generate_series(1, 3);)");
  std::size_t cells = 0;
  std::size_t reasons = 0;
  for (const char* table : {"corners", "none", "one", "nulls"}) {
    expect_same(
        fmt::format("[sheet.s]\ndata = '{}'\nwrite = ['csv']\n", server_->address(table)) + R"(equations = '''
  is_a = s == "a"
  w = concat(s, "'; drop table corners; --")
  d = x * 2
  h = x / 2
  q = x / y
  p = x * y
  pp = x * x
  r = 1 / x
  sum = x + y
  less = x - y
  m = col_max(x)
  e = exp(x)
  root = sqrt(x)
  big = x > 1
'''
[sheet.g]
rows_of = 's'
one_row_per = ['s']
equations = 'k = col_count(x)'
[sheet.all]
rows_of = 's'
one_row_per = []
equations = 'k = col_count(x)'
)",
        {"s.csv", "g.csv", "all.csv"}, cells, reasons);
  }
  std::cout << cells << " cells and " << reasons << " nulls compared\n";
  EXPECT_EQ(server_->sql("SELECT count(*) FROM corners"), "7\n");
}

TEST_F(InDatabase, RowsThatAreLeftOutGroupsAndClaimsAreCountedThere) {
  server_->sql(kTables);
  const std::string study = fmt::format(
      "[sheet.s]\ndata = '{}'\nkeep = 'n > 20 and a > -10'\nfill.c = '0.5'\nequations = '''\n  x [m] = a * 2 "
      "[m]\n  y = "
      "row_mean(a, b, nulls: skip)\n  z = 1 / b\n  low = x < 3 [m]\n'''\nclaims = '\"not far\": b < "
      "15'\nclaims_are = "
      "'warnings'\n[sheet.later]\nrows_of = 's'\nkeep = 'low'\nequations = 'w = z + c'\n[sheet.g]\nrows_of = "
      "'later'\none_row_per = ['k']\nequations = '''\n  m [m] = col_mean(x)\n  n_z = col_count(z)\n  d = m / "
      "col_sd(x)\n'''\n[sheet.all]\nrows_of = 's'\none_row_per = []\nequations = 'total [m] = col_sum(x)'\n",
      server_->address("sweep"));
  std::size_t cells = 0;
  std::size_t reasons = 0;
  folder_.write("study.toml", study);
  const Outcome here = run_program(folder_, {"run", "--output", "here"});
  const Outcome there = run_program(folder_, {"run", "--in-database", "--output", "there"});
  ASSERT_EQ(here.code, 0) << here.err;
  ASSERT_EQ(there.code, 0) << there.err;
  cells += compare("g.csv") + compare("all.csv");
  EXPECT_GT(cells + reasons, 40U);
  // Everything but what was written is said alike.
  const auto said = [](const std::string& out) { return out.substr(0, out.find("written to")); };
  EXPECT_EQ(said(there.out), said(here.out));
  EXPECT_FALSE(folder_.has("there/s.csv"));
  const std::string record = folder_.read("there/record.json");
  EXPECT_NE(record.find("\"in_database\": true"), std::string::npos);
  EXPECT_NE(record.find("\"computed_there\": [\n    \"" + server_->address("public.sweep")),
            std::string::npos);
  EXPECT_NE(there.out.find("computed in its database: " + server_->address("public.sweep")),
            std::string::npos);
  EXPECT_NE(there.err.find("\"not far\" is broken in 2 of"), std::string::npos) << there.err;
  const Outcome verified = run_program(folder_, {"verify", "there"});
  EXPECT_EQ(verified.code, 0) << verified.out << verified.err;
  server_->sql("UPDATE sweep SET a = a + 1 WHERE n = 50");
  EXPECT_EQ(run_program(folder_, {"verify", "there"}).code, 5);
}

TEST_F(InDatabase, RowsAreTakenAsTheirSheetIsSorted) {
  server_->sql(kTables);
  std::size_t cells = 0;
  std::size_t reasons = 0;
  for (const char* keys : {"'c down', 'site'", "'site down'", "'ok', 't down', 'a'", "'z'"}) {
    expect_same(
        fmt::format("nulls_of = 'all'\n[sheet.s]\ndata = '{}'\nwrite = ['csv']\nsort_by = [{}]\nequations = "
                    "'z = a * b'\n[sheet.later]\nrows_of = 's'\nwrite = ['csv']\nequations = '''\n  at = "
                    "row_number()\n  d = change(a)\n  so_far = sum_so_far(a, nulls: skip)\n'''\n[sheet.g]\n"
                    "rows_of = 's'\none_row_per = ['k', 'ok']\nequations = 'm = col_mean(a)'\n",
                    server_->address("sweep"), keys),
        {"s.csv", "later.csv", "g.csv"}, cells, reasons);
  }
  std::cout << cells << " cells and " << reasons << " nulls compared\n";
}

TEST_F(InDatabase, TablesAreFilledThereWithoutTheirRowsComingHere) {
  server_->sql(kTables);
  const auto study = [&](const std::string& table, const std::string& compute) {
    return fmt::format(
        "[sheet.s]\ndata = '{}'\n{}equations = '''\n  x [m] = a * 2 [m] / b\n  day [date] = t\n  word = "
        "concat(site, \"!\")\n'''\nwrite = ['{}']\n[plot.p]\nx = 'n'\ny = 'x'\nsheets = ['s']\n[fit.f]\nx = "
        "'n'\ny = "
        "'a'\nmodel = 'line'\nsheets = ['s']\n",
        server_->address("sweep"), compute, server_->address(table));
  };
  folder_.write("here.toml", "output = 'here'\n" + study("of_here", ""));
  folder_.write("there.toml", "output = 'there'\n" + study("of_there", "compute = 'database'\n"));
  const std::string without = "  day [date] = t\n";
  for (const char* name : {"here.toml", "there.toml"}) {
    std::string text = folder_.read(name);
    text.erase(text.find(without), without.size());
    folder_.write(name, text);
    const Outcome outcome = run_program(folder_, {"run", name});
    ASSERT_EQ(outcome.code, 0) << outcome.err;
  }
  // Written numbers have 12 digits here, all of them there.
  EXPECT_EQ(
      server_->sql(
          "SELECT count(*) FROM of_here h FULL JOIN of_there t ON h.n = t.n WHERE h.n IS NULL OR t.n IS NULL "
          "OR abs(h.\"x [m]\" - t.\"x [m]\") > 1e-11 * abs(t.\"x [m]\") OR (h.\"x [m]\" IS NULL) <> (t.\"x "
          "[m]\" IS NULL) OR h.word IS DISTINCT FROM t.word OR h.t IS DISTINCT FROM t.t OR h.ok IS DISTINCT "
          "FROM t.ok"),
      "0\n");
  EXPECT_EQ(server_->sql("SELECT count(*) FROM of_there"), "400\n");
  EXPECT_EQ(folder_.read("here/fits.csv"), folder_.read("there/fits.csv"));
  EXPECT_TRUE(folder_.has("there/figures/p.png"));
}

TEST_F(InDatabase, WhatHasNoCounterpartIsRefusedWithItsLine) {
  server_->sql(kTables);
  struct Case {
    std::string rest;
    std::string words;
  };
  for (const Case& one : std::vector<Case>{
           {"equations = 'x = col_mad(a)'",
            "study.toml:4:14: error: the sheet s cannot be computed in the database: col_mad has no"},
           {"equations = 'x = upper(site)'", "`upper` has no counterpart there"},
           {"columns.a.uncertainty = '1 %'\nequations = 'x = 2 * a'", "uncertainties are carried here only"},
           {"read.missing_also = ['0']", "`read` says what cells mean missing"},
           {"link.o = { sheet = 'p', match = 'k' }\nkeep = 'o.density > 1'\n[sheet.p]\ndata = '" +
                server_->address("prop") + "'",
            "study.toml:5:9: error: the sheet s cannot be computed in the database: `keep` looks through a "
            "link"},
           {"columns.site.missing = ['x']", "columns.site says how its cells are read"},
           {"[sheet.l]\nrows = 3\nequations = 'y = col_mean(s.a)'", "y goes over rows that stay there"},
           {"link.o = { match = 'k' }\nequations = 'x = o.v'\n[sheet.o]\ntable = '''\nk,v\n1,2\n'''",
            "it needs the sheet o, which is computed here"},
           {"[sheet.c]\nrows_of = 's'\ncompute = 'here'", "is to be computed here"},
           {"[nulls]\ndivide_by_zero = 'error'", "a null that the study calls an error"}}) {
    folder_.write("study.toml", fmt::format("[sheet.s]\ndata = '{}'\ncompute = 'database'\n{}\n",
                                            server_->address("sweep"), one.rest));
    const Outcome outcome = run_program(folder_, {"run"});
    EXPECT_EQ(outcome.code, 3) << outcome.err;
    EXPECT_NE(outcome.err.find(one.words), std::string::npos) << outcome.err;
    EXPECT_FALSE(folder_.has("results"));
  }
  folder_.write("study.toml", "[sheet.s]\nrows = 3\n");
  const Outcome nothing = run_program(folder_, {"check", "--sql"});
  EXPECT_EQ(nothing.code, 3);
  EXPECT_NE(nothing.err.find("no sheet of study.toml is computed in a database"), std::string::npos)
      << nothing.err;
  // Infinite numbers cannot be read here either.
  server_->sql("UPDATE sweep SET a = 'Infinity' WHERE n = 7");
  folder_.write("study.toml",
                fmt::format("[sheet.s]\ndata = '{}'\nequations = 'x = 2 * a'\n", server_->address("sweep")));
  const Outcome infinite = run_program(folder_, {"run", "--in-database"});
  EXPECT_EQ(infinite.code, 3);
  EXPECT_NE(infinite.err.find("1 cells of a are infinite"), std::string::npos) << infinite.err;
}

// How many dots of two pictures are unlike, of how many.
std::pair<int, int> unlike_dots(const std::string& one, const std::string& other) {
  const auto picture = [](const std::string& path) {
    return std::unique_ptr<cairo_surface_t, decltype(&cairo_surface_destroy)>(
        cairo_image_surface_create_from_png(path.c_str()), &cairo_surface_destroy);
  };
  const auto a = picture(one);
  const auto b = picture(other);
  const int width = cairo_image_surface_get_width(a.get());
  const int height = cairo_image_surface_get_height(a.get());
  EXPECT_GT(width, 0) << one;
  EXPECT_EQ(width, cairo_image_surface_get_width(b.get())) << other;
  EXPECT_EQ(height, cairo_image_surface_get_height(b.get())) << other;
  constexpr int kColors = 4;
  constexpr int kUnlike = 40;  // of 255
  int unlike = 0;
  for (int y = 0; y < height; ++y) {
    const unsigned char* line_a =
        cairo_image_surface_get_data(a.get()) + y * cairo_image_surface_get_stride(a.get());
    const unsigned char* line_b =
        cairo_image_surface_get_data(b.get()) + y * cairo_image_surface_get_stride(b.get());
    for (int x = 0; x < width; ++x) {
      int most = 0;
      for (int i = x * kColors; i < (x + 1) * kColors; ++i)
        most = std::max(most, std::abs(line_a[i] - line_b[i]));
      if (most > kUnlike) ++unlike;
    }
  }
  return {unlike, width * height};
}

TEST_F(InDatabase, FiguresOfManyRowsAreThinnedThere) {
  server_->sql(R"(CREATE TABLE long AS SELECT i AS n, timestamp '2031-01-01' + i * interval '1 minute' AS t,
 (CASE WHEN i % 1000 BETWEEN 300 AND 309 OR i BETWEEN 90000 AND 100000 THEN NULL ELSE
  20 + 5 * sin(i / 9000.0) + (hashint4(i) % 1000) / 2000.0 END)::float8 AS warm,
 (exp((hashint4(i + 7) % 1000) / 300.0) - CASE WHEN i % 50000 = 7 THEN 1000 ELSE 0 END)::float8 AS dose,
 (ARRAY['north','south'])[1 + i % 2] AS site FROM generate_series(1, 150000) i)");
  const std::string study =
      fmt::format("[sheet.s]\ndata = '{}'\nequations = 'rise = warm - 20'\n", server_->address("long")) +
      R"([plot.cloud]
sheets = ['s']
x = 'warm'
y = 'dose'
y_scale = 'log'
[plot.parts]
sheets = ['s']
x = 'n'
y = 'warm'
by = 'site'
x_range = [10000, 60000]
[plot.line]
sheets = ['s']
kind = 'line'
x = 't'
y = 'rise'
[plot.lines]
sheets = ['s']
kind = 'line'
x = 'n'
y = 'rise'
by = 'site'
[plot.wild]
sheets = ['s']
kind = 'line'
x = 'dose'
y = 'n'
[plot.few]
x = 'n'
y = 'm'
sheets = ['g']
[sheet.g]
rows_of = 's'
one_row_per = ['site']
equations = """
  m = col_mean(warm)
  n = col_count(warm)
"""
)";
  folder_.write("study.toml", study);
  const Outcome here = run_program(folder_, {"run", "--output", "here"});
  const Outcome there = run_program(folder_, {"run", "--in-database", "--output", "there"});
  ASSERT_EQ(here.code, 0) << here.err;
  ASSERT_EQ(there.code, 0) << there.err;
  // Of a density some shades may be one step lighter or darker.
  for (const auto& [plot, most] : std::map<std::string, double>{
           {"cloud", 0.01}, {"parts", 0.01}, {"line", 0.001}, {"lines", 0.001}, {"wild", 0}, {"few", 0}}) {
    const auto [unlike, all] = unlike_dots(folder_.path("here/figures/" + plot + ".png"),
                                           folder_.path("there/figures/" + plot + ".png"));
    std::cout << plot << ": " << unlike << " of " << all << " dots unlike\n";
    EXPECT_LE(unlike, most * all) << plot;
  }
  // What is said of them is the same, but for how many points came.
  std::string said = there.out;
  std::size_t thinned = 0;
  for (std::smatch match; std::regex_search(said, match,
                                            std::regex(" *plot [a-z]+: [0-9]+ points of [^\n]* stand "
                                                       "for its 150000 rows in the database[^\n]*\n"));
       ++thinned)
    said.replace(static_cast<std::size_t>(match.position()), static_cast<std::size_t>(match.length()), "");
  EXPECT_EQ(thinned, 4U) << there.out;
  const auto notes = [](const std::string& out) {
    std::vector<std::string> all;
    for (const std::string& line : lines_of(out)) {
      if (line.find("plot ") != std::string::npos) all.push_back(line);
    }
    return all;
  };
  EXPECT_EQ(notes(said), notes(here.out));
  EXPECT_GE(notes(said).size(), 4U);
}

// A table in parts on two further servers: groups by what divides them are computed where the rows are.
TEST_F(InDatabase, PartsOnSeveralServersAreComputedThere) {
  std::vector<std::unique_ptr<DatabaseServer>> others;
  std::string parts =
      "CREATE EXTENSION postgres_fdw; CREATE TABLE log (n int, site text NOT NULL, t_in float8, t_out "
      "float8) PARTITION BY "
      "LIST (site); COMMENT ON COLUMN log.t_in IS 'unit: degC'; COMMENT ON COLUMN log.t_out IS 'unit: degC';";
  std::string remote;
  for (const char* site : {"north", "south"}) {
    others.push_back(DatabaseServer::start());
    others.back()->sql(
        fmt::format("CREATE TABLE part AS SELECT i AS n, '{}'::text AS site, 20 + 5 * sin(i / 1000.0) AS "
                    "t_in, CASE WHEN i % 50 > 0 THEN "
                    "25 + cos(i) END AS t_out FROM generate_series(1, 20000) i; ANALYZE part",
                    site));
    parts += fmt::format(
        "CREATE SERVER {0} FOREIGN DATA WRAPPER postgres_fdw OPTIONS (host '{1}', dbname 'postgres'); CREATE "
        "USER MAPPING "
        "FOR lab SERVER {0} OPTIONS (user 'lab'); CREATE FOREIGN TABLE log_{0} PARTITION OF log FOR VALUES "
        "IN ('{0}') SERVER "
        "{0} OPTIONS (table_name 'part');",
        site, others.back()->folder());
  }
  server_->sql(parts);
  const std::string study = fmt::format(
      "[sheet.log]\ndata = '{}'\nequations = '''\n  rise [K] = t_out - t_in\n  share [%] = rise / (20 [K] + "
      "rise)\n'''\n"
      "[sheet.sites]\nrows_of = 'log'\none_row_per = ['site']\nequations = '''\n  m [K] = col_mean(rise)\n  "
      "s [K] = "
      "col_sd(rise)\n  top [%] = col_max(share)\n'''\n",
      server_->address("log"));
  folder_.write("study.toml", study);
  ASSERT_EQ(run_program(folder_, {"run", "--output", "here"}).code, 0);
  const Outcome there = run_program(folder_, {"run", "--in-database", "--output", "there"});
  ASSERT_EQ(there.code, 0) << there.err;
  compare("sites.csv");
  const Outcome sql = run_program(folder_, {"check", "--sql", "--in-database"});
  ASSERT_EQ(sql.code, 0) << sql.err;
  const std::string plan =
      server_->sql("SET enable_partitionwise_aggregate = on; EXPLAIN (VERBOSE, COSTS OFF) " + sql.out);
  const std::size_t foreign = plan.find("Remote SQL: ");
  ASSERT_NE(foreign, std::string::npos) << plan;
  const std::string sent = plan.substr(foreign, plan.find('\n', foreign) - foreign);
  EXPECT_NE(sent.find("GROUP BY"), std::string::npos) << plan;
  EXPECT_NE(sent.find("stddev_samp"), std::string::npos) << plan;
  EXPECT_EQ(plan.find("GroupAggregate"), std::string::npos) << plan;
}

}  // namespace
}  // namespace opensum
