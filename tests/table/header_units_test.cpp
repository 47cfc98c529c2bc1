// Which of what stands in headers is taken for a unit.
#include "table/header_units.h"

#include <gtest/gtest.h>

#include "table/header.h"

namespace opensum {
namespace {

using Headers = std::vector<std::string>;

HeaderReading read_one(const std::string& header) { return read_headers({header}, UnitSystem())[0]; }

// The units taken from headers, `-` where none is.
std::string taken(const Headers& headers) {
  std::string out;
  for (const HeaderReading& reading : read_headers(headers, UnitSystem())) {
    out += out.empty() ? "" : ", ";
    out += reading.unit_stated ? reading.unit.text() : "-";
  }
  return out;
}

TEST(HeaderUnits, AreTakenInTheUsualForms) {
  const struct {
    const char* header;
    const char* label;
    const char* unit;
  } rows[] = {
      {"Flow [L/min]", "Flow", "L/min"},
      {"Flow (L/min)", "Flow", "L/min"},
      {"Flow / (L/min)", "Flow", "L/min"},
      {"Flow / [L/min]", "Flow", "L/min"},
      {"Mass (g)", "Mass", "g"},
      {"Mass [g]", "Mass", "g"},
      {"Time (s)", "Time", "s"},
      {"Force (N)", "Force", "N"},
      {"Current (A)", "Current", "A"},
      {"t (min)", "t", "min"},
      {"t/min", "t", "min"},
      {"t/°C", "t", "°C"},
      {"U/V", "U", "V"},
      {"F/N", "F", "N"},
      {"k1/s", "k1", "s"},
      {"Outlet temperature / °C", "Outlet temperature", "°C"},
      {"E(V)", "E", "V"},
      {"Time(s)", "Time", "s"},
      {"Heat flux (W/(m^2 K))", "Heat flux", "W/(m^2 K)"},
      {"Time (sec)", "Time", "s"},
      {"Time (Seconds)", "Time", "s"},
      {"Lag [hrs]", "Lag", "h"},
      {"Volume (litres)", "Volume", "L"},
      {"Length (micrometers)", "Length", "µm"},
      {"Temp (deg C)", "Temp", "°C"},
      {"Temp (deg. C)", "Temp", "°C"},
      {"Temp [° C]", "Temp", "°C"},
      {"Temp [degree C]", "Temp", "°C"},
      {"Temp (degrees Celsius)", "Temp", "°C"},
      {"Temp (ºC)", "Temp", "°C"},
      {"Temp (C)", "Temp", "°C"},
      {"T_in (C)", "T_in", "°C"},
      {"Tmax [F]", "Tmax", "°F"},
      {"Dew point (F)", "Dew point", "°F"},
      {"Humidity [%RH]", "Humidity", "%RH"},
      {"Humidity [% RH]", "Humidity", "%RH"},
      {"Salt (wt%)", "Salt", "wt%"},
      {"Salt (wt %)", "Salt", "wt%"},
      {"Bearing (deg)", "Bearing", "°"},
      {"Signal [counts]", "Signal", "counts"},
      {"Peak [mAU*s]", "Peak", "mAU s"},
      {"Density (cells/mL)", "Density", "cells/mL"},
      {"Torque (N.m)", "Torque", "N m"},
      {"Ratio [1]", "Ratio", "1"},
      {"Ratio [-]", "Ratio", "1"},
      {"n (-)", "n", "1"},
      {"Acidity [pH]", "Acidity", "pH"},
      {"Absorbance [AU]", "Absorbance", "AU"},
      {"CO2 (ppmv)", "CO2", "ppm"},
  };
  for (const auto& row : rows) {
    const HeaderReading reading = read_one(row.header);
    EXPECT_TRUE(reading.unit_stated) << row.header;
    EXPECT_EQ(reading.label, row.label) << row.header;
    EXPECT_EQ(reading.unit.text(), row.unit) << row.header;
  }
  EXPECT_EQ(read_one("Acidity [pH]").doubt, HeaderDoubt::plain_number);
}

TEST(HeaderUnits, OfNobodyAreMadeUp) {
  using enum HeaderDoubt;
  const struct {
    const char* header;
    HeaderDoubt doubt;
    const char* meant;
  } rows[] = {
      {"Humidity (RH)", none, ""},
      {"Sample (PV)", none, ""},
      {"Line (ZN)", none, ""},
      {"Probe (TC)", none, ""},
      {"Site (B)", none, ""},
      {"Run (north)", none, ""},
      {"Mean (1)", none, ""},
      {"Sex (M/F)", none, ""},
      {"Score (N/A)", none, ""},
      {"Time (am)", none, ""},
      {"Signal/noise", none, ""},
      {"m/z", none, ""},
      {"  Flow  ", none, ""},
      {"x (", none, ""},
      {"Latitude (deg N)", none, ""},
      {"Latitude [deg N]", unknown_unit, ""},
      {"Pressure [bar(g)]", unknown_unit, ""},
      {"Pressure bar(g)", unknown_unit, "bar"},
      {"Pressure (psig)", unknown_unit, ""},
      {"Volume (gal)", unknown_unit, ""},
      {"Salt [ppt]", unknown_unit, ""},
      {"Peak [arb]", unknown_unit, ""},
      {"Flux (J/m^2/s)", unknown_unit, "J/(m^2 s)"},
      {"Flux (µmol/m²/s)", unknown_unit, "µmol/(m² s)"},
      {"Heat (kJ/kg K)", unknown_unit, ""},
      {"Power [Kw]", nearly_unit, "kW"},
      {"Charge (C)", either, "°C"},
      {"Capacity [F]", either, "°F"},
      {"Temperature rise (C)", either, "K"},
      {"Intensity (a.u.)", either, "au"},
      {"Signal [au]", either, "au"},
      {"Signal [AU]", either, "au"},
      {"(Q-Qo)/V", either, "V"},
      {"T1/T2", either, "T2"},
      {"C/N", either, "N"},
      {"y(t)", either, "t"},
      {"m/s", either, "m/s"},
      {"g/L", either, "g/L"},
      {"km/h", either, "km/h"},
      {"Flow rate L/min", either, "L/min"},
      {"Level (mb)", either, "mbar"},
  };
  for (const auto& row : rows) {
    const HeaderReading reading = read_one(row.header);
    EXPECT_FALSE(reading.unit_stated) << row.header << " in " << reading.unit.text();
    EXPECT_TRUE(reading.unit.is_one()) << row.header;
    EXPECT_EQ(reading.doubt, row.doubt) << row.header;
    EXPECT_EQ(reading.meant, row.meant) << row.header;
    if (row.doubt == none) {
      EXPECT_EQ(symbol_of(reading.label), symbol_of(row.header));
    }
  }
}

TEST(HeaderUnits, ThatTellHeadersApartAreNames) {
  EXPECT_EQ(taken({"Cell (A)", "Cell (B)"}), "-, -");
  EXPECT_EQ(taken({"Cell (A)", "Cell (C)", "Mass (g)"}), "-, -, g");
  EXPECT_EQ(taken({"Temp (in)", "Temp (out)"}), "-, -");
  EXPECT_EQ(taken({"Speed (min)", "Speed (max)"}), "-, -");
  EXPECT_EQ(taken({"Peak (first)", "Peak (second)"}), "-, -");
  EXPECT_EQ(taken({"Level (am)", "Level (pm)"}), "-, -");
  EXPECT_EQ(taken({"Cell [A]", "Cell [V]"}), "-, -");
  EXPECT_EQ(taken({"U/V", "U/I"}), "-, -");
  // All of one dimension, or of a form that no name has.
  EXPECT_EQ(taken({"Flow (L/min)", "Flow (m^3/h)"}), "L/min, m^3/h");
  EXPECT_EQ(taken({"Temp (K)", "Temp (C)", "Temp (F)"}), "K, °C, °F");
  EXPECT_EQ(taken({"t (s)", "t (min)", "T (K)"}), "s, min, K");
  EXPECT_EQ(taken({"Yield (g)", "Yield (%)"}), "g, %");
  EXPECT_EQ(taken({"Speed (min)", "Speed (max)", "Speed (m/s)"}), "-, -, m/s");
  EXPECT_EQ(taken({"Mass (g)", "Mass (g)"}), "g, g");
}

TEST(HeaderUnits, OfAnUncertaintyAreNone) {
  EXPECT_EQ(taken({"V (V)", "u(V)"}), "V, -");
  EXPECT_EQ(taken({"V", "u(V)"}), "-, -");
  EXPECT_EQ(taken({"p", "u (m/s)"}), "-, m/s");
}

// Every unit of the catalogue, with the prefixes in use, in each form of header.
TEST(HeaderUnits, AreThoseOfTheCatalogue) {
  const UnitSystem units;
  std::size_t tried = 0;
  for (const CatalogueUnit& entry : catalogue_units()) {
    const std::string symbol = entry.symbol;
    // Letters that need the label, and what people write for something else.
    if (symbol == "C" || symbol == "F" || symbol == "au" || symbol == "AU" || symbol == "a.u.") continue;
    for (const std::string& header : {"Some quantity [" + symbol + "]", "Some quantity (" + symbol + ")",
                                      "Some quantity / " + symbol, "q/" + symbol}) {
      const HeaderReading reading = read_headers({header}, units)[0];
      EXPECT_TRUE(reading.unit_stated) << header;
      EXPECT_EQ(reading.unit.text(), symbol) << header;
      ++tried;
    }
  }
  std::cout << tried << " headers read\n";
  EXPECT_GT(tried, 400U);
}

}  // namespace
}  // namespace opensum
