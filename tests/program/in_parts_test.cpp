// Studies over a table in parts on several servers: each answers for its rows, and it comes to the same.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <memory>
#include <utility>
#include <vector>

#include "program/in_database.h"
#include "program/program.h"

namespace opensum {
namespace {

class InParts : public InDatabase {
 protected:
  // Makes a table of one that is there, whose rows from one on are on a server of their own.
  void divide(const std::string& table, const std::string& key, int first_elsewhere,
              const std::string& make) {
    other_ = DatabaseServer::start();
    other_->sql(make);
    other_->sql("ALTER SYSTEM SET log_statement = 'all'; SELECT pg_reload_conf();");
    server_->sql(make);
    server_->sql(fmt::format(
        "CREATE EXTENSION postgres_fdw; CREATE SERVER other FOREIGN DATA WRAPPER postgres_fdw OPTIONS (host "
        "'{0}', dbname 'postgres'); CREATE USER MAPPING FOR lab SERVER other OPTIONS (user 'lab'); ALTER "
        "TABLE "
        "{1} RENAME TO whole; CREATE TABLE {1} (LIKE whole) PARTITION BY RANGE ({2}); CREATE TABLE here "
        "PARTITION OF {1} FOR VALUES FROM (MINVALUE) TO ({3}); INSERT INTO here SELECT * FROM whole WHERE "
        "{2} < "
        "{3}; CREATE FOREIGN TABLE there PARTITION OF {1} FOR VALUES FROM ({3}) TO (MAXVALUE) SERVER other "
        "OPTIONS (table_name '{1}')",
        other_->folder(), table, key, first_elsewhere));
    other_->sql(fmt::format("DELETE FROM {} WHERE {} < {}", table, key, first_elsewhere));
  }

  // What the other server was asked for since the last time.
  std::vector<std::string> asked() {
    const std::string log = other_->log();
    std::vector<std::string> queries;
    std::size_t at = std::exchange(read_, log.size());
    while ((at = log.find("CURSOR FOR\n", at)) != std::string::npos) {
      at += std::string("CURSOR FOR\n").size();
      queries.push_back(log.substr(at, log.find('\n', at) - at));
    }
    return queries;
  }

  std::unique_ptr<DatabaseServer> other_;
  std::size_t read_ = 0;
};

TEST_F(InParts, EveryFunctionComesToTheSame) {
  divide("sweep", "n", 150, kSweepTables);
  const Swept swept = sweep_all(Order::none);
  EXPECT_GT(swept.equations, 300U);
  EXPECT_GT(swept.nulls, 10000U);
}

// The first look, what `keep` leaves, and what is said of nulls, fills and claims are counted where the rows
// are.
TEST_F(InParts, OnlyTotalsTravel) {
  // Numbers of four bytes and parts of dates are not sent for.
  divide("sweep", "n", 150, std::string(kSweepTables) + "ALTER TABLE sweep DROP COLUMN r;");
  folder_.write("study.toml", fmt::format(R"(claims_are = 'warnings'
[sheet.s]
data = '{}'
keep = 'n > 20 and a > -10'
fill.c = ['b / 100', '0.5']
claims = '"not far": b < 15'
equations = '''
  x [m] = a * 2 [m]
  y = row_mean(a, b, nulls: skip)
  z = 1 / b
  w = fallback(z, a, 0) + ln(b)
  low = x < 3 [m]
  word = concat(site, "!")
'''
[sheet.later]
rows_of = 's'
keep = 'low'
equations = 'v = z / a'
)",
                                          server_->address("sweep")));
  const Outcome here = run_program(folder_, {"run", "--output", "here"});
  ASSERT_EQ(here.code, 0) << here.err;
  asked();
  const Outcome there = run_program(folder_, {"run", "--in-database", "--output", "there"});
  ASSERT_EQ(there.code, 0) << there.err;
  const auto said = [](const std::string& out) { return out.substr(0, out.find("written to")); };
  EXPECT_EQ(said(there.out), said(here.out));
  const std::vector<std::string> queries = asked();
  EXPECT_GE(queries.size(), 5U);
  for (const std::string& query : queries) {
    EXPECT_TRUE(query.starts_with("\tSELECT count(*), ")) << query;
    EXPECT_EQ(query.find("GROUP BY"), std::string::npos) << query;
  }
}

// Who may not read the parts for themselves, or not all of their rows, reads the table.
TEST_F(InParts, PartsThatMayNotBeReadAreReadAsOneTable) {
  divide("sweep", "n", 150, kSweepTables);
  server_->sql(
      "GRANT SELECT ON sweep TO guest; CREATE USER MAPPING FOR guest SERVER other OPTIONS (user 'lab', "
      "password_required 'false')");
  const auto rows_seen = [&] {
    folder_.write("study.toml", fmt::format("[sheet.s]\ndata = '{}'\nequations = 'x = a * 2'\n",
                                            server_->address("sweep", "guest")));
    const Outcome there = run_program(folder_, {"run", "--in-database", "--output", "there"});
    EXPECT_EQ(there.code, 0) << there.err;
    return there.out;
  };
  EXPECT_NE(rows_seen().find("400 rows"), std::string::npos) << rows_seen();
  server_->sql(
      "GRANT SELECT ON here, there TO guest; ALTER TABLE sweep ENABLE ROW LEVEL SECURITY; CREATE POLICY few "
      "ON "
      "sweep USING (n <= 300)");
  EXPECT_NE(rows_seen().find("300 rows"), std::string::npos) << rows_seen();
}

TEST_F(InDatabase, GroupsByWhatDividesATableAreComputedWhereTheirRowsAre) {
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
