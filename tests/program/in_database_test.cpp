// Studies that are computed in a database come to what they come to here.
#include "program/in_database.h"

#include <cairo.h>
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <algorithm>
#include <cstdlib>
#include <iostream>
#include <regex>

#include "program/program.h"

namespace opensum {
namespace {

TEST_F(InDatabase, EveryFunctionComesToTheSame) {
  server_->sql(kSweepTables);
  const Swept swept = sweep_all();
  EXPECT_GT(swept.equations, 330U);
  EXPECT_GT(swept.nulls, 10000U);
  EXPECT_LT(swept.refused.size(), 30U);
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
  server_->sql(kSweepTables);
  const std::string study = fmt::format(
      "[sheet.s]\ndata = '{}'\nkeep = 'n > 20 and a > -10'\nfill.c = '0.5'\nequations = '''\n  x [m] = a * 2 "
      "[m]\n  y = "
      "row_mean(a, b, nulls: skip)\n  z = 1 / b\n  low = x < 3 [m]\n'''\nclaims = '\"not far\": b < "
      "15'\nclaims_are = "
      "'warnings'\n[sheet.later]\nrows_of = 's'\nkeep = 'low'\nequations = 'w = z + c'\n[sheet.g]\nrows_of = "
      "'later'\none_row_per = ['k']\nequations = '''\n  m [m] = col_mean(x)\n  n_z = col_count(z)\n  d = m / "
      "col_sd(x)\n'''\n[sheet.all]\nrows_of = 's'\none_row_per = []\nequations = 'total [m] = "
      "col_sum(x)'\n",
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
  server_->sql(kSweepTables);
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
  server_->sql(kSweepTables);
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
  server_->sql(kSweepTables);
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
           {"[sheet.g]\nrows_of = 's'\none_row_per = ['k']\nequations = '''\n  top = col_max(a)\n  n = "
            "col_count(b, "
            "where: a == top)\n'''",
            "a reduction uses a column of the groups"},
           {"[sheet.g]\nrows_of = 's'\none_row_per = ['k']\nequations = 'ss = col_sum((a - col_mean(a))^2)'",
            "ss has a function of whole columns inside of another"},
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

// Rows of a table and of those that inherit from it have places of their own in each: together they have no
// order.
TEST_F(InDatabase, TablesThatAreInheritedFromHaveNoOrder) {
  server_->sql(
      "CREATE TABLE first (n int, a float8); CREATE TABLE more () INHERITS (first); INSERT INTO first SELECT "
      "i, i * 1.5 "
      "FROM generate_series(1, 500) i; INSERT INTO more SELECT i, i * 2.5 FROM generate_series(501, 1000) i");
  const auto study = [&](const std::string& equation) {
    return fmt::format(
        "[sheet.s]\ndata = '{}'\nequations = '{}'\n[sheet.all]\nrows_of = 's'\none_row_per = []\nequations = "
        "\"total = col_sum(x)\\nknown = col_count(x)\"\n",
        server_->address("first"), equation);
  };
  folder_.write("study.toml", study("x = previous(a)"));
  const Outcome refused = run_program(folder_, {"run", "--in-database"});
  EXPECT_EQ(refused.code, 3);
  EXPECT_NE(refused.err.find("needs an order of rows"), std::string::npos) << refused.err;
  std::size_t cells = 0;
  std::size_t reasons = 0;
  expect_same(study("x = 2 * a"), {"all.csv"}, cells, reasons);
  EXPECT_NE(folder_.read("there/all.csv").find("1000"), std::string::npos);
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

}  // namespace
}  // namespace opensum
