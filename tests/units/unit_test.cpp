// Units: reading, printing, algebra and conversion.
#include "units/unit.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <iostream>
#include <map>
#include <sstream>

#include "units/spellings.h"
#include "units/unit_system.h"

namespace opensum {
namespace {

Unit unit(const std::string& text) {
  const UnitReading reading = UnitSystem().read(text);
  EXPECT_TRUE(reading.unit) << text;
  return reading.unit.value_or(Unit{});
}

double convert(double value, const std::string& from, const std::string& to) {
  return conversion(unit(from), unit(to))(value);
}

TEST(UnitReading, TakesEverySpellingOfTheSameUnit) {
  const struct {
    const char* spelling;
    const char* same;
  } rows[] = {
      {"m/s^2", "m s^-2"},
      {"m·s⁻²", "m s^-2"},
      {"m s-1", "m/s"},
      {"m*s^-1", "m/s"},
      {"um", "µm"},
      {"μm", "µm"},
      {"kJ/(kg K)", "J/(g K)"},
      {"W/(m^2 degC)", "W/(m^2 K)"},
      {"l/min", "L/min"},
      {"mg/(100 mL)", "0.01 mg/mL"},
      {"1/s", "s^-1"},
      {"ohm", "Ω"},
      {"rpm", "r/min"},
      {"m^(1/2)", "m^0.5"},
      {"cm2", "cm^2"},
      {"hPa", "mbar"},
      {"dm^3", "L"},
      {"N m", "J"},
      {"kW h", "kWh"},
      {"1e3 m", "km"},
      {"M", "mol/L"},
      {"wt%", "%"},
      {"°C", "degC"},
      {"m2", "m^2"},
  };
  for (const auto& row : rows) {
    EXPECT_TRUE(same_scale(unit(row.spelling), unit(row.same))) << row.spelling << " and " << row.same;
  }
}

TEST(UnitReading, PrefersWholeSymbolsToPrefixes) {
  EXPECT_EQ(unit("min").dimension, unit("s").dimension);
  EXPECT_EQ(unit("cd").dimension, Dimension(kLuminousIntensity));
  EXPECT_TRUE(same_scale(unit("Pa"), unit("N/m^2")));
  EXPECT_TRUE(same_scale(unit("ft"), unit("12 in")));
  EXPECT_TRUE(same_scale(unit("nmi"), unit("1852 m")));
}

TEST(UnitReading, SaysWhatIsWrong) {
  const struct {
    const char* text;
    UnitFault fault;
    const char* suggestion;
  } rows[] = {
      {"a/b/c", UnitFault::unknown, ""},
      {"m/s/s", UnitFault::two_solidi, ""},
      {"kJ/kg K", UnitFault::product_after_solidus, ""},
      {"Kg", UnitFault::unknown, "kg"},
      {"SEC", UnitFault::unknown, "s"},
      {"gal", UnitFault::refused, "gal_us or gal_uk"},
      {"m^", UnitFault::exponent, ""},
      {"m^x", UnitFault::exponent, ""},
      {"", UnitFault::syntax, ""},
      {"(m", UnitFault::syntax, ""},
      {"m)", UnitFault::syntax, ""},
      {"m^100", UnitFault::exponent, ""},
      {"/s", UnitFault::syntax, ""},
      {"m·", UnitFault::syntax, ""},
  };
  for (const auto& row : rows) {
    const UnitReading reading = UnitSystem().read(row.text);
    EXPECT_FALSE(reading.unit) << row.text;
    EXPECT_EQ(reading.fault, row.fault) << row.text;
    if (*row.suggestion != '\0') {
      EXPECT_EQ(reading.suggestion, row.suggestion) << row.text;
    }
  }
  const UnitReading ppt = UnitSystem().read("ppt");
  EXPECT_EQ(ppt.fault, UnitFault::refused);
}

TEST(UnitReading, PrintsWhatReadsBackTheSame) {
  for (const char* text : {"kJ/(kg K)", "m s", "1/s", "m^2/s", "W/(m^2 K^4)", "1", "%", "°C", "m^(1/2)",
                           "mg/(100 mL)", "L/min", "1/(mol K)"}) {
    EXPECT_EQ(unit(text).text(), text);
    EXPECT_TRUE(same_scale(unit(unit(text).text()), unit(text))) << text;
  }
  EXPECT_EQ(unit("m s^-2").text(), "m/s^2");
  EXPECT_EQ(unit("m s^-2").typeset(), "m/s²");
  EXPECT_EQ(unit("kg m/(s^2 K)").typeset(), "kg·m/(s²·K)");
}

// Every unit of the catalogue with every prefix it takes reads, prints and reads back.
TEST(UnitReading, RoundTripsTheWholeCatalogue) {
  const UnitSystem units;
  std::size_t compared = 0;
  for (const CatalogueUnit& entry : catalogue_units()) {
    for (const char* prefix : {"", "k", "m", "µ", "M"}) {
      const UnitReading reading = units.read(std::string(prefix) + entry.symbol);
      if (!reading.unit) continue;
      const UnitReading again = units.read(reading.unit->text());
      ASSERT_TRUE(again.unit) << reading.unit->text();
      EXPECT_TRUE(same_scale(*reading.unit, *again.unit)) << reading.unit->text();
      EXPECT_EQ(again.unit->text(), reading.unit->text());
      ++compared;
    }
  }
  EXPECT_GT(compared, 150U);
}

std::map<std::string, Rational> symbols_of(const Unit& unit) {
  std::map<std::string, Rational> symbols;
  for (const UnitPart& part : unit.parts) symbols.emplace(part.symbol, part.exponent);
  return symbols;
}

// What the algebra makes of any product of powers is printed as what it is.
TEST(UnitReading, RoundTripsCoherentFormsOfPowers) {
  const UnitSystem units;
  std::size_t compared = 0;
  for (const CatalogueUnit& entry : catalogue_units()) {
    for (const char* power : {"", "^2", "^3", "^5", "^-1", "^-2", "^(1/2)"}) {
      for (const char* other :
           {"", " rad", " rad^3", " rad^-2", " r", " r^2", " Hz", " s^-2", " Bq^2", " m"}) {
        const std::string text = std::string(entry.symbol) + power + other;
        const UnitReading reading = units.read(text);
        if (!reading.unit || reading.unit->is_reading()) continue;
        // Nobody counts turns, angles and decays at once.
        const Counted& counted = reading.unit->counted;
        const int kinds = (counted.angle.is_zero() ? 0 : 1) + (counted.all_turns().is_zero() ? 0 : 1) +
                          (counted.decays.is_zero() ? 0 : 1);
        if (kinds > 1) continue;
        const Unit printed = coherent(*reading.unit);
        const UnitReading again = units.read(printed.text());
        ASSERT_TRUE(again.unit) << text << ": " << printed.text();
        // Angles in products are not shown, as usual: what is printed means the same without them.
        EXPECT_TRUE(printed.dimension == again.unit->dimension && printed.factor == again.unit->factor)
            << text << ": " << printed.text();
        EXPECT_FALSE(mismatch_of_sides(printed, *again.unit)) << text << ": " << printed.text();
        EXPECT_EQ(symbols_of(coherent(*again.unit)), symbols_of(printed)) << text;
        ++compared;
      }
    }
  }
  // Exponents that go beyond what can be written before others take from them.
  for (const char* text : {"M P^59 TH^7 %", "Pa^59 s^59", "kN^60 s^60/kg^20", "b^55 F^15 r"}) {
    const UnitReading reading = units.read(text);
    ASSERT_TRUE(reading.unit) << text;
    const Unit printed = coherent(*reading.unit);
    EXPECT_TRUE(units.read(printed.text()).unit) << printed.text();
  }
  EXPECT_FALSE(units.read("Pa^99").unit);
  UnitSystem with_base;
  ASSERT_TRUE(with_base.define("vial", "base").unit);
  EXPECT_TRUE(with_base.read("b^49 vial").unit);
  EXPECT_FALSE(with_base.read("b^55 F^15 vial").unit);
  // What is multiplied by one is what it was: a temperature stays a reading.
  EXPECT_TRUE(same_scale(*units.read("°C(2/2)").unit, *units.read("°C").unit));
  EXPECT_TRUE(same_scale(*units.read("(3/3) °C").unit, *units.read("°C").unit));
  EXPECT_TRUE(same_scale(*units.read("degF 2/2").unit, *units.read("degF").unit));
  EXPECT_TRUE(same_scale(*units.read("°C m/m").unit, *units.read("°C").unit));
  EXPECT_FALSE(units.read("°C 2").unit->is_reading());
  // An angle times coulombs is no temperature.
  for (const char* text : {"5°*R", "°*C", "°*F/s", "m/(°*C)"}) {
    const Unit unit = *units.read(text).unit;
    EXPECT_TRUE(same_scale(*units.read(unit.text()).unit, unit)) << unit.text();
  }
  // Nor are moles times per cent a share of moles; with blanks around it, a phrase is what it is alone.
  int products = 0;
  UnitSystem with_words;
  for (const char* word : {"wt", "vol", "at", "arb", "units"})
    ASSERT_TRUE(with_words.define(word, "base").unit);
  for (const UnitPhrase& phrase : unit_phrases()) {
    EXPECT_TRUE(
        same_scale(*units.read(" " + std::string(phrase.text) + "\t").unit, *units.read(phrase.unit).unit));
    std::string multiplied = phrase.text;
    std::replace(multiplied.begin(), multiplied.end(), ' ', '*');
    const UnitReading product = with_words.read(multiplied);
    if (!product.unit) continue;
    ++products;
    EXPECT_TRUE(same_scale(*with_words.read(product.unit->text()).unit, *product.unit)) << multiplied;
  }
  EXPECT_GE(products, 4);
  EXPECT_FALSE(units.read("°C/min").unit->is_reading());
  EXPECT_FALSE(units.read("((m^99)^99)^99").unit);
  // Units of one's own are made of what they are defined as.
  for (const char* definition : {"r/s", "Bq/kg", "3 Hz", "rad/s", "12 Bq", "r", "kN m"}) {
    UnitSystem with_own;
    ASSERT_TRUE(with_own.define("own", definition).unit);
    for (const char* product : {"own", "own m", "own^2", "own/s"}) {
      std::string plain = product;
      plain.replace(0, 3, "(" + std::string(definition) + ")");
      EXPECT_EQ(coherent(*with_own.read(product).unit).text(), coherent(*units.read(plain).unit).text())
          << definition << " in " << product;
      ++compared;
    }
  }
  std::cout << compared << " coherent forms read back\n";
  EXPECT_GT(compared, 5000U);
}

TEST(UnitConversion, IsExactWhereDoublesAre) {
  EXPECT_EQ(convert(1, "g", "kg"), 0.001);
  EXPECT_EQ(convert(5, "g", "kg"), 0.005);
  EXPECT_EQ(convert(1, "in", "cm"), 2.54);
  EXPECT_EQ(convert(36, "km/h", "m/s"), 10);
  EXPECT_EQ(convert(1, "kWh", "MJ"), 3.6);
  EXPECT_EQ(convert(1, "atm", "Pa"), 101325);
  EXPECT_EQ(convert(760, "Torr", "atm"), 1);
  EXPECT_EQ(convert(1, "d", "s"), 86400);
  EXPECT_EQ(convert(50, "%", "1"), 0.5);
  EXPECT_EQ(convert(1, "ppm", "%"), 0.0001);
}

TEST(UnitConversion, TreatsReadingsAsPointsAndDifferencesAsIntervals) {
  EXPECT_EQ(convert(0, "degC", "K"), 273.15);
  EXPECT_EQ(convert(100, "degC", "degF"), 212);
  EXPECT_EQ(convert(32, "degF", "degC"), 0);
  EXPECT_EQ(convert(-40, "degF", "degC"), -40);
  EXPECT_EQ(conversion(unit("degC"), unit("K"), true)(5), 5);
  EXPECT_EQ(conversion(unit("degF"), unit("K"), true)(9), 5);
}

TEST(UnitConversion, KeepsTurnsAnglesAndDecaysApart) {
  const struct {
    const char* from;
    const char* to;
    CountFault fault;
    double factor;
  } rows[] = {
      {"Hz", "rad/s", CountFault::turns_and_angles, 0},
      {"rad/s", "Hz", CountFault::turns_and_angles, 0},
      {"deg/s", "kHz", CountFault::turns_and_angles, 0},
      {"Hz s", "rad", CountFault::turns_and_angles, 0},
      {"r/min", "W/(N m)", CountFault::none, 1 / 60.0},
      {"N m r/s", "W", CountFault::turns_left, 0},
      {"N m Hz", "W", CountFault::turns_left, 0},
      {"W/Hz", "J", CountFault::turns_left, 0},
      {"1/s", "r/min", CountFault::turns_unsaid, 0},
      {"1", "r", CountFault::turns_unsaid, 0},
      {"Bq", "Hz", CountFault::decays, 0},
      {"rad/s", "Bq", CountFault::decays, 0},
      {"r/min", "Bq", CountFault::decays, 0},
      {"r/min", "rad/s", CountFault::none, 2 * M_PI / 60},
      {"rad/s", "r/min", CountFault::none, 60 / (2 * M_PI)},
      {"N m r/s", "N m rad/s", CountFault::none, 2 * M_PI},
      {"r", "deg", CountFault::none, 360},
      {"deg", "r", CountFault::none, 1 / 360.0},
      {"r/min", "Hz", CountFault::none, 1 / 60.0},
      {"Hz", "r/min", CountFault::none, 60},
      {"Hz", "1/s", CountFault::none, 1},
      {"1/s", "kHz", CountFault::none, 0.001},
      {"1/s", "rad/s", CountFault::none, 1},
      {"deg/s", "1/s", CountFault::none, M_PI / 180},
      {"s", "1/Hz", CountFault::none, 1},
      {"kBq", "1/s", CountFault::none, 1000},
      {"1/s", "Bq", CountFault::none, 1},
      {"Bq J", "W", CountFault::none, 1},
      {"N m rad/s", "W", CountFault::none, 1},
  };
  for (const auto& row : rows) {
    EXPECT_EQ(mismatch(unit(row.from), unit(row.to)).counted, row.fault) << row.from << " to " << row.to;
    if (row.fault != CountFault::none) continue;
    EXPECT_NEAR(convert(3, row.from, row.to), 3 * row.factor, 1e-14 * row.factor)
        << row.from << " to " << row.to;
  }
}

// Every unit of the catalogue, times and over plain numbers: neither its size nor what it counts changes.
TEST(UnitAlgebra, APlainNumberChangesNoUnit) {
  const UnitSystem units;
  std::size_t compared = 0;
  for (const CatalogueUnit& entry : catalogue_units()) {
    for (const char* prefix : {"", "k", "m", "µ", "M", "G", "h"}) {
      const UnitReading reading = units.read(std::string(prefix) + entry.symbol);
      if (!reading.unit || reading.unit->is_reading()) continue;
      for (const Unit& result : {product(*reading.unit, Unit{}), product(Unit{}, *reading.unit),
                                 quotient(*reading.unit, Unit{})}) {
        EXPECT_TRUE(same_scale(result, *reading.unit)) << reading.unit->text();
        EXPECT_EQ(result.text(), reading.unit->text());
        ++compared;
      }
      EXPECT_TRUE(same_scale(power(quotient(Unit{}, *reading.unit), -1), *reading.unit))
          << reading.unit->text();
    }
  }
  std::cout << compared << " products with plain numbers compared\n";
  EXPECT_GT(compared, 900U);
}

TEST(UnitAlgebra, GivesTheSimplestCoherentForm) {
  const struct {
    const char* product;
    const char* coherent;
  } rows[] = {
      {"kJ/s", "W"},
      {"g m/s^2", "N"},
      {"N m", "N m"},
      {"g (m/s)^2", "kg m^2/s^2"},
      {"L kPa/min", "W"},
      {"V A", "W"},
      {"g/mL", "kg/m^3"},
      {"mV/mA", "Ω"},
      {"J/m^3", "J/m^3"},
      {"mg/g", "1"},
      {"L/(min m^2)", "m/s"},
      {"Hz m", "m Hz"},
      {"kJ/(kg K)", "J/(kg K)"},
      {"rad/s", "rad/s"},
      {"deg/s", "rad/s"},
      {"kHz", "Hz"},
      {"r/min", "r/s"},
      {"N m r/min", "N m r/s"},
      {"N m rad/s", "W"},
      {"kBq/g", "Bq/kg"},
      {"MBq keV", "W"},
      {"Hz s", "1"},
      {"W/kHz", "W/Hz"},
      {"rps m", "m r/s"},
      {"rpm m", "m r/s"},
      {"rad^5", "rad^5"},
  };
  for (const auto& row : rows) {
    const UnitReading reading = UnitSystem().read(row.product);
    ASSERT_TRUE(reading.unit) << row.product;
    EXPECT_EQ(coherent(*reading.unit).text(), row.coherent) << row.product;
    EXPECT_EQ(coherent(*reading.unit).dimension, reading.unit->dimension);
    EXPECT_TRUE(coherent(*reading.unit).factor.is_one());
  }
}

TEST(UnitAlgebra, PowersAndRootsAreExact) {
  EXPECT_TRUE(same_scale(power(power(unit("cm"), 2), Rational(1, 2)), unit("cm")));
  EXPECT_TRUE(same_scale(power(power(unit("ft"), Rational(1, 3)), 3), unit("ft")));
  EXPECT_TRUE(quotient(unit("kW"), unit("kW")).is_dimensionless());
  EXPECT_TRUE(quotient(unit("kW"), unit("kW")).factor.is_one());
}

TEST(OwnUnits, AreBasesOrMultiples) {
  UnitSystem units;
  ASSERT_TRUE(units.define("vial", "base").unit);
  ASSERT_TRUE(units.define("rack", "24 vial").unit);
  const Unit rack = *units.read("rack").unit;
  const Unit vial = *units.read("vial").unit;
  EXPECT_EQ(conversion(rack, vial)(2), 48);
  EXPECT_TRUE(mismatch(vial, Unit{}).dimension);
  EXPECT_EQ(coherent(product(rack, unit("g"))).text(), "vial kg");
  EXPECT_FALSE(units.define("box", "3 crate").unit);
  EXPECT_FALSE(units.may_define("kg"));
  EXPECT_FALSE(units.may_define("vial"));
  // Names of plain numbers and words give way.
  EXPECT_TRUE(units.may_define("cell"));
  EXPECT_TRUE(units.may_define("turn"));
  ASSERT_TRUE(units.define("cell", "base").unit);
  EXPECT_FALSE(units.read("cell/mL").unit->dimension == units.read("1/mL").unit->dimension);
}

TEST(NearlyUnits, AreOfferedTheUnitTheyMean) {
  const UnitSystem units;
  const struct {
    const char* text;
    const char* meant;
  } rows[] = {{"SEC", "s"},     {"KG/L", "kg/L"}, {"Kw", "kW"},  {"oC", "°C"},  {"HR", "h"},
              {"m/SEC", "m/s"}, {"lit", "L"},     {"north", ""}, {"run 3", ""}, {"kg", ""}};
  for (const auto& row : rows) EXPECT_EQ(units.meant_by(row.text), row.meant) << row.text;
}

TEST(UnitWords, MeanOneUnitEach) {
  const UnitSystem units;
  std::size_t words = 0;
  for (const UnitWords& entry : unit_words()) {
    std::istringstream list(entry.words);
    for (std::string word; list >> word; ++words) {
      const UnitReading reading = units.read(word);
      ASSERT_TRUE(reading.unit) << word;
      EXPECT_EQ(reading.unit->text(), units.read(entry.unit).unit->text()) << word;
    }
  }
  const struct {
    const char* words;
    const char* unit;
  } rows[] = {{"Seconds", "s"},
              {"milliseconds", "ms"},
              {"Kilograms", "kg"},
              {"micrometre", "µm"},
              {"megapascals", "MPa"},
              {"deg C", "°C"},
              {"° C", "°C"},
              {"degrees Celsius", "°C"},
              {"deg. F", "°F"},
              {"W/(m^2 deg C)", "W/(m^2 °C)"},
              {"kg.m2.s-2", "kg m^2/s^2"},
              {"m.s-1", "m/s"},
              {"m^0.5.s-1", "m^(1/2)/s"},
              {"mg/cc", "mg/cm^3"},
              {"litres per minute", ""},
              {"deg N", ""},
              {"bar(g)", ""},
              {"bar (a)", ""},
              {"N (m)", "N m"}};
  for (const auto& row : rows) {
    const UnitReading reading = units.read(row.words);
    EXPECT_EQ(reading.unit ? reading.unit->text() : "", row.unit) << row.words;
  }
  std::cout << words << " words read\n";
}

TEST(UnitWords, ThatAreRefusedOrNearlyRightAreNoUnits) {
  const UnitSystem units;
  for (const RefusedUnit& refused : refused_units()) {
    EXPECT_EQ(units.read(refused.symbol).fault, UnitFault::refused) << refused.symbol;
    EXPECT_EQ(units.read("m/" + std::string(refused.symbol)).suggestion, refused.choices) << refused.symbol;
  }
  for (const NearlyUnit& nearly : nearly_units()) {
    EXPECT_EQ(units.read(nearly.spelling).fault, UnitFault::unknown) << nearly.spelling;
    EXPECT_TRUE(units.read(nearly.unit).unit) << nearly.unit;
  }
}

TEST(Constants, HaveReadableValuesAndUnits) {
  const UnitSystem units;
  for (const CatalogueConstant& constant : catalogue_constants()) {
    EXPECT_TRUE(units.read(constant.unit).unit) << constant.symbol;
  }
}

}  // namespace
}  // namespace opensum
