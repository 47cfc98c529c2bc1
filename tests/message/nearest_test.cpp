// Suggestions for misspelt names, and the shape of messages.
#include "message/nearest.h"

#include <gtest/gtest.h>

#include "message/diagnostic.h"

namespace opensum {
namespace {

TEST(Nearest, FindsWhatWasMeant) {
  const std::vector<std::string> names = {"flow", "t_out_a", "t_out_b", "Pressure", "n"};
  const struct {
    const char* word;
    const char* nearest;
  } rows[] = {{"flwo", "flow"},
              {"Flow", "flow"},
              {"t_out_c", "t_out_a"},
              {"presure", "Pressure"},
              {"weather", ""},
              {"x", ""},
              {"N", "n"},
              {"", ""}};
  for (const auto& row : rows) EXPECT_EQ(nearest_name(row.word, names), row.nearest) << row.word;
}

TEST(Nearest, DistancesObeyTheirLaws) {
  EXPECT_EQ(edit_distance("abc", "abc"), 0);
  EXPECT_EQ(edit_distance("abc", "acb"), 1);
  EXPECT_EQ(edit_distance("", "abc"), 3);
  EXPECT_LT(edit_distance("Abc", "abc"), 1);
  EXPECT_EQ(edit_distance("kitten", "sitting"), edit_distance("sitting", "kitten"));
}

TEST(Rendering, CountsColumnsInCharactersAndCutsLongLines) {
  auto source = std::make_shared<const Source>("f", "α = β + 1\nsecond\n");
  Diagnostic diagnostic;
  diagnostic.code = Code::unknown_name;
  diagnostic.args = {"β", ""};
  diagnostic.place = {source, {5, 7}};
  EXPECT_EQ(render(diagnostic),
            "f:1:5: error: there is no column or constant `β`\n"
            "    1 | α = β + 1\n"
            "      |     ^\n");
  auto wide = std::make_shared<const Source>("f", std::string(500, 'x') + "!" + std::string(500, 'y'));
  diagnostic.place = {wide, {500, 501}};
  const std::string text = render(diagnostic);
  EXPECT_LT(text.size(), 600U);
  EXPECT_NE(text.find("f:1:501"), std::string::npos);
  EXPECT_NE(text.find("x!y"), std::string::npos);
}

TEST(ExitCode, IsThatOfTheGravest) {
  Diagnostics diagnostics;
  EXPECT_EQ(diagnostics.exit_code(), 0);
  diagnostics.add(Code::no_rows, Place{}, {"f"});
  EXPECT_EQ(diagnostics.exit_code(), 0);
  diagnostics.add(Code::empty_file, Place{}, {"f"});
  EXPECT_EQ(diagnostics.exit_code(), 4);
  diagnostics.add(Code::no_sheets, Place{});
  EXPECT_EQ(diagnostics.exit_code(), 3);
  diagnostics.add(Code::cannot_write, Place{}, {"f", "why"});
  EXPECT_EQ(diagnostics.exit_code(), 2);
}

}  // namespace
}  // namespace opensum
