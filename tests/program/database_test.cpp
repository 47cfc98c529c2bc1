// Tables of a database server, read and written by the built program.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <chrono>
#include <cstdlib>
#include <memory>
#include <thread>

#include "program/database_server.h"
#include "program/program.h"

namespace opensum {
namespace {

class Database : public ::testing::Test {
 protected:
  void SetUp() override {
    server_ = DatabaseServer::start();
    if (!server_) GTEST_SKIP() << "no server is installed";
  }
  Outcome derive(const std::string& table, const std::vector<std::string>& more) {
    std::vector<std::string> args{"derive", server_->address(table)};
    args.insert(args.end(), more.begin(), more.end());
    return run_program(folder_, args);
  }
  void write_study(const std::string& text) { folder_.write("study.toml", text); }

  std::unique_ptr<DatabaseServer> server_;
  TempFolder folder_;
};

TEST_F(Database, TypesCommentsAndUnitsAreRead) {
  server_->sql(
      "CREATE TABLE readings (t timestamp, z timestamptz, \"flow [L/min]\" float8, p real, n numeric(8,3), "
      "name text, "
      "code varchar, ok boolean, span interval, day date, \"odd \"\"name\" bigint);"
      "COMMENT ON COLUMN readings.p IS 'unit: kPa; label: Gauge pressure; checked in May';"
      "INSERT INTO readings VALUES ('2031-04-02 10:00:00.5', '2031-04-02 10:00+02', 0.1, 0.1, 12.340, "
      "E'a\\tb,\"c\"\\n', "
      "'0012', true, '1 day 2:03:04.5', '2031-04-02', 9007199254740993),"
      "(NULL, NULL, 1e300, 1e-30, -0.5, '', 'x\\y', false, NULL, NULL, NULL), ('0001-01-01', '2031-04-02 "
      "00:00Z', 'NaN', NULL, NULL, NULL, NULL, NULL, '-90 seconds', '9999-12-31', 0)");
  const Outcome outcome =
      derive("readings", {"half [L/min] = flow / 2", "pressure [Pa] = p", "--format", "csv"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(
      outcome.out,
      "t,z,flow [L/min],Gauge pressure [kPa],n,name,code,ok,span [s],day,\"odd \"\"name\",half "
      "[L/min],pressure "
      "[Pa]\n"
      "2031-04-02 10:00:00.5,2031-04-02 08:00:00Z,0.1,0.1,12.340,\"a\tb,\"\"c\"\"\n\",0012,true,93784.5,"
      "2031-04-02,9007199254740993,0.05,100\n"
      ",,1e+300,1e-30,-0.500,,x\\y,false,,,,5e299,1e-27\n"
      "0001-01-01 00:00:00,2031-04-02 00:00:00Z,,,,,,,-90,9999-12-31,0,,\n");
}

TEST_F(Database, TablesAreFoundByTheirNames) {
  server_->sql(
      "CREATE TABLE \"Old data\".\"Run 1.a\" (x float8); INSERT INTO \"Old data\".\"Run 1.a\" VALUES (1);"
      "CREATE TABLE bench.log (x float8); INSERT INTO bench.log VALUES (2);"
      "CREATE VIEW twice AS SELECT 2 * x AS x FROM bench.log");
  for (const auto& [table, value] :
       std::vector<std::pair<std::string, std::string>>{{"Old data.Run 1.a", "1"},
                                                        {"bench.log", "2"},
                                                        {"BENCH.Log", "2"},
                                                        {"twice", "4"},
                                                        {"(select x + 1 as x from bench.log)", "3"},
                                                        {"(select 7 as x -- a remark)", "7"},
                                                        {"(values (5), (6) order by 1 desc limit 1)", "6"}}) {
    const Outcome outcome = derive(table, {"y = 1", "--format", "csv"});
    EXPECT_EQ(outcome.code, 0) << outcome.err;
    EXPECT_EQ(outcome.out.substr(outcome.out.find('\n') + 1), value + ",1\n") << table;
  }
}

struct Refusal {
  std::string address;
  int code;
  std::string words;
};

TEST_F(Database, WhatCannotBeReadIsSaid) {
  server_->sql(
      "CREATE TABLE readings (x float8); CREATE TABLE bench.secret (x float8); CREATE TABLE nothing (); "
      "CREATE SEQUENCE count;"
      "CREATE TABLE empty (x float8)");
  const std::string here = "/postgres?host=" + server_->folder();
  for (const Refusal& refusal : std::vector<Refusal>{
           {server_->address("readngs"), 4, "did you mean readings?"},
           {server_->address(""), 4, "has several tables, and none is named"},
           {server_->address("(select 1; drop table readings)"), 4, "syntax error at or near \";\""},
           {server_->address("(select 1) a; drop table readings; select (1)"), 4, "multiple commands"},
           {server_->address("(select 1 as x) a, (select 2 as y)"), 4, "does not exist"},
           {server_->address("(select 1/0 as x)"), 4, "division by zero"},
           {server_->address("(select pg_terminate_backend(pg_backend_pid()) as x)"), 4,
            "closed the connection"},
           {server_->address("(select nextval('count') as x)"), 4, "read-only transaction"},
           {server_->address("bench.secret", "guest"), 4, "permission denied"},
           {server_->address("readings", "nobody"), 4, "role \"nobody\" does not exist"},
           {server_->address("readings", "locked"), 4, "no password supplied"},
           {"postgresql://lab@/postgres?host=/tmp/nowhere#t", 4,
            "there is no connection to postgresql://lab@"},
           {"postgresql://lab:hush@" + here + "#readings", 3, "the address postgresql://lab:…@" + here},
           {"postgresql://lab@" + here + "&password=hush#readings", 3, "&password=…"},
           {"postgresql://lab@" + here + "&nonsense=1#readings", 4, "nonsense"}}) {
    const Outcome outcome = run_program(folder_, {"look", refusal.address});
    EXPECT_EQ(outcome.code, refusal.code) << outcome.err;
    EXPECT_NE(outcome.err.find(refusal.words), std::string::npos) << outcome.err;
    EXPECT_EQ(outcome.err.find("hush"), std::string::npos);
  }
  // A table without rows, and one without columns.
  const Outcome empty = run_program(folder_, {"look", server_->address("empty")});
  EXPECT_EQ(empty.code, 0) << empty.err;
  EXPECT_NE(empty.err.find("no rows"), std::string::npos) << empty.err;
  run_program(folder_, {"look", server_->address("nothing")});
  EXPECT_EQ(server_->sql("SELECT count(*) FROM readings"), "0\n");
}

TEST_F(Database, PasswordsComeFromWhereTheLibraryLooks) {
  server_->sql("CREATE TABLE readings AS SELECT 1.5 AS x; GRANT SELECT ON readings TO locked");
  ::setenv("PGPASSWORD", "open", 1);
  const Outcome good = run_program(folder_, {"look", server_->address("readings", "locked")});
  ::setenv("PGPASSWORD", "wrong", 1);
  const Outcome bad = run_program(folder_, {"look", server_->address("readings", "locked")});
  ::unsetenv("PGPASSWORD");
  EXPECT_EQ(good.code, 0) << good.err;
  EXPECT_EQ(bad.code, 4);
  EXPECT_NE(bad.err.find("password authentication failed"), std::string::npos) << bad.err;
}

TEST_F(Database, TypesThatAreNotKnownAreTextAndSaid) {
  server_->sql("CREATE TABLE odd AS SELECT point(1,2) AS p, '{\"a\":1}'::jsonb AS j, 3 AS x");
  const Outcome outcome = derive("odd", {"y = 2 * x", "--format", "csv"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(outcome.out, "p,j,x,y\n\"(1,2)\",\"{\"\"a\"\": 1}\",3,6\n");
  EXPECT_NE(outcome.err.find("has the type point, which is taken for text"), std::string::npos)
      << outcome.err;
}

TEST_F(Database, ColumnsWithoutAValueAreColumns) {
  server_->sql(
      "CREATE TABLE bare AS SELECT NULL::float8 AS a, 1 AS x, NULL::text AS b, NULL::timestamp AS c FROM "
      "generate_series(1, 3)");
  const Outcome outcome = derive("bare", {"y = 2 * x", "--format", "csv"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(outcome.out, "a,x,b,c,y\n,1,,,2\n,1,,,2\n,1,,,2\n");
}

// Sheets of one database see it as it was at one time, whatever others do meanwhile.
TEST_F(Database, ARunSeesOneState) {
  server_->sql("CREATE TABLE t (x int); INSERT INTO t VALUES (1)");
  write_study(fmt::format("[sheet.slow]\ndata = '{}'\n[sheet.t]\ndata = '{}'\n",
                          server_->address("(select count(*) as n from t, pg_sleep(2))"),
                          server_->address("t")));
  std::thread other([&] {
    std::this_thread::sleep_for(std::chrono::milliseconds(1000));
    server_->sql("INSERT INTO t VALUES (2)");
  });
  const Outcome outcome = run_program(folder_, {"run"});
  other.join();
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(folder_.read("results/t.csv"), "x\n1\n");
  EXPECT_EQ(server_->sql("SELECT count(*) FROM t"), "2\n");
}

TEST_F(Database, ResultsAreWrittenAndReadBackTheSame) {
  server_->sql(
      "CREATE TABLE log (t timestamp, \"flow [L/min]\" float8, name text);"
      "INSERT INTO log SELECT timestamp '2031-04-02' + i * interval '1 minute', CASE WHEN i % 7 > 0 THEN i / "
      "3.0 "
      "END, E'na\\\\me\\t' || i FROM generate_series(1, 5000) i");
  const std::string study = fmt::format(
      "[sheet.log]\ndata = '{}'\nequations = '''\n  rate \"Half flow\" [m^3/h] = flow / 2\n  inverse = 1 / "
      "(flow - 1 "
      "[L/min])\n  high = flow > 100 [L/min]\n  word = concat(name, \"!\")\n'''\nsort_by = ['flow down']\n"
      "write = ['csv', '{}']\n",
      server_->address("log"), server_->address("bench.of {sheet}"));
  write_study(study);
  const Outcome first = run_program(folder_, {"run"});
  ASSERT_EQ(first.code, 0) << first.err;
  EXPECT_NE(first.out.find("table written: " + server_->address("bench.of log")), std::string::npos)
      << first.out;
  const std::string csv = folder_.read("results/log.csv");
  folder_.write("back.toml",
                fmt::format("output = 'back'\n[sheet.log]\ndata = '{}'\n", server_->address("bench.of log")));
  const Outcome back = run_program(folder_, {"run", "back.toml"});
  ASSERT_EQ(back.code, 0) << back.err;
  EXPECT_EQ(folder_.read("back/log.csv"), csv);
  EXPECT_EQ(server_->sql("SELECT col_description('bench.\"of log\"'::regclass, 4)"),
            "label: Half flow; unit: m^3/h; equation: flow / 2\n");
  // The next run replaces it, and nobody else's.
  EXPECT_EQ(run_program(folder_, {"run"}).code, 0);
  EXPECT_EQ(server_->sql("SELECT count(*) FROM bench.\"of log\""), "5000\n");
  const Outcome verified = run_program(folder_, {"verify", "results"});
  EXPECT_EQ(verified.code, 0) << verified.out << verified.err;
  server_->sql("UPDATE log SET \"flow [L/min]\" = 5 WHERE t = '2031-04-02 00:05'");
  const Outcome changed = run_program(folder_, {"verify", "results"});
  EXPECT_EQ(changed.code, 5) << changed.out;
}

TEST_F(Database, TablesOfOthersAreLeftAsTheyAre) {
  server_->sql(
      "CREATE TABLE mine AS SELECT 1 AS x; CREATE VIEW seen AS SELECT 1 AS x; CREATE TABLE log AS SELECT 2.5 "
      "AS x; COMMENT ON TABLE mine IS 'opensum: results of /elsewhere/study.toml, sheet log'");
  struct Case {
    std::string table;
    int code;
    std::string words;
  };
  for (const Case& one :
       std::vector<Case>{{"mine", 2, "its comment is: opensum: results of /elsewhere/study.toml"},
                         {"seen", 2, "was not made by this study"},
                         {"nowhere.t", 4, "schema \"nowhere\" does not exist"},
                         {"", 3, "names no table to write to"},
                         {"(select 1)", 3, "names no table to write to"}}) {
    write_study(fmt::format("[sheet.log]\ndata = '{}'\nequations = 'y = 2 * x'\nwrite = ['csv', '{}']\n",
                            server_->address("log"), server_->address(one.table)));
    const Outcome outcome = run_program(folder_, {"run"});
    EXPECT_EQ(outcome.code, one.code) << outcome.err;
    EXPECT_NE(outcome.err.find(one.words), std::string::npos) << outcome.err;
    EXPECT_FALSE(folder_.has("results/log.csv"));
  }
  EXPECT_EQ(server_->sql("SELECT x FROM mine"), "1\n");
  // Two sheets for one table, and a user who may not write.
  write_study(
      fmt::format("write = ['{}']\n[sheet.a]\nrows = 2\n[sheet.b]\nrows = 2\n", server_->address("t")));
  const Outcome shared = run_program(folder_, {"run"});
  EXPECT_EQ(shared.code, 3);
  EXPECT_NE(shared.err.find("the sheets a, b would be written to one table"), std::string::npos)
      << shared.err;
  write_study(fmt::format("write = ['{}']\n[sheet.a]\nrows = 2\nequations = 'n = row_number()'\n",
                          server_->address("t", "guest")));
  const Outcome forbidden = run_program(folder_, {"run"});
  EXPECT_EQ(forbidden.code, 4);
  EXPECT_NE(forbidden.err.find("permission denied"), std::string::npos) << forbidden.err;
}

// A claim that does not hold changes nothing of what is written; an error writes neither table nor file.
TEST_F(Database, TablesAndFilesAreWrittenTogetherOrNotAtAll) {
  server_->sql("CREATE TABLE log AS SELECT 0.0 AS x");
  const auto study = [&](const std::string& rest) {
    return fmt::format("{}[sheet.log]\ndata = '{}'\nequations = 'y = 1 / x'\nwrite = ['csv', '{}']\n", rest,
                       server_->address("log"), server_->address("results"));
  };
  write_study(study("[nulls]\ndivide_by_zero = 'error'\n"));
  EXPECT_EQ(run_program(folder_, {"run"}).code, 4);
  EXPECT_EQ(server_->sql("SELECT count(*) FROM pg_class WHERE relname = 'results'"), "0\n");
  write_study(study(""));
  EXPECT_EQ(run_program(folder_, {"run"}).code, 0);
  EXPECT_EQ(server_->sql("SELECT y IS NULL FROM results"), "t\n");
  EXPECT_TRUE(folder_.has("results/log.csv"));
}

}  // namespace
}  // namespace opensum
