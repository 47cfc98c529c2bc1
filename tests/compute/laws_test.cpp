// What must hold of results, whatever computes them: laws, accuracy on hard data, reasons of nulls.
#include <gtest/gtest.h>

#include <cmath>
#include <iostream>
#include <optional>

#include "compute/evaluator.h"
#include "compute/statistics.h"
#include "equation/checker.h"
#include "equation/parser.h"

namespace opensum {
namespace {

// The value of an expression without columns, in the unit that the algebra gives.
struct LawResult {
  double number = 0;
  Reason reason = Reason::none;
  std::string unit;
};

LawResult value_of(const std::string& expression) {
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

// Whether an expression has a value, and that in the unit asked for; errors are no failures here.
std::optional<double> tried(const std::string& expression) {
  Diagnostics diagnostics;
  const Passage passage = Passage::whole("test", expression);
  const NodePtr tree = parse_expression(passage, diagnostics);
  const Scope scope;
  const UnitSystem units;
  const NullPolicy policy;
  const CheckedPtr checked =
      tree ? check_expression(*tree, passage, {scope, units, policy}, diagnostics) : nullptr;
  if (!checked) return std::nullopt;
  const Program program = compile(*checked);
  return Evaluator(program, 0).run({}, 1).numbers.at(0);
}

// What a rate is in radians per second, worked out by hand: the only right way between turns and angles.
struct Rate {
  const char* unit;
  double radians;  ///< of one of it; 0 where it does not say what it counts
  double plain;    ///< counts per second
};

const std::vector<Rate>& rates() {
  static const std::vector<Rate> all = {{"Hz", 2 * M_PI, 1},
                                        {"kHz", 2000 * M_PI, 1000},
                                        {"r/s", 2 * M_PI, 1},
                                        {"r/min", M_PI / 30, 1 / 60.0},
                                        {"rpm", M_PI / 30, 1 / 60.0},
                                        {"rad/s", 1, 1},
                                        {"deg/s", M_PI / 180, M_PI / 180},
                                        {"mrad/min", 0.001 / 60, 0.001 / 60},
                                        {"1/s", 0, 1},
                                        {"1/min", 0, 1 / 60.0}};
  return all;
}

// Products of turns, cycles and angles are either what they are in radians, or an error; never off by 2 pi.
TEST(Laws, TurnsAndAnglesAreRightOrRefused) {
  std::size_t right = 0;
  std::size_t refused = 0;
  const auto expect = [&](const std::string& expression, double expected) {
    if (const auto value = tried(expression)) {
      EXPECT_NEAR(*value, expected, 1e-12 * std::fabs(expected)) << expression;
      ++right;
    } else {
      ++refused;
    }
  };
  for (const Rate& rate : rates()) {
    const std::string x = std::string("3 [") + rate.unit + "]";
    const bool turns = rate.radians > 6 || std::string(rate.unit).find('r') == 0;
    const bool counts = turns && std::string(rate.unit).find("rad") != 0;
    const double radians = 3 * rate.radians;
    for (const Rate& other : rates()) {
      if (rate.radians == 0 || other.radians == 0) continue;
      expect(x + " in [" + other.unit + "]", radians / other.radians);
      expect(x + " + 1 [" + other.unit + "] in [" + other.unit + "]", radians / other.radians + 1);
      expect("if(" + x + " > 1 [" + other.unit + "], 1, 2)", radians > other.radians ? 1 : 2);
      expect(x + " / (2 [" + other.unit + "]) in [1]", radians / other.radians / 2);
    }
    if (counts) {
      // Torque, waves, springs and rims: with 2 pi they are right, without it refused.
      EXPECT_EQ(tried("5 [N m] * (" + x + ") in [W]"), std::nullopt) << x;
      EXPECT_EQ(tried("sin(2 * (" + x + ") * 0.1 [s])").has_value(), std::string(rate.unit).find('r') == 0)
          << x;
      EXPECT_EQ(tried("2 [kg] * (" + x + ")^2 in [N/m]"), std::nullopt) << x;
      EXPECT_EQ(tried("codata.hbar * (" + x + ") in [J]"), std::nullopt) << x;
      expect("5 [N m] * (2 * pi * (" + x + ")) in [W]", 5 * radians);
      expect("2 * pi * 5 [N m] * (" + x + ") in [W]", 5 * radians);
      expect("sin(2 * pi * (" + x + ") * 0.01 [s])", std::sin(radians * 0.01));
      expect("4 * pi^2 * (" + x + ")^2 * 2 [kg] in [N/m]", 2 * radians * radians);
      expect("pi * 2 [m] * (" + x + ") in [m/s]", radians);
      expect("2 * pi * (" + x + ") in [rad/s]", radians);
      expect("2 * pi * (" + x + ")", radians);
      expect("360 [deg] * (" + x + ") in [deg/s]", radians * 180 / M_PI);
      expect("1 / (2 * pi * (" + x + ") * 4 [uF]) in [ohm]", 1 / (radians * 4e-6));
      expect("(" + x + ") * 2 [s] in [1]", 6 * rate.plain);
      expect("1 / (" + x + ") in [s]", 1 / (3 * rate.plain));
      expect("codata.h * (" + x + ") in [J]", 6.62607015e-34 * 3 * rate.plain);
    } else if (rate.radians > 0) {
      EXPECT_EQ(tried(x + " in [Hz]"), std::nullopt) << x;
      expect("5 [N m] * (" + x + ") in [W]", 5 * radians);
      expect("sin(" + x + " * 0.1 [s])", std::sin(radians * 0.1));
      expect("(" + x + ") / (2 * pi) in [Hz]", radians / (2 * M_PI));
      expect("(" + x + ") / (2 * pi) in [r/min]", radians / (2 * M_PI) * 60);
      expect("(" + x + ") / (360 [deg]) in [1/s]", radians / (2 * M_PI));
      EXPECT_EQ(tried("5 [N m] * ((" + x + ") / (2 * pi)) in [W]"), std::nullopt) << x;
      expect("2 [kg] * (" + x + ")^2 in [N/m]", 2 * radians * radians);
    } else {
      EXPECT_EQ(tried(x + " in [r/min]"), std::nullopt) << x;
      expect("(" + x + ") / (2 * pi) in [r/min]", 3 * rate.plain / (2 * M_PI) * 60);
      expect("(" + x + ") * 1 [r] in [r/min]", 3 * rate.plain * 60);
      expect(x + " in [Hz]", 3 * rate.plain);
      expect(x + " in [rad/s]", 3 * rate.plain);
    }
  }
  std::cout << right << " products and conversions of turns and angles right, " << refused << " refused\n";
  EXPECT_GT(right, 200U);
  EXPECT_GT(refused, 40U);
}

// Each unit of the catalogue, with prefixes, times and over plain numbers as an equation calculates it.
TEST(Laws, PlainNumbersChangeNoUnit) {
  const UnitSystem units;
  std::size_t compared = 0;
  for (const CatalogueUnit& entry : catalogue_units()) {
    for (const char* prefix : {"", "k", "m"}) {
      const UnitReading reading = units.read(std::string(prefix) + entry.symbol);
      if (!reading.unit || reading.unit->is_reading()) continue;
      const std::string unit = "[" + std::string(prefix) + entry.symbol + "]";
      EXPECT_EQ(tried("3 * (4 " + unit + ")"), 12) << unit;
      EXPECT_EQ(tried("4 " + unit + " * 3"), 12) << unit;
      EXPECT_EQ(tried("12 " + unit + " / 4"), 3) << unit;
      EXPECT_EQ(tried("10 " + unit + " * exp(0) in " + unit), 10) << unit;
      EXPECT_EQ(tried("if(5 " + unit + " * 0.5 > 1 " + unit + ", 1, 2)"), 1) << unit;
      EXPECT_EQ(tried("(4 " + unit + " + 3 " + unit + ") - 3 " + unit), 4) << unit;
      EXPECT_EQ(tried("6 " + unit + " * 2 " + unit + " / (3 " + unit + ") in " + unit), 4) << unit;
      compared += 7;
    }
  }
  std::cout << compared << " equations of one unit and plain numbers\n";
}

// A reading on a scale takes no part in products, whatever stands beside it.
TEST(Laws, ReadingsAreNoFactors) {
  for (const char* other : {"2", "2 [kg]", "5 [%]", "codata.R", "3 [K]", "20 [degC]", "1 [W/K]", "pi"}) {
    for (const char* reading :
         {"20 [degC]", "68 [degF]", "row_mean(20 [degC], 30 [degC])", "(20 [degC] + 5 [K])"}) {
      for (const std::string& product :
           {std::string(other) + " * " + reading, std::string(reading) + " * " + other,
            std::string(other) + " / (" + reading + ")", std::string(reading) + " / (" + other + ")",
            "ratio(" + std::string(reading) + ", " + other + ")"}) {
        EXPECT_EQ(tried(product), std::nullopt) << product;
      }
      EXPECT_EQ(tried(std::string("(") + reading + ")^2"), std::nullopt);
      // A minus before a number is part of the number.
      if (*reading != '6' && *reading != '2') {
        EXPECT_EQ(tried(std::string("-(") + reading + ")"), std::nullopt);
      }
      EXPECT_EQ(tried(std::string("sqrt(") + reading + ")"), std::nullopt);
      EXPECT_TRUE(tried(std::string("2 * kelvin(") + reading + ")"));
      EXPECT_TRUE(tried(std::string("2 * value(") + reading + ", [degC])"));
    }
  }
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
