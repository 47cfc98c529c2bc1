// The units that every study knows. Sources of the factors: SI Brochure (9th edition, 2019), tables 2 to 8;
// NIST Special Publication 811 (2008), appendix B, for what the brochure leaves out; CODATA 2022 for the
// measured ones (Da, D is exact by convention). Factors are exact decimals of SI units.
#include "units/catalogue.h"

#include <array>

namespace opensum {
namespace {

using enum Prefixes;

constexpr std::array kUnits = {
    // SI base units. The kilogram is written by way of the gram, which takes the prefixes.
    CatalogueUnit{"m", "", "", all, "metre", "length"},
    CatalogueUnit{"g", "", "", all, "gram", "mass"},
    CatalogueUnit{"s", "", "", all, "second", "time"},
    CatalogueUnit{"A", "", "", all, "ampere", "electric current"},
    CatalogueUnit{"K", "", "", all, "kelvin", "temperature"},
    CatalogueUnit{"mol", "", "", all, "mole", "amount of substance"},
    CatalogueUnit{"cd", "", "", all, "candela", "luminous intensity"},
    // SI units with names of their own.
    CatalogueUnit{"rad", "", "1", all, "radian", "plane angle"},
    CatalogueUnit{"sr", "", "1", all, "steradian", "solid angle"},
    CatalogueUnit{"Hz", "", "1/s", all, "hertz", "frequency"},
    CatalogueUnit{"N", "", "kg m/s^2", all, "newton", "force"},
    CatalogueUnit{"Pa", "", "N/m^2", all, "pascal", "pressure"},
    CatalogueUnit{"J", "", "N m", all, "joule", "energy"},
    CatalogueUnit{"W", "", "J/s", all, "watt", "power"},
    CatalogueUnit{"C", "", "A s", all, "coulomb", "electric charge"},
    CatalogueUnit{"V", "", "W/A", all, "volt", "electric potential"},
    CatalogueUnit{"F", "", "C/V", all, "farad", "capacitance"},
    CatalogueUnit{"Ω", "ohm Ohm", "V/A", all, "ohm", "electric resistance"},
    CatalogueUnit{"S", "", "A/V", all, "siemens", "electric conductance"},
    CatalogueUnit{"Wb", "", "V s", all, "weber", "magnetic flux"},
    CatalogueUnit{"T", "", "Wb/m^2", all, "tesla", "magnetic flux density"},
    CatalogueUnit{"H", "", "Wb/A", all, "henry", "inductance"},
    CatalogueUnit{"lm", "", "cd", all, "lumen", "luminous flux"},
    CatalogueUnit{"lx", "", "lm/m^2", all, "lux", "illuminance"},
    CatalogueUnit{"Bq", "", "1/s", all, "becquerel", "activity"},
    CatalogueUnit{"Gy", "", "J/kg", all, "gray", "absorbed dose"},
    CatalogueUnit{"Sv", "", "J/kg", all, "sievert", "dose equivalent"},
    CatalogueUnit{"kat", "", "mol/s", all, "katal", "catalytic activity"},
    // Temperature scales; their offsets stand with the code that reads them.
    CatalogueUnit{"°C", "degC ℃", "K", none, "degree Celsius", "temperature"},
    CatalogueUnit{"°F", "degF ℉", "K", none, "degree Fahrenheit", "temperature"},
    // Units accepted for use with the SI.
    CatalogueUnit{"min", "", "60 s", none, "minute", "time"},
    CatalogueUnit{"h", "", "3600 s", none, "hour", "time"},
    CatalogueUnit{"d", "", "86400 s", none, "day", "time"},
    CatalogueUnit{"wk", "", "604800 s", none, "week", "time"},
    CatalogueUnit{"yr", "", "31557600 s", large, "Julian year of 365.25 d", "time"},
    CatalogueUnit{"°", "deg", "rad", none, "degree of angle", "plane angle"},
    CatalogueUnit{"arcmin", "′", "rad", none, "minute of angle", "plane angle"},
    CatalogueUnit{"arcsec", "″", "rad", small, "second of angle", "plane angle"},
    CatalogueUnit{"r", "rev", "1", none, "revolution", "turns"},
    CatalogueUnit{"rpm", "", "r/min", none, "revolution per minute", "frequency"},
    CatalogueUnit{"ha", "", "10000 m^2", none, "hectare", "area"},
    CatalogueUnit{"L", "l ℓ", "0.001 m^3", all, "litre", "volume"},
    CatalogueUnit{"t", "", "1000 kg", large, "tonne", "mass"},
    CatalogueUnit{"Da", "u", "1.66053906892e-27 kg", large, "dalton", "mass"},
    CatalogueUnit{"eV", "", "1.602176634e-19 J", all, "electronvolt", "energy"},
    CatalogueUnit{"au", "", "149597870700 m", none, "astronomical unit", "length"},
    CatalogueUnit{"bar", "", "100000 Pa", all, "bar", "pressure"},
    CatalogueUnit{"Å", "angstrom", "1e-10 m", none, "angstrom", "length"},
    CatalogueUnit{"b", "", "1e-28 m^2", all, "barn", "area"},
    // Fractions.
    CatalogueUnit{"%", "percent wt% vol% mol% at% %RH", "0.01", none, "percent", "fraction"},
    CatalogueUnit{"‰", "", "0.001", none, "per mille", "fraction"},
    CatalogueUnit{"ppm", "", "1e-6", none, "part per million", "fraction"},
    CatalogueUnit{"ppb", "", "1e-9", none, "part per billion (1e9)", "fraction"},
    // Plain numbers by convention.
    CatalogueUnit{"pH", "", "1", none, "pH, a plain number", "plain number"},
    CatalogueUnit{"dB", "", "1", none, "decibel, a plain number", "plain number"},
    // Laboratory.
    CatalogueUnit{"M", "", "1000 mol/m^3", small, "mole per litre", "concentration"},
    CatalogueUnit{"U", "", "1e-6 mol/min", all, "enzyme unit", "catalytic activity"},
    CatalogueUnit{"cal", "", "4.184 J", large, "calorie (thermochemical)", "energy"},
    CatalogueUnit{"Btu", "BTU", "1055.05585262 J", none, "British thermal unit (IT)", "energy"},
    CatalogueUnit{"Wh", "", "3600 J", all, "watt hour", "energy"},
    CatalogueUnit{"Ah", "", "3600 C", all, "ampere hour", "electric charge"},
    CatalogueUnit{"erg", "", "1e-7 J", none, "erg", "energy"},
    CatalogueUnit{"dyn", "", "1e-5 N", none, "dyne", "force"},
    CatalogueUnit{"kgf", "", "9.80665 N", none, "kilogram-force", "force"},
    CatalogueUnit{"lbf", "", "4.4482216152605 N", none, "pound-force", "force"},
    CatalogueUnit{"atm", "", "101325 Pa", none, "standard atmosphere", "pressure"},
    CatalogueUnit{"Torr", "", "101325 Pa/760", small, "torr, 1/760 of an atmosphere", "pressure"},
    CatalogueUnit{"mmHg", "", "133.322387415 Pa", none, "millimetre of mercury", "pressure"},
    CatalogueUnit{"inHg", "", "3386.388640341 Pa", none, "inch of mercury", "pressure"},
    CatalogueUnit{"mmH2O", "", "9.80665 Pa", none, "millimetre of water", "pressure"},
    CatalogueUnit{"cmH2O", "", "98.0665 Pa", none, "centimetre of water", "pressure"},
    CatalogueUnit{"psi", "", "lbf/in^2", none, "pound-force per square inch", "pressure"},
    CatalogueUnit{"P", "", "0.1 Pa s", all, "poise", "dynamic viscosity"},
    CatalogueUnit{"St", "", "0.0001 m^2/s", all, "stokes", "kinematic viscosity"},
    CatalogueUnit{"G", "", "0.0001 T", all, "gauss", "magnetic flux density"},
    CatalogueUnit{"Mx", "", "1e-8 Wb", none, "maxwell", "magnetic flux"},
    CatalogueUnit{"Ci", "", "3.7e10 Bq", all, "curie", "activity"},
    CatalogueUnit{"R", "", "2.58e-4 C/kg", small, "roentgen", "exposure"},
    CatalogueUnit{"rem", "", "0.01 Sv", small, "rem", "dose equivalent"},
    CatalogueUnit{"Jy", "", "1e-26 W s/m^2", all, "jansky", "spectral flux density"},
    CatalogueUnit{"ly", "", "9460730472580800 m", none, "light year", "length"},
    CatalogueUnit{"tex", "", "1e-6 kg/m", small, "tex", "linear density"},
    // Inch-pound units.
    CatalogueUnit{"in", "", "0.0254 m", none, "inch", "length"},
    CatalogueUnit{"ft", "", "0.3048 m", none, "foot", "length"},
    CatalogueUnit{"yd", "", "0.9144 m", none, "yard", "length"},
    CatalogueUnit{"mi", "", "1609.344 m", none, "mile", "length"},
    CatalogueUnit{"nmi", "", "1852 m", none, "nautical mile", "length"},
    CatalogueUnit{"acre", "", "4046.8564224 m^2", none, "acre (international)", "area"},
    CatalogueUnit{"lb", "", "0.45359237 kg", none, "pound", "mass"},
    CatalogueUnit{"oz", "", "0.028349523125 kg", none, "ounce", "mass"},
    CatalogueUnit{"gr_grain", "", "6.479891e-5 kg", none, "grain", "mass"},
    CatalogueUnit{"ton_US", "", "907.18474 kg", none, "short ton", "mass"},
    CatalogueUnit{"ton_UK", "", "1016.0469088 kg", none, "long ton", "mass"},
    CatalogueUnit{"gal_US", "", "0.003785411784 m^3", none, "US gallon", "volume"},
    CatalogueUnit{"gal_UK", "", "0.00454609 m^3", none, "imperial gallon", "volume"},
    CatalogueUnit{"mph", "", "0.44704 m/s", none, "mile per hour", "speed"},
    CatalogueUnit{"kn", "", "1852 m/h", none, "knot", "speed"},
};

constexpr std::array kPrefixes = {
    CataloguePrefix{"da", 1},  CataloguePrefix{"h", 2},   CataloguePrefix{"k", 3},
    CataloguePrefix{"M", 6},   CataloguePrefix{"G", 9},   CataloguePrefix{"T", 12},
    CataloguePrefix{"P", 15},  CataloguePrefix{"E", 18},  CataloguePrefix{"Z", 21},
    CataloguePrefix{"Y", 24},  CataloguePrefix{"R", 27},  CataloguePrefix{"Q", 30},
    CataloguePrefix{"d", -1},  CataloguePrefix{"c", -2},  CataloguePrefix{"m", -3},
    CataloguePrefix{"µ", -6},  CataloguePrefix{"u", -6},  CataloguePrefix{"n", -9},
    CataloguePrefix{"p", -12}, CataloguePrefix{"f", -15}, CataloguePrefix{"a", -18},
    CataloguePrefix{"z", -21}, CataloguePrefix{"y", -24}, CataloguePrefix{"r", -27},
    CataloguePrefix{"q", -30},
};

constexpr std::array kRefused = {
    RefusedUnit{"ppt", "‰ for parts per thousand, or 1e-12 as a plain number for parts per trillion"},
    RefusedUnit{"gal", "gal_US or gal_UK"},
    RefusedUnit{"ton", "t for 1000 kg, ton_US or ton_UK"},
};

constexpr std::array kNearly = {
    NearlyUnit{"sec", "s"},       NearlyUnit{"secs", "s"},     NearlyUnit{"second", "s"},
    NearlyUnit{"seconds", "s"},   NearlyUnit{"mins", "min"},   NearlyUnit{"minute", "min"},
    NearlyUnit{"minutes", "min"}, NearlyUnit{"hr", "h"},       NearlyUnit{"hrs", "h"},
    NearlyUnit{"hour", "h"},      NearlyUnit{"hours", "h"},    NearlyUnit{"day", "d"},
    NearlyUnit{"days", "d"},      NearlyUnit{"year", "yr"},    NearlyUnit{"years", "yr"},
    NearlyUnit{"week", "wk"},     NearlyUnit{"weeks", "wk"},   NearlyUnit{"deg C", "°C"},
    NearlyUnit{"deg. C", "°C"},   NearlyUnit{"ºC", "°C"},      NearlyUnit{"oC", "°C"},
    NearlyUnit{"Celsius", "°C"},  NearlyUnit{"celsius", "°C"}, NearlyUnit{"deg F", "°F"},
    NearlyUnit{"ºF", "°F"},       NearlyUnit{"Kelvin", "K"},   NearlyUnit{"kelvin", "K"},
    NearlyUnit{"degK", "K"},      NearlyUnit{"°K", "K"},       NearlyUnit{"gram", "g"},
    NearlyUnit{"grams", "g"},     NearlyUnit{"gm", "g"},       NearlyUnit{"gr", "g"},
    NearlyUnit{"kgs", "kg"},      NearlyUnit{"mcg", "µg"},     NearlyUnit{"lbs", "lb"},
    NearlyUnit{"cc", "cm^3"},     NearlyUnit{"ccm", "cm^3"},   NearlyUnit{"meter", "m"},
    NearlyUnit{"meters", "m"},    NearlyUnit{"metre", "m"},    NearlyUnit{"metres", "m"},
    NearlyUnit{"micron", "µm"},   NearlyUnit{"microns", "µm"}, NearlyUnit{"inch", "in"},
    NearlyUnit{"inches", "in"},   NearlyUnit{"feet", "ft"},    NearlyUnit{"liter", "L"},
    NearlyUnit{"liters", "L"},    NearlyUnit{"litre", "L"},    NearlyUnit{"litres", "L"},
    NearlyUnit{"lit", "L"},       NearlyUnit{"degrees", "°"},  NearlyUnit{"degree", "°"},
    NearlyUnit{"volt", "V"},      NearlyUnit{"volts", "V"},    NearlyUnit{"watt", "W"},
    NearlyUnit{"watts", "W"},     NearlyUnit{"amp", "A"},      NearlyUnit{"amps", "A"},
    NearlyUnit{"joule", "J"},     NearlyUnit{"joules", "J"},   NearlyUnit{"newton", "N"},
    NearlyUnit{"pascal", "Pa"},   NearlyUnit{"mole", "mol"},   NearlyUnit{"moles", "mol"},
    NearlyUnit{"molar", "M"},     NearlyUnit{"torr", "Torr"},  NearlyUnit{"kmh", "km/h"},
    NearlyUnit{"kph", "km/h"},    NearlyUnit{"kmph", "km/h"},  NearlyUnit{"RPM", "rpm"},
};

}  // namespace

std::span<const CatalogueUnit> catalogue_units() { return kUnits; }
std::span<const CataloguePrefix> catalogue_prefixes() { return kPrefixes; }
std::span<const RefusedUnit> refused_units() { return kRefused; }
std::span<const NearlyUnit> nearly_units() { return kNearly; }

}  // namespace opensum
