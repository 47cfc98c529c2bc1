// What must hold of results, whatever computes them: laws, accuracy on hard data, reasons of nulls.
#include <gtest/gtest.h>

#include <cmath>

#include "compute/evaluator.h"
#include "compute/statistics.h"
#include "equation/checker.h"
#include "equation/parser.h"

namespace opensum {
namespace {

// The value of an expression without columns, in the unit that the algebra gives.
struct Result {
  double number = 0;
  Reason reason = Reason::none;
  std::string unit;
};

Result value_of(const std::string& expression) {
  Diagnostics diagnostics;
  const Passage passage = Passage::whole("test", expression);
  const NodePtr tree = parse_expression(passage, diagnostics);
  const Scope scope;
  const UnitSystem units;
  const NullPolicy policy;
  if (!tree) {
    ADD_FAILURE() << render(diagnostics);
    return {};
  }
  const CheckedPtr checked = check_expression(*tree, passage, {scope, units, policy}, diagnostics);
  if (!checked) {
    ADD_FAILURE() << render(diagnostics);
    return {};
  }
  const Program program = compile(*checked);
  const Chunk chunk = Evaluator(program, 0).run({}, 1);
  return {chunk.numbers.at(0), chunk.null_at(0).reason(), checked->type.unit.text()};
}

TEST(Laws, ArithmeticKeepsQuantities) {
  EXPECT_EQ(value_of("(7 [kg] + 250 [g]) - 250 [g]").number, 7);
  EXPECT_DOUBLE_EQ(value_of("0.5 * 2.1 [g] * (3 [m/s])^2 in [mJ]").number, 9.45);
  EXPECT_EQ(value_of("2 [h] / (30 [min])").number, 4);
  EXPECT_EQ(value_of("sqrt((3 [m])^2)").unit, "m");
  EXPECT_EQ(value_of("-2^2").number, -4);
  EXPECT_EQ(value_of("2^3^2").number, 512);
  EXPECT_EQ(value_of("2^-1").number, 0.5);
  EXPECT_EQ(value_of("7 - 4 - 2").number, 1);
  EXPECT_EQ(value_of("mod(-7, 3)").number, 2);
  EXPECT_EQ(value_of("mod(7, -3)").number, -2);
}

TEST(Laws, TemperaturesAreReadings) {
  EXPECT_EQ(value_of("30 [degC] - 20 [degC]").number, 10);
  EXPECT_EQ(value_of("30 [degC] - 20 [degC]").unit, "K");
  EXPECT_EQ(value_of("212 [degF] - 0 [degC]").number, 100);
  EXPECT_EQ(value_of("20 [degC] + 5 [K]").unit, "°C");
  EXPECT_EQ(value_of("20 [degC] + 5 [K]").number, 25);
  EXPECT_EQ(value_of("row_mean(20 [degC], 50 [degF])").number, 15);
  EXPECT_EQ(value_of("kelvin(20 [degC])").number, 293.15);
  EXPECT_EQ(value_of("value(20 [degC], [degF])").number, 68);
  EXPECT_EQ(value_of("(1 [J/K]) * kelvin(0 [degC]) in [J]").number, 273.15);
  EXPECT_EQ(value_of("if(20 [degC] == 68 [degF], 1, 0)").number, 1);
  EXPECT_EQ(value_of("row_range(20 [degC], 23 [degC])").unit, "K");
}

TEST(Laws, AnglesAreTakenInAnyUnit) {
  EXPECT_NEAR(value_of("sin(30 [deg])").number, 0.5, 1e-16);
  EXPECT_EQ(value_of("asin(1) in [deg]").number, 90);
  EXPECT_EQ(value_of("atan2(1 [m], 100 [cm]) in [deg]").number, 45);
}

TEST(Laws, RoundingGoesToTheSteps) {
  EXPECT_EQ(value_of("round(0.25 [g], to: 0.1 [g])").number, 0.2);
  EXPECT_EQ(value_of("round(0.35 [g], to: 0.1 [g])").number, 0.4);
  EXPECT_EQ(value_of("round(0.30000000000000004, to: 0.1)").number, 0.3);
  EXPECT_EQ(value_of("round(2.5)").number, 2);
  EXPECT_EQ(value_of("round(3.5)").number, 4);
  EXPECT_EQ(value_of("floor(2.9 [yr], to: 1 [yr])").number, 2);
  EXPECT_EQ(value_of("ceil(61 [s], to: 1 [min])").number, 120);
  EXPECT_EQ(value_of("trunc(-2.9)").number, -2);
}

TEST(Laws, NullsSayWhy) {
  EXPECT_EQ(value_of("1 / 0").reason, Reason::divide_by_zero);
  EXPECT_EQ(value_of("0 / 0").reason, Reason::divide_by_zero);
  EXPECT_EQ(value_of("sqrt(-1)").reason, Reason::domain);
  EXPECT_EQ(value_of("ln(0)").reason, Reason::domain);
  EXPECT_EQ(value_of("(-8)^(1/3)").reason, Reason::domain);
  EXPECT_EQ(value_of("0^-1").reason, Reason::divide_by_zero);
  EXPECT_EQ(value_of("exp(1000)").reason, Reason::overflow);
  EXPECT_EQ(value_of("1e308 * 10 / 10").reason, Reason::overflow);
  EXPECT_EQ(value_of("1 / (1e308 * 10)").reason, Reason::overflow);
  EXPECT_EQ(value_of("row_mean(null, null, nulls: skip)").reason, Reason::too_few);
  EXPECT_EQ(value_of("row_sd(1, null, nulls: skip)").reason, Reason::too_few);
  EXPECT_EQ(value_of("row_sum(1, 1/0)").reason, Reason::divide_by_zero);
  EXPECT_EQ(value_of("sqrt(-1) + 1/0").reason, Reason::domain);
  EXPECT_EQ(value_of("if(false, 1/0, 2)").reason, Reason::none);
  EXPECT_EQ(value_of("ratio(1, 0, zero: 7)").number, 7);
  EXPECT_EQ(value_of("fallback(1/0, 3)").number, 3);
  EXPECT_EQ(value_of("exclude(5, where: 5 > 4)").reason, Reason::excluded);
  EXPECT_EQ(value_of("if(1/0 > 1 and false, 1, 2)").number, 2);
  EXPECT_EQ(value_of("if(null == null, 1, 2)").reason, Reason::excluded);
}

TEST(Accuracy, RowSumsKeepSmallValues) {
  EXPECT_EQ(value_of("row_sum(1e16, 1, -1e16, 1)").number, 2);
  EXPECT_EQ(value_of("row_mean(1e16, 3, -1e16)").number, 1);
  // The tiny spread of values with a large offset.
  EXPECT_NEAR(value_of("row_sd(10000000.1, 10000000.2, 10000000.3)").number, 0.1, 1e-9);
}

TEST(Accuracy, CompensatedSumIsExactWhereAPlainOneIsNot) {
  CompensatedSum sum;
  double plain = 0;
  for (int i = 0; i < 1000000; ++i) {
    sum.add(0.1);
    plain += 0.1;
  }
  EXPECT_NEAR(sum.value(), 100000, 1e-11);
  EXPECT_GT(std::fabs(plain - 100000), 1e-7);
}

}  // namespace
}  // namespace opensum
