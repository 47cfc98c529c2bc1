// Cells as people and instruments write them, from the file to the result.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include "program/program.h"

namespace opensum {
namespace {

// Derives with the built program from a table; the lines of the result behind the header.
std::string derived(const std::string& table, const std::vector<std::string>& args,
                    std::string* said = nullptr) {
  const TempFolder folder;
  folder.write("t.csv", table);
  std::vector<std::string> all = {"derive", "t.csv"};
  all.insert(all.end(), args.begin(), args.end());
  const Outcome outcome = run_program(folder, all);
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  if (said != nullptr) *said = outcome.err;
  return outcome.out.substr(outcome.out.find('\n') + 1);
}

TEST(Cells, InOtherFormsAreReadAndWrittenAsNumbers) {
  std::string said;
  EXPECT_EQ(derived("x [%],y\n5 %,1.5×10^3\n\u22126,2.0(1)\n7,4e2\n", {"z = 2 * x", "w = y * 2"}, &said),
            "5,1.5e3,10,3000,,\n-6,2.0,-12,4,0.1,0.2\n7,4e2,14,800,,\n");
  EXPECT_NE(said.find("y in t.csv has numbers with their uncertainty (1 of them, the first 2.0(1) on line "
                      "3), which is taken "
                      "for a standard uncertainty"),
            std::string::npos)
      << said;
}

TEST(Cells, OfThousandsBeginWithNoZero) {
  const TempFolder folder;
  folder.write("t.csv", "x;y\n0,123;5\n1,234;6\n2,345;6\n");
  const Outcome outcome = run_program(folder, {"derive", "t.csv", "z = 2 * x", "--group-char", ","});
  EXPECT_EQ(outcome.code, 4);
  EXPECT_NE(outcome.err.find("0,123"), std::string::npos) << outcome.err;
}

TEST(Cells, WithLimitsDecideWhatTheyCan) {
  // Each cell with what it says of x < 1, x <= 1, x > 1, x >= 1, x == 1, x != 1; empty where it says nothing.
  const struct {
    const char* cell;
    const char* decided;
  } rows[] = {{"<0.5", "true,true,false,false,false,true"},
              {"<1", ",true,false,,,"},
              {"<=1", ",true,false,,,"},
              {"<2", ",,,,,"},
              {">2", "false,false,true,true,false,true"},
              {">1", "false,,,true,,"},
              {">0.5", ",,,,,"},
              {"1", "false,true,false,true,true,false"}};
  const std::vector<std::string> equations = {"a = x < 1 [g]",  "b = x <= 1000 [mg]", "c = x > 0.001 [kg]",
                                              "d = 1 [g] <= x", "e = x == 1 [g]",     "f = x != 1 [g]"};
  std::string table = "x [g]\n";
  std::string expected;
  for (const auto& row : rows) {
    table += std::string(row.cell) + "\n";
    expected += std::string(row.cell) + "," + row.decided + "\n";
  }
  EXPECT_EQ(derived(table, equations), expected);
  // What was computed from such a cell has no limit of its own.
  EXPECT_EQ(derived("x [g]\n<0.5\n1\n", {"y = -x", "a = y < 0 [g]"}), "<0.5,,\n1,-1,true\n");
}

TEST(Cells, OfTheSameLettersAreOneGroup) {
  EXPECT_EQ(
      derived("name,x\ne\u0301,1\n\u00e9,2\nz,4\n", {"m = col_sum(x, by: name)", "is = name == \"e\u0301\""}),
      "e\u0301,1,3,true\n\u00e9,2,3,true\nz,4,4,false\n");
}

TEST(Cells, ThatCannotBeReadAreWrittenAsRead) {
  EXPECT_EQ(derived("x,y\n1,7*\n2,3\n3,4\n", {"z = 2 * x"}), "1,7*,2\n2,3,4\n3,4,6\n");
}

}  // namespace
}  // namespace opensum
