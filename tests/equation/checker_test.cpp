// The checker: the unit, kind and list of columns that an equation comes to, and what it refuses.
#include "equation/checker.h"

#include <gtest/gtest.h>

#include "equation/names_used.h"
#include "equation/parser.h"
#include "equation/program.h"

namespace opensum {
namespace {

class CheckerTest : public ::testing::Test {
 protected:
  CheckerTest() {
    add("mass", "kg");
    add("speed", "m/s");
    add("t_a", "degC");
    add("t_b", "degC");
    add("t_f", "degF");
    add("n", "1");
    add("share", "%");
    add("angle", "deg");
    add("rate", "Hz");
    add("name", "1", Kind::text);
    add("day", "1", Kind::date);
    add("ok", "1", Kind::truth);
    scope_.sheet = "bench";
    scope_.columns[0].header = "Mass of the ball [kg]";
    scope_.columns[0].label = "Mass of the ball";
  }

  void add(const std::string& symbol, const std::string& unit, Kind kind = Kind::number) {
    ScopeColumn column;
    column.symbol = column.label = symbol;
    column.type.kind = kind;
    column.type.unit = *units_.read(unit).unit;
    scope_.columns.push_back(std::move(column));
  }

  CheckedPtr check(const std::string& definition) {
    diagnostics_ = Diagnostics();
    const auto definitions = parse_definitions(Passage::whole("test", definition), diagnostics_);
    if (definitions.size() != 1) return nullptr;
    return check_definition(definitions[0], {scope_, units_, policy_}, diagnostics_);
  }

  // The unit or kind that a definition gives, or `refused`.
  std::string result(const std::string& definition) {
    const CheckedPtr checked = check(definition);
    if (!checked) return "refused";
    return checked->type.kind == Kind::number ? checked->type.unit.text() : kind_name(checked->type.kind);
  }

  UnitSystem units_;
  NullPolicy policy_;
  Scope scope_;
  Diagnostics diagnostics_;
};

TEST_F(CheckerTest, GivesEachResultItsUnit) {
  const struct {
    const char* definition;
    const char* result;
  } rows[] = {
      {"a = mass", "kg"},
      {"a = 2 * mass", "kg"},
      {"a = mass * speed", "kg m/s"},
      {"a [J] = 0.5 * mass * speed^2", "J"},
      {"a = 0.5 * mass * speed^2", "kg m^2/s^2"},
      {"a = mass + 250 [g]", "kg"},
      {"a = 250 [g] + mass", "g"},
      {"a = mass + 0", "kg"},
      {"a = t_a - t_b", "K"},
      {"a = t_a - t_f", "K"},
      {"a = t_a + 5 [K]", "°C"},
      {"a = row_mean(t_a, t_f)", "°C"},
      {"a = row_mean(t_f, t_a)", "°F"},
      {"a = row_sd(t_a, t_f)", "K"},
      {"a = codata.R * kelvin(t_a)", "J/mol"},
      {"a = value(t_a, [degF])", "1"},
      {"a = kelvin(t_f)", "K"},
      {"a = share * mass", "kg"},
      {"a = n + share", "1"},
      {"a = share + n", "%"},
      {"a = sin(angle)", "1"},
      {"a = asin(n)", "rad"},
      {"a = 2 * angle", "°"},
      {"a = rate * 2", "Hz"},
      {"a = rate * share", "Hz"},
      {"a = 2 * pi * rate", "rad/s"},
      {"a = angle / (2 * pi)", "1"},
      {"a = mass * rate", "kg Hz"},
      {"a = 1 / rate", "s"},
      {"a [rad/s] = 2 * pi * rate", "rad/s"},
      {"a [Hz] = 1 / (5 [ms])", "Hz"},
      {"a = sqrt(mass * speed^2)", "kg^(1/2) m/s"},
      {"a = cbrt(speed^3)", "m/s"},
      {"a = mass^(2/3)", "kg^(2/3)"},
      {"a = if(ok, mass, 5 [g])", "kg"},
      {"a = fallback(null, mass)", "kg"},
      {"a = name == \"x\"", "truth"},
      {"a = day - day", "s"},
      {"a [d] = day - day", "d"},
      {"a = day + 3 [d]", "date"},
      {"a = day > \"2031-04-02\"", "truth"},
      {"a = row_min_name(t_a, t_b)", "text"},
      {"a = row_count(mass, name)", "1"},
      {"a = row_product(n, n)", "1"},
      {"a = row_product(mass, mass)", "kg^2"},
      {"a = col_mean(t_a)", "°C"},
      {"a = col_sd(t_a)", "K"},
      {"a = col_max(day)", "date"},
      {"a = col_first(name)", "text"},
      {"a = col_count(name)", "1"},
      {"a = mass - col_mean(mass)", "kg"},
      {"a = `Mass of the ball` * 1", "kg"},
      {"a = `Mass of the ball [kg]`", "kg"},
      {"cp [kJ/(kg K)] = 4.18", "kJ/(kg K)"},
      {"a = 5 [%]", "%"},
      {"a = round(mass, to: 1 [g])", "kg"},
      {"a = clamp(mass, 0 [g], 10 [kg])", "kg"},
      {"a = hypot(3 [m], 4 [m])", "m"},
      {"a = atan2(speed, speed)", "rad"},
  };
  for (const auto& row : rows)
    EXPECT_EQ(result(row.definition), row.result) << row.definition << "\n" << render(diagnostics_);
}

TEST_F(CheckerTest, RefusesWhatHasNoMeaning) {
  for (const char* definition : {"a = mass + speed",
                                 "a = mass + 1",
                                 "a = mass > speed",
                                 "a = t_a + t_b",
                                 "a = 2 * t_a",
                                 "a = -t_a",
                                 "a = t_a^2",
                                 "a = abs(t_a)",
                                 "a = sqrt(t_a)",
                                 "a [degC] = t_a - t_b",
                                 "a [degC] = mass",
                                 "a = row_sum(t_a, t_b)",
                                 "a = col_sum(t_a)",
                                 "a = name + 1",
                                 "a = ok * 2",
                                 "a = day * 2",
                                 "a = day + 5",
                                 "a = exp(mass)",
                                 "a = sin(rate)",
                                 "a = mass^n",
                                 "a = 2^mass",
                                 "a = if(mass, 1, 2)",
                                 "a = if(ok, 1, name)",
                                 "a [rad/s] = rate",
                                 "a = rate + 1 [rad/s]",
                                 "a [%] = 5",
                                 "a = row_mean(mass)",
                                 "a = col_mean(mass, speed)",
                                 "a = col_mean(name)",
                                 "a = row_mean(mass, speed)",
                                 "a = agrees(mass, mass, within: 1 [m])",
                                 "a = not mass",
                                 "a = t_a > 0",
                                 "a = 5 [K] - t_a",
                                 "a = name < \"b\""}) {
    EXPECT_EQ(result(definition), "refused") << definition;
    EXPECT_EQ(diagnostics_.all().size(), 1U) << definition << "\n" << render(diagnostics_);
  }
}

TEST_F(CheckerTest, ReportsTheFaultsOfBothSides) {
  EXPECT_EQ(result("a = (mass + speed) * (nam + 1 [kgg])"), "refused");
  EXPECT_EQ(diagnostics_.all().size(), 3U) << render(diagnostics_);
}

TEST_F(CheckerTest, ListsNeighboursAndPatternsOfMeasuredColumnsOnly) {
  ScopeColumn derived;
  derived.symbol = "t_derived";
  derived.measured = false;
  derived.type.unit = *units_.read("degC").unit;
  scope_.columns.push_back(derived);
  EXPECT_EQ(check("a = row_mean(t_a..t_f)")->args.size(), 3U);
  EXPECT_EQ(check("a = row_mean(\"t_*\")")->args.size(), 3U);
  EXPECT_EQ(check("a = row_mean(\"t_?\", t_derived)")->args.size(), 4U);
}

TEST_F(CheckerTest, FoldsConversionsIntoConstants) {
  // Grams are multiplied once, not once a row: the literal is converted before.
  const CheckedPtr checked = check("a = mass + 250 [g]");
  const Program program = compile(*checked);
  EXPECT_EQ(program.instructions.size(), 1U) << program.dump();
  EXPECT_EQ(program.numbers, std::vector<double>{0.25});
}

TEST_F(CheckerTest, NamesWhatAnExpressionNeeds) {
  Diagnostics diagnostics;
  const NodePtr tree = parse_expression(
      Passage::whole("test", "if(ok, later, `Mass of the ball`) + bench.n + codata.R + later"), diagnostics);
  ASSERT_TRUE(tree);
  EXPECT_EQ(names_used(*tree, scope_), (std::vector<std::string>{"ok", "later", "mass", "n"}));
}

TEST(Patterns, MatchWholeNames) {
  EXPECT_TRUE(matches_pattern("t_out_a", "t_*"));
  EXPECT_TRUE(matches_pattern("t_out_a", "*out*"));
  EXPECT_TRUE(matches_pattern("t1", "t?"));
  EXPECT_TRUE(matches_pattern("", "*"));
  EXPECT_FALSE(matches_pattern("t12", "t?"));
  EXPECT_FALSE(matches_pattern("at_x", "t_*"));
}

}  // namespace
}  // namespace opensum
