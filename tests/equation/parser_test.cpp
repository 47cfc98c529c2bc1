// Lexer, parser and printing of trees.
#include "equation/parser.h"

#include <gtest/gtest.h>

#include "base/limits.h"
#include "equation/lexer.h"

namespace opensum {
namespace {

std::string printed(const std::string& text) {
  Diagnostics diagnostics;
  const NodePtr tree = parse_expression(Passage::whole("test", text), diagnostics);
  return tree && !diagnostics.has_errors() ? print(*tree) : "error";
}

TEST(Parser, BindsAsWritten) {
  const struct {
    const char* text;
    const char* same;
  } rows[] = {
      {"a+b*c", "a + b * c"},
      {"(a+b)*c", "(a + b) * c"},
      {"a-(b-c)", "a - (b - c)"},
      {"a-b-c", "a - b - c"},
      {"(a-b)-c", "a - b - c"},
      {"a/(b*c)", "a / (b * c)"},
      {"-a^2", "-a^2"},
      {"(-a)^2", "(-a)^2"},
      {"(-2)^2", "(-2)^2"},
      {"-2^2", "-2^2"},
      {"2^-1", "2^-1"},
      {"2^3^4", "2^3^4"},
      {"(2^3)^4", "(2^3)^4"},
      {"not a and b or c", "not a and b or c"},
      {"not (a and b)", "not (a and b)"},
      {"a or b and c", "a or b and c"},
      {"(a or b) and c", "(a or b) and c"},
      {"a<b and b>=c", "a < b and b >= c"},
      {"a × b ÷ c − d", "a * b / c - d"},
      {"a ≤ b", "a <= b"},
      {"a ≠ b", "a != b"},
      {"5 [%] in [1]", "5 [%] in [1]"},
      {"row_mean(a..d, nulls: skip, at_least: 2)", "row_mean(a..d, nulls: skip, at_least: 2)"},
      {"row_min(\"t_*\")", "row_min(\"t_*\")"},
      {"`Coolant flow` * 2", "`Coolant flow` * 2"},
      {"ref.flow - codata.g_n", "ref.flow - codata.g_n"},
      {"value(t, [degC])", "value(t, [degC])"},
      {"if(a > 1, \"x\"\"y\", \"z\")", "if(a > 1, \"x\"\"y\", \"z\")"},
      {"1.5e-3 [kJ/(kg K)]", "1.5e-3 [kJ/(kg K)]"},
      {"(a +\n b)", "a + b"},
      {"a # the rest is a comment", "a"},
  };
  for (const auto& row : rows) {
    EXPECT_EQ(printed(row.text), row.same) << row.text;
    EXPECT_EQ(printed(printed(row.text)), row.same) << row.text;
  }
}

TEST(Parser, PointsAtTheFault) {
  const struct {
    const char* text;
    Code code;
    std::size_t begin;
    std::size_t end;
  } rows[] = {
      {"5 m", Code::unit_or_times, 0, 3},          {"2x", Code::number_meets_name, 0, 2},
      {"a x b", Code::x_for_times, 2, 3},          {"0,5", Code::decimal_comma, 0, 3},
      {"2e", Code::exponent_without_digit, 0, 2},  {"1. + a", Code::point_without_digit, 0, 2},
      {"a b", Code::missing_operator, 0, 3},       {"a < b < c", Code::chained_comparison, 6, 7},
      {"(a", Code::bracket_not_closed, 0, 1},      {"a)", Code::bracket_not_opened, 1, 2},
      {"a = b", Code::single_equals, 2, 3},        {"a +", Code::expected_at_end, 3, 3},
      {"a + * b", Code::expected, 4, 5},           {"\"x", Code::text_not_closed, 0, 2},
      {"`x", Code::backtick_not_closed, 0, 2},     {"1 [kg", Code::unit_not_closed, 2, 5},
      {"a $ b", Code::unexpected_character, 2, 3}, {"a [kg]", Code::unit_behind_name, 2, 6},
      {"5 ± x", Code::uncertainty_number, 5, 6},   {"x ± 1", Code::uncertainty_of_expression, 2, 4},
  };
  for (const auto& row : rows) {
    Diagnostics diagnostics;
    EXPECT_EQ(parse_expression(Passage::whole("test", row.text), diagnostics), nullptr) << row.text;
    ASSERT_EQ(diagnostics.all().size(), 1U) << row.text;
    EXPECT_EQ(diagnostics.all()[0].code, row.code) << row.text << ": " << render(diagnostics);
    EXPECT_EQ(diagnostics.all()[0].place.span.begin, row.begin) << row.text;
    EXPECT_EQ(diagnostics.all()[0].place.span.end, row.end) << row.text;
  }
}

TEST(Parser, ReadsTheOtherDefinitionsAfterAFault) {
  Diagnostics diagnostics;
  const auto definitions = parse_definitions(
      Passage::whole("test", "a = 1\nb = (2 +\nc \"Label\" [kg] = 3 # why\n\n = 4\nd = 5 5\ne = 6"),
      diagnostics);
  ASSERT_EQ(definitions.size(), 3U);
  EXPECT_EQ(definitions[0].name, "a");
  EXPECT_EQ(definitions[1].name, "c");
  EXPECT_EQ(definitions[1].label, "Label");
  EXPECT_EQ(definitions[1].unit->text, "kg");
  EXPECT_EQ(definitions[2].name, "e");
  EXPECT_EQ(diagnostics.all().size(), 3U) << render(diagnostics);
}

TEST(Parser, LimitsDepthAtItsEdge) {
  const auto nested = [](int depth) {
    return std::string(static_cast<std::size_t>(depth), '(') + "1" +
           std::string(static_cast<std::size_t>(depth), ')');
  };
  EXPECT_NE(printed(nested(kDeepestTree)), "error");
  EXPECT_EQ(printed(nested(kDeepestTree + 1)), "error");
  EXPECT_EQ(printed(nested(10000)), "error");
  std::string sum = "1";
  for (int i = 1; i < kDeepestTree; ++i) sum += "+1";
  EXPECT_NE(printed(sum), "error");
  EXPECT_EQ(printed(sum + "+1"), "error");
  EXPECT_EQ(printed(std::string(10000, '-') + "a"), "error");
}

// No text, however broken, may do more than give errors.
TEST(Parser, SurvivesHeadersOfLoopsCutAnywhere) {
  const std::string header = "for t in \"Outlet_*\", a..d as rises:";
  for (std::size_t length = 0; length <= header.size(); ++length) {
    Diagnostics diagnostics;
    const auto loop = parse_loop_header(Passage::whole("header", header.substr(0, length)), diagnostics);
    EXPECT_EQ(loop.has_value(), length == header.size()) << header.substr(0, length);
    EXPECT_EQ(diagnostics.has_errors(), length < header.size()) << header.substr(0, length);
  }
}

TEST(Parser, SurvivesCutAndShuffledText) {
  const std::string whole =
      "t \"L\" [degC] = row_mean(t_a..t_c, nulls: skip) * `x y` / 5 [%]^2 in [kW] and \"q\" # c\n";
  Diagnostics diagnostics;
  for (std::size_t begin = 0; begin < whole.size(); ++begin) {
    for (std::size_t end = begin; end <= whole.size(); end += 3) {
      parse_definitions(Passage::whole("cut", whole.substr(begin, end - begin)), diagnostics);
      static_cast<void>(
          parse_expression(Passage::whole("cut", whole.substr(begin, end - begin)), diagnostics));
    }
  }
  EXPECT_TRUE(diagnostics.has_errors());
  EXPECT_FALSE(render(diagnostics).empty());
}

TEST(Lexer, LeavesLineEndsInsideBracketsOut) {
  Diagnostics diagnostics;
  const auto tokens = tokenize(Passage::whole("test", "(a\n+ b)\nc"), diagnostics);
  std::vector<TokenKind> kinds;
  for (const Token& token : tokens) kinds.push_back(token.kind);
  EXPECT_EQ(kinds,
            (std::vector<TokenKind>{TokenKind::open, TokenKind::name, TokenKind::plus, TokenKind::name,
                                    TokenKind::close, TokenKind::line_end, TokenKind::name, TokenKind::end}));
}

}  // namespace
}  // namespace opensum
