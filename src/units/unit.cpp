// Units of measurement: products, conversions and the coherent form.
#include "units/unit.h"

#include <algorithm>
#include <array>
#include <cstdlib>
#include <utility>

#include "base/limits.h"
#include "units/spellings.h"

namespace opensum {
namespace {

using Symbols = std::vector<std::pair<std::string, Rational>>;

constexpr std::array<const char*, 7> kBaseSymbols = {"m", "kg", "s", "A", "K", "mol", "cd"};

Dimension dimension_of(std::initializer_list<std::pair<BaseQuantity, int>> powers) {
  Dimension result;
  for (const auto& [base, exponent] : powers) result = result * Dimension(base, exponent);
  return result;
}

struct Named {
  const char* symbol;
  Dimension dimension;
};

// The named units that a product may be given in. J, Hz, Bq, Gy, Sv, kat, lm and lx are left out: each
// shares its dimension with a quantity of another nature.
const std::vector<Named>& renamable_units() {
  static const std::vector<Named> units = {
      {"N", dimension_of({{kLength, 1}, {kMass, 1}, {kTime, -2}})},
      {"Pa", dimension_of({{kLength, -1}, {kMass, 1}, {kTime, -2}})},
      {"W", dimension_of({{kLength, 2}, {kMass, 1}, {kTime, -3}})},
      {"C", dimension_of({{kTime, 1}, {kCurrent, 1}})},
      {"V", dimension_of({{kLength, 2}, {kMass, 1}, {kTime, -3}, {kCurrent, -1}})},
      {"F", dimension_of({{kLength, -2}, {kMass, -1}, {kTime, 4}, {kCurrent, 2}})},
      {"Ω", dimension_of({{kLength, 2}, {kMass, 1}, {kTime, -3}, {kCurrent, -2}})},
      {"S", dimension_of({{kLength, -2}, {kMass, -1}, {kTime, 3}, {kCurrent, 2}})},
      {"Wb", dimension_of({{kLength, 2}, {kMass, 1}, {kTime, -2}, {kCurrent, -1}})},
      {"T", dimension_of({{kMass, 1}, {kTime, -2}, {kCurrent, -1}})},
      {"H", dimension_of({{kLength, 2}, {kMass, 1}, {kTime, -2}, {kCurrent, -2}})},
  };
  return units;
}

void merge(Symbols& symbols, const std::string& symbol, const Rational& exponent) {
  for (auto i = symbols.begin(); i != symbols.end(); ++i) {
    if (i->first != symbol) continue;
    i->second = i->second + exponent;
    if (i->second.is_zero()) symbols.erase(i);
    return;
  }
  symbols.emplace_back(symbol, exponent);
}

bool mentions(const Symbols& symbols, const std::string& symbol) {
  return std::any_of(symbols.begin(), symbols.end(), [&](const auto& s) { return s.first == symbol; });
}

UnitPart coherent_part(const std::string& symbol, const Rational& exponent) {
  return {symbol, exponent, {{symbol, 1}}};
}

// An exponent that can be read again.
bool can_be_written(const Rational& exponent) {
  return std::abs(exponent.numerator()) <= kMostExponent && exponent.denominator() <= kMostExponent;
}

// The dimension written out in base symbols; empty where a study's own base is part of it, whose symbol
// only its parts know.
std::optional<Symbols> base_symbols(const Dimension& dimension) {
  Symbols symbols;
  for (const auto& [base, exponent] : dimension.terms()) {
    if (base >= kFirstOwnBase) return std::nullopt;
    symbols.emplace_back(kBaseSymbols.at(base), exponent);
  }
  return symbols;
}

std::vector<UnitPart> merged_parts(const Unit& a, const Unit& b, int sign) {
  std::vector<UnitPart> parts = a.parts;
  for (const UnitPart& part : b.parts) {
    const Rational exponent = sign > 0 ? part.exponent : -part.exponent;
    const auto same =
        std::find_if(parts.begin(), parts.end(), [&](const UnitPart& p) { return p.symbol == part.symbol; });
    if (same == parts.end()) {
      parts.push_back({part.symbol, exponent, part.coherent});
    } else {
      same->exponent = same->exponent + exponent;
      if (same->exponent.is_zero()) parts.erase(same);
    }
  }
  return parts;
}

Unit combine(const Unit& a, const Unit& b, int sign) {
  if (b.is_one() && b.counted.none()) return a;
  if (a.is_one() && a.counted.none() && sign > 0) return b;
  Unit result;
  result.dimension = sign > 0 ? a.dimension * b.dimension : a.dimension / b.dimension;
  result.factor = sign > 0 ? a.factor * b.factor : a.factor / b.factor;
  result.parts = merged_parts(a, b, sign);
  result.counted = sign > 0 ? a.counted * b.counted : a.counted / b.counted;
  // `omega / (2 * pi)` is a rate of turns as soon as it stands there.
  if (result.is_count_or_rate()) result.counted = paired(result.counted, true);
  return result;
}

// Shows what is counted in the symbols of a coherent unit.
void name_counted(Symbols& symbols, const Unit& unit, const Counted& counted) {
  const bool alone = unit.is_count_or_rate();
  if (!counted.turns.is_zero()) merge(symbols, "r", counted.turns);
  // A bare count of cycles is shown as a plain number, and the time of one as a time.
  const bool plain = alone && counted.angle.is_zero() && (unit.is_dimensionless() || counted.cycles < 0);
  if (!counted.cycles.is_zero() && !plain) {
    merge(symbols, "Hz", counted.cycles);
    merge(symbols, "s", counted.cycles);
  }
  if (alone && !counted.angle.is_zero() && counted.all_turns().is_zero())
    symbols.insert(symbols.begin(), {"rad", counted.angle});
  if (alone && !counted.angle.is_zero() && !counted.all_turns().is_zero())
    merge(symbols, "rad", counted.angle);
  const auto rate = std::find_if(symbols.begin(), symbols.end(), [&](const auto& s) {
    return s.first == "s" && s.second == -counted.decays;
  });
  if (!counted.decays.is_zero() && rate != symbols.end()) *rate = {"Bq", counted.decays};
}

std::string superscript(const Rational& exponent) {
  static const std::array<const char*, 10> digits = {"⁰", "¹", "²", "³", "⁴", "⁵", "⁶", "⁷", "⁸", "⁹"};
  std::string out;
  for (const char c : exponent.text()) {
    if (c == '-') {
      out += "⁻";
    } else if (c == '/') {
      out += "ᐟ";
    } else {
      out += digits.at(static_cast<std::size_t>(c - '0'));
    }
  }
  return out;
}

std::string plain_exponent(const Rational& exponent) {
  return exponent.is_integer() ? "^" + exponent.text() : "^(" + exponent.text() + ")";
}

template <typename ExponentText>
std::string written(const std::vector<UnitPart>& parts, const char* separator, ExponentText exponent_text) {
  std::string above;
  std::string below;
  int count_below = 0;
  for (const UnitPart& part : parts) {
    const bool up = !(part.exponent < 0);
    std::string& side = up ? above : below;
    // With a blank behind it, the sign for an angle would be that of a temperature: `° C`.
    if (!side.empty()) side += side.ends_with("°") ? "·" : separator;
    const Rational exponent = up ? part.exponent : -part.exponent;
    side += part.symbol;
    if (!(exponent == 1)) side += exponent_text(exponent);
    if (!up) ++count_below;
  }
  if (count_below == 0) return above.empty() ? "1" : above;
  if (above.empty()) above = "1";
  return above + '/' + (count_below > 1 ? '(' + below + ')' : below);
}

}  // namespace

std::string Unit::text() const {
  std::string spaced = written(parts, " ", plain_exponent);
  // Moles times per cent are no `mol %`.
  const auto phrases = unit_phrases();
  const bool means_another = std::any_of(phrases.begin(), phrases.end(),
                                         [&](const UnitPhrase& phrase) { return spaced == phrase.text; });
  return means_another ? written(parts, "·", plain_exponent) : spaced;
}

std::string Unit::typeset() const { return written(parts, "·", superscript); }

bool is_within_range(const Unit& unit) {
  const auto can_all = [](const std::vector<UnitPart>& parts) {
    return std::all_of(parts.begin(), parts.end(),
                       [](const UnitPart& part) { return can_be_written(part.exponent); });
  };
  return can_all(unit.parts) &&
         std::all_of(unit.dimension.terms().begin(), unit.dimension.terms().end(),
                     [](const auto& term) { return can_be_written(term.second); }) &&
         can_all(coherent(unit).parts);
}

bool same_scale(const Unit& a, const Unit& b) {
  return a.dimension == b.dimension && a.factor == b.factor && a.offset == b.offset && a.counted == b.counted;
}

bool Unit::is_count_or_rate() const {
  return dimension.is_one() || (dimension.terms().size() == 1 && dimension.terms().front().first == kTime);
}

Mismatch mismatch(const Unit& from, const Unit& to) {
  if (!(from.dimension == to.dimension)) return {true, CountFault::none};
  return {false, count_change(from.counted, to.counted, from.is_count_or_rate()).fault};
}

Mismatch mismatch_of_sides(const Unit& a, const Unit& b) {
  const Mismatch there = mismatch(a, b);
  return there ? there : mismatch(b, a);
}

Conversion conversion(const Unit& from, const Unit& to, bool difference) {
  Conversion result;
  Factor ratio = from.factor / to.factor;
  const Rational turns = count_change(from.counted, to.counted, from.is_count_or_rate()).two_pi;
  if (!turns.is_zero()) ratio = ratio * (Factor::integer(2) * Factor::pi()).power(turns);
  if (const auto fraction = ratio.fraction()) {
    result.multiply = fraction->numerator;
    result.divide = fraction->denominator;
  } else {
    result.multiply = ratio.value();
  }
  if (!difference && !(from.offset == to.offset)) {
    const Rational shift = from.offset - to.offset;
    // Offsets belong to temperature scales alone, whose factors are small fractions.
    const auto scale = to.factor.fraction().value_or(Factor::Fraction{});
    const Rational exact = shift * Rational(static_cast<std::int64_t>(scale.denominator),
                                            static_cast<std::int64_t>(scale.numerator));
    result.add = exact.value();
  }
  return result;
}

Unit product(const Unit& a, const Unit& b) { return combine(a, b, 1); }

Unit quotient(const Unit& a, const Unit& b) { return combine(a, b, -1); }

Unit power(const Unit& base, const Rational& exponent) {
  Unit result;
  if (exponent.is_zero()) return result;
  result.dimension = base.dimension.power(exponent);
  result.factor = base.factor.power(exponent);
  for (const UnitPart& part : base.parts) {
    result.parts.push_back({part.symbol, part.exponent * exponent, part.coherent});
  }
  result.counted = base.counted.power(exponent);
  return result;
}

Unit coherent(const Unit& unit) {
  Symbols symbols;
  for (const UnitPart& part : unit.parts) {
    for (const auto& [symbol, exponent] : part.coherent) merge(symbols, symbol, exponent * part.exponent);
  }
  const auto base = base_symbols(unit.dimension);
  const bool beyond =
      std::any_of(symbols.begin(), symbols.end(), [](const auto& s) { return !can_be_written(s.second); });
  if (base && (beyond || base->size() < symbols.size())) symbols = *base;
  const Counted counted = without_named_turns(paired(unit.counted, unit.is_count_or_rate()));
  if (symbols.size() > 1 && counted.all_turns().is_zero()) {
    for (const Named& named : renamable_units()) {
      const bool energy_density = std::string_view(named.symbol) == "Pa" && mentions(symbols, "J");
      if (named.dimension == unit.dimension && !energy_density) symbols = {{named.symbol, 1}};
    }
  }
  name_counted(symbols, unit, counted);
  Unit result;
  result.dimension = unit.dimension;
  result.counted = counted;
  for (const auto& [symbol, exponent] : symbols) result.parts.push_back(coherent_part(symbol, exponent));
  return result;
}

Unit difference_unit(const Unit& unit) { return unit.is_reading() ? kelvin() : unit; }

Unit step_unit(const Unit& unit) {
  if (!unit.is_reading() || unit.factor.is_one()) return difference_unit(unit);
  Unit step = unit;
  step.offset = 0;
  return step;
}

Unit kelvin() {
  Unit unit;
  unit.dimension = Dimension(kTemperature);
  unit.parts = {coherent_part("K", 1)};
  return unit;
}

Unit second() {
  Unit unit;
  unit.dimension = Dimension(kTime);
  unit.parts = {coherent_part("s", 1)};
  return unit;
}

Unit radian() {
  Unit unit;
  unit.counted.angle = 1;
  unit.parts = {{"rad", 1, {}}};
  return unit;
}

}  // namespace opensum
