// What compare says of tables and of results, against changes that are known because they were made here.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>

#include "program/program.h"

namespace opensum {
namespace {

using Json = nlohmann::json;

Json compared(const TempFolder& folder, std::vector<std::string> args, int code) {
  args.insert(args.begin(), "compare");
  args.insert(args.end(), {"--format", "json"});
  const Outcome outcome = run_program(folder, args);
  EXPECT_EQ(outcome.code, code) << outcome.err << outcome.out;
  return Json::parse(outcome.out.empty() ? "{}" : outcome.out);
}

TEST(Compare, CountsEveryChangeOfATable) {
  const TempFolder folder;
  folder.write(
      "a.csv",
      "code,m [g],t,note\nA,1.5,2031-04-01,x\nB,2.5,2031-04-02,y\nC,,2031-04-03,z\nD,4,2031-04-04,w\n");
  folder.write(
      "b.csv",
      "code,m [g],t,note\nA,1.5,2031-04-01,x\nB,2.75,2031-04-02,y\nC,3,2031-04-05,zz\nD,,2031-04-04,w\n");
  const Json found = compared(folder, {"a.csv", "b.csv"}, 5);
  const Json& columns = found.at("tables").at(0).at("columns");
  EXPECT_EQ(columns.at(0).at("differing"), 0);
  const Json& m = columns.at(1);
  EXPECT_EQ(m.at("differing"), 3);
  EXPECT_EQ(m.at("became_null"), 1);
  EXPECT_EQ(m.at("became_known"), 1);
  EXPECT_EQ(m.at("greatest"), 0.25);
  EXPECT_EQ(m.at("unit"), "g");
  EXPECT_EQ(m.at("at").at("row"), "row 2");
  EXPECT_EQ(columns.at(2).at("greatest"), 2 * 86400.0);
  EXPECT_EQ(columns.at(2).at("unit"), "s");
  EXPECT_EQ(columns.at(3).at("at").at("after"), "zz");
  const Outcome text = run_program(folder, {"compare", "a.csv", "b.csv"});
  EXPECT_EQ(text.code, 5);
  EXPECT_EQ(text.out,
            "b.csv: 4 rows; 1 column the same\n"
            "  m     3 of 4 differ, at most by 0.25 g (9.09 %) in row 2: 2.5 → 2.75; 1\n"
            "        became null; 1 were null and are known\n"
            "  t     1 of 4 differ, at most by 172800 s in row 3: 2031-04-03 → 2031-04-05\n"
            "  note  1 of 4 differ, first row 3: z → zz\n");
  const Outcome same = run_program(folder, {"compare", "a.csv", "a.csv"});
  EXPECT_EQ(same.code, 0);
  EXPECT_EQ(same.out, "a.csv: the same (4 rows, 4 columns)\n");
}

TEST(Compare, FindsRowsByKeysInAnyOrder) {
  const TempFolder folder;
  std::string one = "site,n,v\n";
  std::string other;
  for (int i = 0; i < 60; ++i) {
    one += fmt::format("S{},{},{}\n", i % 4, i / 4, i * i);
    // Backwards, without three of them and with two new ones.
    if (i % 20 != 7) other = fmt::format("S{},{}.0,{}\n", i % 4, i / 4, i == 30 ? -1 : i * i) + other;
  }
  folder.write("one.csv", one);
  folder.write("other.csv", "site,n,v\n" + other + "S9,1,5\nS9,2,5\n");
  const Json found = compared(folder, {"one.csv", "other.csv", "--by", "site,n"}, 5);
  const Json& table = found.at("tables").at(0);
  EXPECT_EQ(table.at("rows_gone"), 3);
  EXPECT_EQ(table.at("rows_come"), 2);
  EXPECT_EQ(table.at("columns").at(2).at("compared"), 57);
  EXPECT_EQ(table.at("columns").at(2).at("differing"), 1);
  EXPECT_EQ(table.at("columns").at(2).at("at").at("row"), "site S2, n 7");
  const Outcome twice = run_program(folder, {"compare", "one.csv", "other.csv", "--by", "site"});
  EXPECT_EQ(twice.code, 4);
  EXPECT_NE(twice.err.find("site S0 stands in two rows of one.csv: 1 and 5"), std::string::npos) << twice.err;
  const Outcome unknown = run_program(folder, {"compare", "one.csv", "other.csv", "--by", "sit"});
  EXPECT_EQ(unknown.code, 2);
  EXPECT_NE(unknown.err.find("did you mean site?"), std::string::npos) << unknown.err;
}

// Values written in another unit are the same values.
TEST(Compare, ConvertsUnits) {
  const std::vector<std::array<std::string, 2>> units = {
      {"kPa", "Pa"}, {"mm", "m"}, {"°C", "K"}, {"°F", "°C"}, {"h", "s"}, {"L/min", "m^3/s"}, {"%", "1"}};
  for (const auto& [from, to] : units) {
    const TempFolder folder;
    std::string a = "x [" + from + "]\n";
    for (int i = 1; i < 40; ++i) a += fmt::format("{}\n", 0.37 * i * i);
    folder.write("a.csv", a);
    ASSERT_EQ(
        run_program(folder, {"derive", "a.csv", "y [" + to + "] = x", "--show", "y", "--output", "c.csv"})
            .code,
        0);
    ASSERT_EQ(
        run_program(folder, {"derive", "c.csv", "x [" + to + "] = y", "--show", "x", "--output", "b.csv"})
            .code,
        0);
    const Json found = compared(folder, {"a.csv", "b.csv", "--within", "1e-11"}, 0);
    EXPECT_EQ(found.at("tables").at(0).at("columns").at(0).at("compared"), 39);
    // One step of the last digit is seen.
    const Json more = compared(folder, {"a.csv", "a.csv"}, 0);
    EXPECT_TRUE(more.at("same"));
  }
  const TempFolder folder;
  folder.write("a.csv", "x [kPa]\n1\n");
  folder.write("b.csv", "x [m]\n1\n");
  const Outcome outcome = run_program(folder, {"compare", "a.csv", "b.csv"});
  EXPECT_EQ(outcome.code, 5);
  EXPECT_NE(outcome.out.find("was in kPa and is in m"), std::string::npos) << outcome.out;
}

TEST(Compare, TakesWhatIsNearForTheSame) {
  const TempFolder folder;
  folder.write("a.csv", "t [°C],m [g],n\n20,100,1\n30,200,2\n");
  folder.write("b.csv", "t [°C],m [g],n\n20.04,100.01,1\n30.06,200.01,2\n");
  const auto differing = [&](const std::string& within) {
    const Json found = compared(folder, {"a.csv", "b.csv", "--within", within}, 5);
    std::vector<int> counts;
    for (const Json& column : found.at("tables").at(0).at("columns"))
      counts.push_back(column.at("differing"));
    return counts;
  };
  EXPECT_EQ(differing("0.05 K"), (std::vector<int>{1, 2, 0}));
  EXPECT_EQ(differing("0.09 °F"), (std::vector<int>{1, 2, 0})) << "0.05 K";
  EXPECT_EQ(differing("0.02 g"), (std::vector<int>{2, 0, 0}));
  EXPECT_EQ(differing("6e-5"), (std::vector<int>{2, 1, 0})) << "a share";
  EXPECT_EQ(differing("0.006 %"), (std::vector<int>{2, 1, 0})) << "a share";
  for (const char* bad : {"-1", "near", "1 frobs"})
    EXPECT_EQ(run_program(folder, {"compare", "a.csv", "b.csv", std::string("--within=") + bad}).code, 2)
        << bad;
  const Outcome unfit = run_program(folder, {"compare", "a.csv", "b.csv", "--within", "1 m"});
  EXPECT_EQ(unfit.code, 2);
  EXPECT_NE(unfit.err.find("no column that is compared has the dimension of m"), std::string::npos);
}

TEST(Compare, SaysWhatAChangedEquationDid) {
  const TempFolder folder;
  folder.write("t.csv", "t [s],x [m]\n1,2\n2,8\n3,18\n");
  const std::string study =
      "constants = 'g [m/s^2] = 9.81'\n[sheet.run]\ndata = 't.csv'\nequations = '''\n  v = x / t\n  w = g * "
      "t\n'''\n";
  folder.write("study.toml", study);
  ASSERT_EQ(run_program(folder, {"run", "--output", "before"}).code, 0);
  std::string changed = study;
  changed.replace(changed.find("x / t"), 5, "2 * x / t");
  folder.write("study.toml", changed);
  ASSERT_EQ(run_program(folder, {"run", "--output", "after"}).code, 0);
  const Outcome outcome = run_program(folder, {"compare", "before", "after"});
  EXPECT_EQ(outcome.code, 5);
  EXPECT_EQ(outcome.out,
            "equation run.v: x / t → 2 * x / t\n"
            "run.csv: 3 rows; 3 columns the same\n"
            "  v  3 of 3 differ, at most by 6 m/s (50 %) in row 3: 6 → 12\n"
            "the same: 1 table with 0 rows\n");
  const Outcome same = run_program(folder, {"compare", "after", "after"});
  EXPECT_EQ(same.code, 0);
  EXPECT_EQ(same.out, "the same: 2 tables with 3 rows\n");
}

TEST(Compare, RefusesWhatItCannotCompare) {
  const TempFolder folder;
  folder.write("a.csv", "x\n1\n");
  folder.write("empty.csv", "");
  folder.write("head.csv", "x\n");
  folder.write("results/note.txt", "nothing");
  EXPECT_EQ(run_program(folder, {"compare", "a.csv"}).code, 2);
  EXPECT_EQ(run_program(folder, {"compare", "a.csv", "none.csv"}).code, 4);
  EXPECT_EQ(run_program(folder, {"compare", "a.csv", "empty.csv"}).code, 4);
  EXPECT_EQ(run_program(folder, {"compare", "a.csv", "results"}).code, 2);
  EXPECT_EQ(run_program(folder, {"compare", "results", "results"}).code, 4);
  const Outcome rows = run_program(folder, {"compare", "a.csv", "head.csv"});
  EXPECT_EQ(rows.code, 5);
  EXPECT_NE(rows.out.find("1 row → 0"), std::string::npos) << rows.out;
}

}  // namespace
}  // namespace opensum
