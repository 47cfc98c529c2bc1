// Headers: labels, units and symbols.
#include "table/header.h"

#include <gtest/gtest.h>

namespace opensum {
namespace {

TEST(Header, HoldsLabelUnitAndSymbol) {
  const UnitSystem units;
  const struct {
    const char* header;
    const char* label;
    const char* unit;
    bool stated;
    HeaderDoubt doubt;
    const char* symbol;
  } rows[] = {
      {"Flow [L/min]", "Flow", "L/min", true, HeaderDoubt::none, "Flow"},
      {"Flow (L/min)", "Flow", "L/min", true, HeaderDoubt::none, "Flow"},
      {"Flow / (L/min)", "Flow", "L/min", true, HeaderDoubt::none, "Flow"},
      {"t/°C", "t", "°C", true, HeaderDoubt::none, "t"},
      {"Mass [g]", "Mass", "g", true, HeaderDoubt::none, "Mass"},
      {"Time [min]", "Time", "min", true, HeaderDoubt::none, "Time"},
      {"Ratio [1]", "Ratio", "1", true, HeaderDoubt::none, "Ratio"},
      {"Heat flux (W/(m^2 K))", "Heat flux", "W/(m^2 K)", true, HeaderDoubt::none, "Heat_flux"},
      {"Time (sec)", "Time (sec)", "1", false, HeaderDoubt::nearly_unit, "Time_sec"},
      {"Temp (deg C)", "Temp (deg C)", "1", false, HeaderDoubt::nearly_unit, "Temp_deg_C"},
      {"Power [Kw]", "Power [Kw]", "1", false, HeaderDoubt::nearly_unit, "Power_Kw"},
      {"Temp (C)", "Temp (C)", "1", false, HeaderDoubt::single_letter, "Temp_C"},
      {"Temp [C]", "Temp [C]", "1", false, HeaderDoubt::single_letter, "Temp_C"},
      {"Temp [F]", "Temp [F]", "1", false, HeaderDoubt::single_letter, "Temp_F"},
      {"Mass (g)", "Mass (g)", "1", false, HeaderDoubt::single_letter, "Mass_g"},
      {"Speed (min)", "Speed (min)", "1", false, HeaderDoubt::single_letter, "Speed_min"},
      {"Site (B)", "Site (B)", "1", false, HeaderDoubt::none, "Site_B"},
      {"Run (north)", "Run (north)", "1", false, HeaderDoubt::none, "Run_north"},
      {"Signal/noise", "Signal/noise", "1", false, HeaderDoubt::none, "Signal_noise"},
      {"Acidity [pH]", "Acidity", "pH", true, HeaderDoubt::plain_number, "Acidity"},
      {"  Flow  ", "Flow", "1", false, HeaderDoubt::none, "Flow"},
      {"2nd run", "2nd run", "1", false, HeaderDoubt::none, "c_2nd_run"},
      {"pi", "pi", "1", false, HeaderDoubt::none, "pi_"},
      {"Δp", "Δp", "1", false, HeaderDoubt::none, "Δp"},
      {"R\u2126", "R\u2126", "1", false, HeaderDoubt::none, "R\u03A9"},
      {"e\u0301tat", "e\u0301tat", "1", false, HeaderDoubt::none, "état"},
      {"", "", "1", false, HeaderDoubt::none, ""},
      {"%", "%", "1", false, HeaderDoubt::none, ""},
      {"x (", "x (", "1", false, HeaderDoubt::none, "x"},
  };
  for (const auto& row : rows) {
    const HeaderReading reading = read_header(row.header, units);
    EXPECT_EQ(reading.label, row.label) << row.header;
    EXPECT_EQ(reading.unit.text(), row.unit) << row.header;
    EXPECT_EQ(reading.unit_stated, row.stated) << row.header;
    EXPECT_EQ(reading.doubt, row.doubt) << row.header;
    EXPECT_EQ(symbol_of(reading.label), row.symbol) << row.header;
  }
}

TEST(Symbols, AreNumberedWhereRepeated) {
  std::vector<std::string> symbols = {"a", "b", "a", "a_1", "a"};
  number_repeated(symbols);
  EXPECT_EQ(symbols, (std::vector<std::string>{"a_2", "b", "a_3", "a_1", "a_4"}));
}

TEST(DisplayWidth, CountsColumnsOfTheTerminal) {
  EXPECT_EQ(display_width("°C"), 2U);
  EXPECT_EQ(display_width("e\u0301"), 1U);
  EXPECT_EQ(display_width("温"), 2U);
}

}  // namespace
}  // namespace opensum
