// Conversions against udunits2 as an independent oracle.
#include <gtest/gtest.h>
#include <udunits2.h>

#include <cmath>
#include <map>
#include <set>
#include <string>
#include <vector>

#include "units/unit_system.h"

namespace opensum {
namespace {

// Our spelling and the oracle's.
struct Spelling {
  const char* ours;
  const char* theirs;
};

const std::vector<Spelling>& spellings() {
  static const std::vector<Spelling> rows = {
      {"m", "m"},
      {"km", "km"},
      {"µm", "um"},
      {"in", "inch"},
      {"ft", "foot"},
      {"yd", "yard"},
      {"mi", "international_mile"},
      {"nmi", "nautical_mile"},
      {"Å", "angstrom"},
      {"au", "astronomical_unit"},
      {"kg", "kg"},
      {"g", "g"},
      {"mg", "mg"},
      {"t", "tonne"},
      {"lb", "pound"},
      {"oz", "avoirdupois_ounce"},
      {"ton_us", "short_ton"},
      {"ton_uk", "long_ton"},
      {"s", "s"},
      {"min", "min"},
      {"h", "h"},
      {"d", "day"},
      {"ms", "ms"},
      {"wk", "week"},
      {"K", "K"},
      {"degC", "degC"},
      {"degF", "degF"},
      {"J", "J"},
      {"kJ", "kJ"},
      {"MJ", "MJ"},
      {"kWh", "kW h"},
      {"cal", "thermochemical_calorie"},
      {"eV", "electronvolt"},
      {"erg", "erg"},
      {"Btu", "BTU"},
      {"W", "W"},
      {"kW", "kW"},
      {"mW", "mW"},
      {"Pa", "Pa"},
      {"kPa", "kPa"},
      {"bar", "bar"},
      {"mbar", "mbar"},
      {"atm", "standard_atmosphere"},
      {"mmHg", "mmHg"},
      {"inHg", "inHg"},
      {"psi", "psi"},
      {"Torr", "torr"},
      {"N", "N"},
      {"dyn", "dyne"},
      {"kgf", "kilogram_force"},
      {"lbf", "pound_force"},
      {"L", "L"},
      {"mL", "mL"},
      {"m^3", "m3"},
      {"cm^3", "cm3"},
      {"gal_us", "US_liquid_gallon"},
      {"gal_uk", "canadian_liquid_gallon"},
      {"L/min", "L/min"},
      {"m^3/h", "m3/h"},
      {"m/s", "m/s"},
      {"km/h", "km/h"},
      {"mph", "mile/hour"},
      {"kn", "knot"},
      {"kJ/(kg K)", "kJ/(kg K)"},
      {"cal/(g K)", "thermochemical_calorie/(g K)"},
      {"ha", "hectare"},
      {"m^2", "m2"},
      {"cm^2", "cm2"},
      {"b", "barn"},
      {"acre", "acre"},
      {"mol/L", "mol/L"},
      {"M", "mol/L"},
      {"mM", "mmol/L"},
      {"rad", "rad"},
      {"deg", "degree"},
      {"arcmin", "arcminute"},
      {"arcsec", "arcsecond"},
      {"%", "percent"},
      {"ppm", "ppmv"},
      {"1", "1"},
      {"P", "poise"},
      {"mPa s", "mPa s"},
      {"St", "stokes"},
      {"m^2/s", "m2/s"},
      {"V", "V"},
      {"mV", "mV"},
      {"A", "A"},
      {"mA", "mA"},
      {"C", "C"},
      {"Ah", "A h"},
      {"Ω", "ohm"},
      {"S", "S"},
      {"F", "F"},
      {"H", "H"},
      {"T", "T"},
      {"G", "gauss"},
      {"Wb", "Wb"},
      {"Mx", "maxwell"},
      {"Bq", "Bq"},
      {"Ci", "curie"},
      {"Gy", "Gy"},
      {"Sv", "Sv"},
      {"R", "roentgen"},
      {"kat", "kat"},
      {"cd", "cd"},
      {"lm", "lm"},
      {"lx", "lx"},
      {"W/(m^2 K)", "W/(m2 K)"},
      {"g/mL", "g/mL"},
      {"kg/m^3", "kg/m3"},
      {"mg/(100 mL)", "mg/(100 mL)"},
      {"yr", "year"},
      {"Da", "unified_atomic_mass_unit"},
      {"mol", "mol"},
      {"sr", "sr"},
      {"Hz", "Hz"},
      {"°R", "degR"},
      {"gon", "grade"},
      {"‰", "0.001"},
      {"ppb", "1e-9"},
      {"cps", "1/s"},
      {"cpm", "1/minute"},
      {"dpm", "Bq/60"},
      {"count", "count"},
      {"byte", "8"},
      {"U", "1e-6 mol/minute"},
      {"Wh", "W h"},
      {"VA", "VA"},
      {"mmH2O", "mm conventional_water"},
      {"cmH2O", "cm conventional_water"},
      {"ksi", "ksi"},
      {"sccm", "cm3/minute"},
      {"slm", "L/minute"},
      {"Oe", "oersted"},
      {"Gal", "Gal"},
      {"g0", "gravity"},
      {"carat", "carat"},
      {"grain", "grain"},
      {"rem", "rem"},
      {"Jy", "1e-26 W/(m2 Hz)"},
      {"ly", "light_year"},
      {"tex", "tex"},
      {"mil", "mil"},
      {"qt_us", "US_liquid_quart"},
      {"pt_us", "US_liquid_pint"},
      {"pt_uk", "UK_liquid_pint"},
      {"floz_us", "US_fluid_ounce"},
      {"floz_uk", "UK_fluid_ounce"},
      {"gpm_us", "US_liquid_gallon/minute"},
      {"gpm_uk", "canadian_liquid_gallon/minute"},
      {"cfm", "foot^3/minute"},
      {"hp", "550 foot pound_force/second"},
  };
  return rows;
}

// Units in which the oracle differs from the exact or agreed value, and why.
const std::map<std::string, const char*>& known_differences() {
  static const std::map<std::string, const char*> reasons = {
      {"yr", "the oracle's year is the tropical year, ours the Julian year of 365.25 d"},
      {"Da", "the oracle has an older CODATA value"},
      {"eV", "the oracle has the value of before the SI of 2019"},
      {"oz", "the oracle's ounce is rounded to seven digits"},
      {"Torr", "the oracle takes torr for another name of mmHg"},
      {"gal_us", "the oracle's gallon is rounded to seven digits"},
      {"qt_us", "the oracle's gallon is rounded to seven digits"},
      {"pt_us", "the oracle's gallon is rounded to seven digits"},
      {"floz_us", "the oracle's gallon is rounded to seven digits"},
      {"gpm_us", "the oracle's gallon is rounded to seven digits"},
      {"pt_uk", "the oracle's pint is rounded to seven digits"},
      {"floz_uk", "the oracle's fluid ounce is rounded to seven digits"},
      {"ly", "the oracle's light year is rounded to six digits"},
      {"acre", "the oracle's acre is made of survey feet"},
      {"inHg", "the oracle's conventional value is rounded to five digits"},
      {"mmHg", "the oracle's conventional value is rounded to six digits"},
  };
  return reasons;
}

// Units without a pair, and why.
const std::map<std::string, const char*>& without_a_pair() {
  static const std::map<std::string, const char*> reasons = {
      {"°", "stands as deg"},
      {"°C", "stands as degC"},
      {"°F", "stands as degF"},
      {"r", "the oracle takes every turn for 2 pi; turns are swept elsewhere"},
      {"rpm", "the oracle takes every turn for 2 pi; turns are swept elsewhere"},
      {"rps", "the oracle takes every turn for 2 pi; turns are swept elsewhere"},
      {"pH", "a plain number"},
      {"dB", "a plain number"},
      {"cell", "a plain number"},
      {"particle", "a plain number"},
      {"copy", "a plain number"},
      {"event", "a plain number"},
      {"px", "a plain number"},
      {"CFU", "a plain number"},
      {"PFU", "a plain number"},
      {"IU", "a plain number"},
      {"AU", "a plain number"},
      {"OD", "a plain number"},
      {"a.u.", "a plain number"},
      {"RFU", "a plain number"},
      {"RLU", "a plain number"},
      {"NTU", "a plain number"},
      {"FNU", "a plain number"},
      {"FTU", "a plain number"},
      {"PSU", "a plain number"},
      {"bit", "a plain number"},
  };
  return reasons;
}

class Oracle {
 public:
  Oracle() {
    ut_set_error_message_handler(ut_ignore);
    system_ = ut_read_xml(nullptr);
  }
  ~Oracle() { ut_free_system(system_); }
  Oracle(const Oracle&) = delete;
  Oracle& operator=(const Oracle&) = delete;
  ut_unit* parse(const char* text) const { return ut_parse(system_, text, UT_UTF8); }

 private:
  ut_system* system_;
};

// Dimensions that the oracle shares and we keep apart, or the other way round.
bool turning_differs(const Unit& a, const Unit& b) { return mismatch(a, b).counted != CountFault::none; }

TEST(ConversionOracle, AgreesOnEveryPair) {
  const Oracle oracle;
  const UnitSystem units;
  std::size_t compared = 0;
  std::size_t incompatible = 0;
  std::size_t skipped = 0;
  std::map<std::string, bool> differs;
  for (const Spelling& from : spellings()) {
    ut_unit* their_from = oracle.parse(from.theirs);
    ASSERT_NE(their_from, nullptr) << from.theirs;
    const Unit our_from = *units.read(from.ours).unit;
    for (const Spelling& to : spellings()) {
      ut_unit* their_to = oracle.parse(to.theirs);
      ASSERT_NE(their_to, nullptr) << to.theirs;
      const Unit our_to = *units.read(to.ours).unit;
      const bool convertible = ut_are_convertible(their_from, their_to) != 0;
      // The oracle also converts between a quantity and its reciprocal, which no one should want silently.
      const bool ours = our_from.dimension == our_to.dimension;
      const bool reciprocal =
          our_from.dimension == our_to.dimension.power(-1) && !our_from.is_dimensionless();
      if (turning_differs(our_from, our_to)) {
        ++skipped;
      } else if (!reciprocal) {
        EXPECT_EQ(convertible, ours) << from.ours << " to " << to.ours;
      }
      if (convertible && ours && !turning_differs(our_from, our_to)) {
        const bool known = known_differences().contains(from.ours) || known_differences().contains(to.ours);
        cv_converter* converter = ut_get_converter(their_from, their_to);
        for (const double value : {1.0, 25.0, -3.7}) {
          const double expected = cv_convert_double(converter, value);
          const double got = conversion(our_from, our_to)(value);
          // The oracle multiplies rounded factors, and shifts temperatures by rounded offsets.
          const double bound = 4e-15 * std::max(std::fabs(expected), our_to.is_reading() ? 500.0 : 0.0);
          if (known && from.ours != to.ours) {
            EXPECT_NEAR(got, expected, 1e-4 * std::fabs(expected)) << from.ours << " to " << to.ours;
            ++skipped;
            if (std::fabs(got - expected) > bound) differs[from.ours] = differs[to.ours] = true;
          } else {
            EXPECT_NEAR(got, expected, bound) << from.ours << " to " << to.ours;
            ++compared;
          }
        }
        cv_free(converter);
      } else {
        ++incompatible;
      }
      ut_free(their_to);
    }
    ut_free(their_from);
  }
  for (const auto& [unit, reason] : known_differences()) {
    EXPECT_TRUE(differs[unit]) << unit << " is said to differ, but does not";
  }
  std::cout << compared << " conversions compared, " << incompatible << " pairs refused by both, " << skipped
            << " with known differences\n";
  EXPECT_GT(compared, 900U);
  EXPECT_GT(incompatible, 5000U);
}

TEST(ConversionOracle, HasAPairForEveryUnitOfTheCatalogue) {
  std::set<std::string> paired;
  for (const Spelling& spelling : spellings()) paired.insert(spelling.ours);
  const UnitSystem units;
  for (const CatalogueUnit& entry : catalogue_units()) {
    const bool has_reason = without_a_pair().contains(entry.symbol);
    EXPECT_NE(paired.contains(entry.symbol), has_reason) << entry.symbol;
    if (has_reason && std::string(without_a_pair().at(entry.symbol)) == "a plain number") {
      EXPECT_TRUE(same_scale(*units.read(entry.symbol).unit, Unit{})) << entry.symbol;
    }
  }
}

}  // namespace
}  // namespace opensum
