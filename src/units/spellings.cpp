// Other spellings of units.
#include "units/spellings.h"

#include <array>

namespace opensum {
namespace {

constexpr std::array kWords = {
    UnitWords{"metre metres meter meters", "m"},
    UnitWords{"gram grams gramme grammes gm", "g"},
    UnitWords{"second seconds sec secs", "s"},
    UnitWords{"ampere amperes amp amps", "A"},
    UnitWords{"kelvin kelvins", "K"},
    UnitWords{"mole moles", "mol"},
    UnitWords{"candela candelas", "cd"},
    UnitWords{"radian radians", "rad"},
    UnitWords{"hertz", "Hz"},
    UnitWords{"newton newtons", "N"},
    UnitWords{"pascal pascals", "Pa"},
    UnitWords{"joule joules", "J"},
    UnitWords{"watt watts", "W"},
    UnitWords{"coulomb coulombs", "C"},
    UnitWords{"volt volts", "V"},
    UnitWords{"farad farads", "F"},
    UnitWords{"ohms", "Ω"},
    UnitWords{"siemens", "S"},
    UnitWords{"weber webers", "Wb"},
    UnitWords{"tesla teslas", "T"},
    UnitWords{"henry henries", "H"},
    UnitWords{"lumen lumens", "lm"},
    UnitWords{"lux", "lx"},
    UnitWords{"becquerel becquerels", "Bq"},
    UnitWords{"gray grays", "Gy"},
    UnitWords{"sievert sieverts", "Sv"},
    UnitWords{"katal katals", "kat"},
    UnitWords{"celsius centigrade ºC", "°C"},
    UnitWords{"fahrenheit ºF", "°F"},
    UnitWords{"degK °K", "K"},
    UnitWords{"degree degrees", "°"},
    UnitWords{"minute minutes mins", "min"},
    UnitWords{"hour hours hr hrs", "h"},
    UnitWords{"day days", "d"},
    UnitWords{"week weeks", "wk"},
    UnitWords{"year years", "yr"},
    UnitWords{"revolution revolutions turn turns revs", "r"},
    UnitWords{"RPM", "rpm"},
    UnitWords{"hectare hectares", "ha"},
    UnitWords{"litre litres liter liters", "L"},
    UnitWords{"tonne tonnes", "t"},
    UnitWords{"dalton daltons", "Da"},
    UnitWords{"electronvolt electronvolts", "eV"},
    UnitWords{"bars", "bar"},
    UnitWords{"angstroms", "Å"},
    UnitWords{"barn barns", "b"},
    UnitWords{"ppmv ppmw", "ppm"},
    UnitWords{"ppbv ppbw", "ppb"},
    UnitWords{"molar", "M"},
    UnitWords{"calorie calories", "cal"},
    UnitWords{"torr", "Torr"},
    UnitWords{"poise", "P"},
    UnitWords{"stokes", "St"},
    UnitWords{"gauss", "G"},
    UnitWords{"oersted oersteds", "Oe"},
    UnitWords{"curie curies", "Ci"},
    UnitWords{"roentgen roentgens", "R"},
    UnitWords{"inch inches", "in"},
    UnitWords{"foot feet", "ft"},
    UnitWords{"yard yards", "yd"},
    UnitWords{"mile miles", "mi"},
    UnitWords{"knot knots", "kn"},
    UnitWords{"acres", "acre"},
    UnitWords{"pound pounds lbs", "lb"},
    UnitWords{"ounce ounces", "oz"},
    UnitWords{"horsepower", "hp"},
    UnitWords{"bits", "bit"},
    UnitWords{"micron microns", "µm"},
    UnitWords{"kgs", "kg"},
    UnitWords{"mcg", "µg"},
    UnitWords{"cc ccm", "cm^3"},
    UnitWords{"kmh kph kmph", "km/h"},
    UnitWords{"mmhg", "mmHg"},
};

constexpr std::array kPhrases = {
    UnitPhrase{"% RH", "%RH"},        UnitPhrase{"%rh", "%RH"},
    UnitPhrase{"% rh", "%RH"},        UnitPhrase{"RH %", "%RH"},
    UnitPhrase{"wt %", "wt%"},        UnitPhrase{"wt. %", "wt%"},
    UnitPhrase{"vol %", "vol%"},      UnitPhrase{"vol. %", "vol%"},
    UnitPhrase{"mol %", "mol%"},      UnitPhrase{"at %", "at%"},
    UnitPhrase{"at. %", "at%"},       UnitPhrase{"% w/w", "wt%"},
    UnitPhrase{"% v/v", "vol%"},      UnitPhrase{"arb. u.", "a.u."},
    UnitPhrase{"arb. units", "a.u."}, UnitPhrase{"arbitrary units", "a.u."},
};

constexpr std::array kRefused = {
    RefusedUnit{"ppt", "‰ for parts per thousand, or 1e-12 as a plain number for parts per trillion"},
    RefusedUnit{"gal", "gal_us or gal_uk"},
    RefusedUnit{"gallon", "gal_us or gal_uk"},
    RefusedUnit{"gallons", "gal_us or gal_uk"},
    RefusedUnit{"gpm", "gpm_us or gpm_uk"},
    RefusedUnit{"qt", "qt_us, or 2 pt_uk"},
    RefusedUnit{"pt", "pt_us or pt_uk"},
    RefusedUnit{"pint", "pt_us or pt_uk"},
    RefusedUnit{"floz", "floz_us or floz_uk"},
    RefusedUnit{"fl", "floz_us or floz_uk for fl oz, fL for femtolitre"},
    RefusedUnit{"ton", "t for 1000 kg, ton_us or ton_uk"},
    RefusedUnit{"tons", "t for 1000 kg, ton_us or ton_uk"},
    RefusedUnit{"gr", "g for gram, grain for the grain"},
    RefusedUnit{"month", "d for days, or 30.4375 d for a mean month; shift(date, months: 1) counts them"},
    RefusedUnit{"months", "d for days, or 30.4375 d for a mean month; shift(date, months: 1) counts them"},
    RefusedUnit{"barg", kGaugeAdvice},
    RefusedUnit{"bara", kGaugeAdvice},
    RefusedUnit{"psig", kGaugeAdvice},
    RefusedUnit{"psia", kGaugeAdvice},
};

constexpr std::array kNearly = {
    NearlyUnit{"KG", "kg"},   NearlyUnit{"Kg", "kg"},   NearlyUnit{"KPA", "kPa"}, NearlyUnit{"KPa", "kPa"},
    NearlyUnit{"Kpa", "kPa"}, NearlyUnit{"kpa", "kPa"}, NearlyUnit{"Mpa", "MPa"}, NearlyUnit{"KHz", "kHz"},
    NearlyUnit{"khz", "kHz"}, NearlyUnit{"hz", "Hz"},   NearlyUnit{"KW", "kW"},   NearlyUnit{"Kw", "kW"},
    NearlyUnit{"KJ", "kJ"},   NearlyUnit{"Kj", "kJ"},   NearlyUnit{"KN", "kN"},   NearlyUnit{"MM", "mm"},
    NearlyUnit{"CM", "cm"},   NearlyUnit{"KM", "km"},   NearlyUnit{"Km", "km"},   NearlyUnit{"SEC", "s"},
    NearlyUnit{"HR", "h"},    NearlyUnit{"MIN", "min"}, NearlyUnit{"PSI", "psi"}, NearlyUnit{"lit", "L"},
    NearlyUnit{"oC", "°C"},   NearlyUnit{"oF", "°F"},
};

}  // namespace

std::span<const UnitWords> unit_words() { return kWords; }
std::span<const UnitPhrase> unit_phrases() { return kPhrases; }
std::span<const RefusedUnit> refused_units() { return kRefused; }
std::span<const NearlyUnit> nearly_units() { return kNearly; }

}  // namespace opensum
