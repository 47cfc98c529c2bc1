// Reading units from text. The sole entry points are UnitSystem::read and UnitSystem::define.
#include "units/unit_system.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <cstdlib>

#include "base/limits.h"
#include "message/nearest.h"
#include "units/spellings.h"

namespace opensum {
namespace {

constexpr std::size_t kLongestUnit = 200;
constexpr int kDeepestNesting = 10;

bool is_digit(char c) { return c >= '0' && c <= '9'; }

// Symbols are letters and the few signs units use; every byte of UTF-8 beyond ASCII counts as a letter.
bool is_symbol_start(char c) {
  return std::isalpha(static_cast<unsigned char>(c)) != 0 || static_cast<unsigned char>(c) >= 0x80 ||
         c == '%';
}

bool is_ascii(std::string_view text) {
  return std::all_of(text.begin(), text.end(), [](char c) { return static_cast<unsigned char>(c) < 0x80; });
}

// Whether a word is one of those that stand in a list, separated by spaces.
bool in_list(std::string_view list, std::string_view word) {
  std::string_view rest = list;
  while (!rest.empty()) {
    const std::size_t end = std::min(rest.find(' '), rest.size());
    if (rest.substr(0, end) == word) return true;
    rest.remove_prefix(std::min(end + 1, rest.size()));
  }
  return false;
}

bool takes_prefix(Prefixes prefixes, int power) {
  switch (prefixes) {
    case Prefixes::none:
      return false;
    case Prefixes::all:
      return true;
    case Prefixes::large:
      return power == 3 || power == 6 || power == 9 || power == 12;
    case Prefixes::small:
      return power == -3 || power == -6 || power == -9 || power == -12 || power == -15;
  }
  return false;
}

struct Replacement {
  std::string_view from;
  std::string_view to;
};

constexpr std::array kLookalikes = {
    Replacement{"\u03BC", "\u00B5"},  // Greek mu
    Replacement{"\u2126", "\u03A9"},  // ohm sign
    Replacement{"\u212B", "\u00C5"},  // angstrom sign
    Replacement{"\u2212", "-"},       // minus sign
    Replacement{"\u2011", "-"},       // non-breaking hyphen
    Replacement{"\u00A0", " "},       // non-breaking space
    Replacement{"\u202F", " "},       // narrow non-breaking space
    Replacement{"\u2009", " "},       // thin space
};

constexpr std::array kMultiplicationSigns = {std::string_view("\u00B7"), std::string_view("\u22C5"),
                                             std::string_view("\u2219"), std::string_view("*")};

constexpr std::array<std::string_view, 11> kSuperscripts = {"\u2070", "\u00B9", "\u00B2", "\u00B3",
                                                            "\u2074", "\u2075", "\u2076", "\u2077",
                                                            "\u2078", "\u2079", "\u207B"};

// The coherent symbols of what a unit is defined as. What is counted in them is named where a product is
// shown.
std::vector<std::pair<std::string, Rational>> coherent_symbols(const Unit& unit) {
  std::vector<std::pair<std::string, Rational>> symbols;
  for (const UnitPart& part : unit.parts) {
    for (const auto& [name, exponent] : part.coherent) symbols.emplace_back(name, exponent * part.exponent);
  }
  return symbols;
}

}  // namespace

std::string unify_lookalikes(std::string_view text) {
  std::string out;
  for (std::size_t i = 0; i < text.size();) {
    const auto* match = std::find_if(kLookalikes.begin(), kLookalikes.end(), [&](const Replacement& r) {
      return text.substr(i, r.from.size()) == r.from;
    });
    if (match != kLookalikes.end()) {
      out += match->to;
      i += match->from.size();
    } else {
      out += text[i++];
    }
  }
  return out;
}

/// The grammar of units:
///   unit    := product [ "/" factor ]
///   product := factor { [ "·" | "*" | " " ] factor }
///   factor  := ( symbol | number | "(" unit ")" ) [ exponent ]
class UnitParser {
 public:
  UnitParser(const UnitSystem& units, std::string_view text) : units_(units), text_(text) {}

  UnitReading read() {
    if (text_.size() > kLongestUnit) {
      fail(UnitFault::syntax, {0, text_.size()}, "");
      return result_;
    }
    skip_spaces();
    Unit unit;
    if (at_ == text_.size()) {
      fail(UnitFault::syntax, {0, text_.size()}, "");
    } else {
      unit = parse_unit(0);
      skip_spaces();
      if (ok() && at_ < text_.size()) fail(UnitFault::syntax, {at_, text_.size()}, text_.substr(at_));
      if (ok() && !is_within_range(unit)) fail(UnitFault::exponent, {0, text_.size()}, text_);
    }
    if (ok()) result_.unit = as_printed(std::move(unit));
    return result_;
  }

 private:
  // What is left of a product may be a temperature alone, as in `°C m/m`: it is what it is printed as.
  Unit as_printed(Unit unit) const {
    const bool alone = unit.parts.size() == 1 && unit.parts.front().exponent == 1 && unit.offset.is_zero();
    if (!alone || unit.parts.front().symbol == text_) return unit;
    const UnitReading printed = UnitParser(units_, unit.parts.front().symbol).read();
    const bool is_that = printed.unit && printed.unit->is_reading() && printed.unit->factor == unit.factor;
    return is_that ? *printed.unit : unit;
  }

  bool ok() const { return result_.fault == UnitFault::none; }
  bool at_end() const { return at_ >= text_.size(); }
  char peek() const { return at_end() ? '\0' : text_[at_]; }
  bool looking_at(std::string_view word) const { return text_.substr(at_, word.size()) == word; }

  void fail(UnitFault fault, Span span, std::string_view word) {
    if (!ok()) return;
    result_.fault = fault;
    result_.span = span;
    result_.word = std::string(word);
  }

  void skip_spaces() {
    while (peek() == ' ' || peek() == '\t') ++at_;
  }

  // `kg.m2.s-2`: a point between two symbols, as in codes for machines.
  bool at_point() const {
    return peek() == '.' && at_ > 0 && at_ + 1 < text_.size() && is_symbol_start(text_[at_ + 1]);
  }

  bool skip_multiplication_sign() {
    if (at_point()) {
      ++at_;
      return true;
    }
    for (const std::string_view sign : kMultiplicationSigns) {
      if (looking_at(sign)) {
        at_ += sign.size();
        return true;
      }
    }
    return false;
  }

  static void multiply(Unit& into, const Unit& unit, int sign) {
    if (into.is_one() && into.counted.none() && sign > 0) {
      into = unit;
      return;
    }
    // In a product degC is the interval.
    Unit left = into;
    Unit right = unit;
    left.offset = right.offset = 0;
    into = sign > 0 ? product(left, right) : quotient(left, right);
  }

  Unit parse_unit(int depth) {
    Unit unit = parse_product(depth);
    skip_spaces();
    if (!ok() || peek() != '/') return unit;
    const std::size_t solidus = at_++;
    skip_spaces();
    const Unit below = parse_factor(depth);
    if (!ok()) return unit;
    multiply(unit, below, -1);
    unit = in_range(std::move(unit), solidus);
    if (!ok()) return unit;
    skip_spaces();
    if (peek() == '/') {
      fail(UnitFault::two_solidi, {solidus, at_ + 1}, text_);
    } else if (!at_end() && peek() != ')') {
      fail(UnitFault::product_after_solidus, {solidus, text_.size()}, text_);
    }
    return unit;
  }

  Unit parse_product(int depth) {
    const std::size_t begin = at_;
    Unit unit = parse_factor(depth);
    while (ok()) {
      skip_spaces();
      const bool sign = skip_multiplication_sign();
      skip_spaces();
      if (at_end() || peek() == '/' || peek() == ')') {
        if (sign) fail(UnitFault::syntax, {at_, at_}, "");
        break;
      }
      const Unit next = parse_factor(depth);
      if (ok()) multiply(unit, next, 1);
      if (ok()) unit = in_range(std::move(unit), begin);
    }
    return unit;
  }

  Unit parse_factor(int depth) {
    const std::size_t begin = at_;
    Unit unit;
    if (peek() == '(') {
      if (at_remark()) {
        fail(UnitFault::refused, {0, text_.size()}, text_);
        result_.suggestion = kGaugeAdvice;
        return unit;
      }
      if (depth >= kDeepestNesting) {
        fail(UnitFault::syntax, {begin, text_.size()}, text_.substr(begin));
        return unit;
      }
      ++at_;
      skip_spaces();
      unit = parse_unit(depth + 1);
      skip_spaces();
      if (ok() && peek() != ')') fail(UnitFault::syntax, {begin, text_.size()}, text_.substr(begin));
      ++at_;
    } else if (is_digit(peek())) {
      unit = parse_number();
    } else if (is_symbol_start(peek())) {
      unit = parse_symbol();
    } else {
      fail(UnitFault::syntax, {begin, std::min(begin + 1, text_.size())}, text_.substr(begin, 1));
    }
    if (!ok()) return unit;
    const std::optional<Rational> exponent = parse_exponent();
    if (!ok() || !exponent) return unit;
    return in_range(power(unit, *exponent), begin);
  }

  // A unit whose exponents could not be written again is none. Those of a part may be larger, since others
  // may take from them.
  Unit in_range(Unit unit, std::size_t begin) {
    constexpr std::int64_t kMost = kMostExponent * kMostExponent;
    const auto is_small = [](const Rational& exponent) {
      return std::abs(exponent.numerator()) <= kMost && exponent.denominator() <= kMost;
    };
    const auto& terms = unit.dimension.terms();
    const bool good =
        std::all_of(unit.parts.begin(), unit.parts.end(),
                    [&](const UnitPart& part) { return is_small(part.exponent); }) &&
        std::all_of(terms.begin(), terms.end(), [&](const auto& term) { return is_small(term.second); });
    if (!good) fail(UnitFault::exponent, {begin, at_}, text_.substr(begin, at_ - begin));
    return unit;
  }

  // `bar(g)`, `psi (a)`: a remark on what a pressure counts from, no factor.
  bool at_remark() const {
    if (at_ == 0) return false;
    const std::size_t close = text_.find(')', at_);
    if (close == std::string_view::npos) return false;
    const std::string_view inside = text_.substr(at_ + 1, close - at_ - 1);
    return inside == "g" || inside == "a" || inside == "abs" || inside == "gauge";
  }

  // `deg C`, `° C`, `degrees Celsius`: a scale of temperature, when a sign for an angle stands before its
  // letter. Before any other letter, as in `deg N`, it is a direction and no unit.
  std::optional<Unit> parse_scale(std::string_view word) {
    constexpr std::array<std::string_view, 4> kDegree = {"°", "deg", "degree", "degrees"};
    if (std::find(kDegree.begin(), kDegree.end(), word) == kDegree.end()) return std::nullopt;
    std::size_t begin = at_;
    if (begin < text_.size() && text_[begin] == '.') ++begin;
    while (begin < text_.size() && text_[begin] == ' ') ++begin;
    if (begin == at_) return std::nullopt;
    std::size_t end = begin;
    while (end < text_.size() && is_symbol_start(text_[end]) && !starts_sign(end)) ++end;
    const std::string_view scale = text_.substr(begin, end - begin);
    constexpr std::array<Replacement, 8> kScales = {
        Replacement{"C", "°C"}, Replacement{"Celsius", "°C"},    Replacement{"celsius", "°C"},
        Replacement{"F", "°F"}, Replacement{"Fahrenheit", "°F"}, Replacement{"fahrenheit", "°F"},
        Replacement{"K", "K"},  Replacement{"R", "°R"}};
    const auto* found =
        std::find_if(kScales.begin(), kScales.end(), [&](const Replacement& r) { return r.from == scale; });
    if (found != kScales.end()) {
      at_ = end;
      return units_.find_symbol(found->to);
    }
    const bool direction = scale == "N" || scale == "S" || scale == "E" || scale == "W";
    if (direction)
      fail(UnitFault::unknown, {at_ - word.size(), end},
           text_.substr(at_ - word.size(), end - at_ + word.size()));
    return std::nullopt;
  }

  Unit parse_number() {
    const std::size_t begin = at_;
    while (is_digit(peek()) || peek() == '.') ++at_;
    if ((peek() == 'e' || peek() == 'E') && at_ + 1 < text_.size()) {
      const char next = text_[at_ + 1];
      const bool is_signed =
          (next == '-' || next == '+') && at_ + 2 < text_.size() && is_digit(text_[at_ + 2]);
      if (is_digit(next) || is_signed) {
        at_ += 2;
        while (is_digit(peek())) ++at_;
      }
    }
    const std::string_view word = text_.substr(begin, at_ - begin);
    // `10*9` is 10^9, as UCUM writes it.
    const bool power_of_ten =
        word == "10" && peek() == '*' && at_ + 1 < text_.size() &&
        (is_digit(text_[at_ + 1]) || ((text_[at_ + 1] == '-' || text_[at_ + 1] == '+') &&
                                      at_ + 2 < text_.size() && is_digit(text_[at_ + 2])));
    if (power_of_ten) ++at_;
    const auto factor = Factor::from_decimal(word);
    Unit unit;
    if (!factor) {
      fail(UnitFault::syntax, {begin, at_}, word);
      return unit;
    }
    unit.factor = *factor;
    if (!factor->is_one()) unit.parts = {{std::string(word), 1, {}}};
    return unit;
  }

  Unit parse_symbol() {
    const std::size_t begin = at_;
    // The longest run that could be one symbol; digits belong to it only where the whole is known.
    std::size_t end = begin;
    while (end < text_.size() && (is_symbol_start(text_[end]) || is_digit(text_[end]) || text_[end] == '_') &&
           !starts_sign(end)) {
      ++end;
    }
    // `a.u.` is the one symbol with points in it.
    if (looking_at("a.u.")) end = begin + 4;
    std::size_t letters = begin;
    while (letters < end && !is_digit(text_[letters])) ++letters;
    for (const std::size_t length : {end, letters}) {
      const std::string_view word = text_.substr(begin, length - begin);
      const auto unit = units_.is_refused(word) ? std::nullopt : units_.find_symbol(word);
      if (!unit) continue;
      at_ = length;
      note_plain_number(word);
      if (const auto scale = parse_scale(word)) return *scale;
      return *unit;
    }
    const std::string_view word = text_.substr(begin, letters - begin);
    at_ = letters;
    for (const RefusedUnit& refused : refused_units()) {
      if (word == refused.symbol) {
        fail(UnitFault::refused, {begin, letters}, word);
        result_.suggestion = refused.choices;
        return {};
      }
    }
    fail(UnitFault::unknown, {begin, end}, text_.substr(begin, end - begin));
    result_.suggestion = units_.nearest_symbol(word);
    return {};
  }

  // Superscripts and multiplication dots are letters by their bytes, yet end a symbol.
  bool starts_sign(std::size_t i) const {
    const std::string_view rest = text_.substr(i);
    const auto begins = [&](std::string_view sign) { return rest.substr(0, sign.size()) == sign; };
    return std::any_of(kMultiplicationSigns.begin(), kMultiplicationSigns.end(), begins) ||
           std::any_of(kSuperscripts.begin(), kSuperscripts.end(), begins);
  }

  void note_plain_number(std::string_view word) {
    if (word == "pH" || word == "dB") result_.plain_number = true;
  }

  std::optional<Rational> parse_exponent() {
    const std::size_t begin = at_;
    std::string digits;
    if (peek() == '^') {
      ++at_;
      const bool bracket = peek() == '(';
      if (bracket) ++at_;
      while (!at_end() && (is_digit(peek()) || peek() == '-' || peek() == '+' ||
                           (peek() == '.' && !at_point()) || (bracket && peek() == '/'))) {
        digits += text_[at_++];
      }
      if (bracket) {
        if (peek() != ')') {
          fail(UnitFault::exponent, {begin, at_}, text_.substr(begin, at_ - begin));
          return std::nullopt;
        }
        ++at_;
      }
    } else if (is_digit(peek()) ||
               ((peek() == '-' || peek() == '+') && at_ + 1 < text_.size() && is_digit(text_[at_ + 1]))) {
      digits += text_[at_++];
      while (is_digit(peek())) digits += text_[at_++];
    } else {
      for (bool found = true; found;) {
        found = false;
        for (std::size_t i = 0; i < kSuperscripts.size(); ++i) {
          if (!looking_at(kSuperscripts.at(i))) continue;
          digits += i == 10 ? '-' : static_cast<char>('0' + i);
          at_ += kSuperscripts.at(i).size();
          found = true;
        }
      }
      if (digits.empty()) return std::nullopt;
    }
    const auto exponent = read_exponent(digits);
    if (!exponent) fail(UnitFault::exponent, {begin, at_}, text_.substr(begin, at_ - begin));
    return exponent;
  }

  static std::optional<Rational> read_exponent(const std::string& digits) {
    const std::size_t solidus = digits.find('/');
    auto value = Rational::from_decimal(std::string_view(digits).substr(0, solidus));
    if (value && solidus != std::string::npos) {
      const auto below = Rational::from_decimal(std::string_view(digits).substr(solidus + 1));
      if (!below || below->is_zero()) return std::nullopt;
      value = *value / *below;
    }
    if (!value || value->is_zero() || value->denominator() > kMostExponent ||
        value->numerator() > kMostExponent || value->numerator() < -kMostExponent) {
      return std::nullopt;
    }
    return value;
  }

  const UnitSystem& units_;
  std::string_view text_;
  std::size_t at_ = 0;
  UnitReading result_;
};

UnitReading UnitSystem::read(std::string_view text) const {
  const std::string unified = unify_lookalikes(text);
  const std::size_t begin = std::min(unified.find_first_not_of(" \t"), unified.size());
  const std::size_t end = std::max(unified.find_last_not_of(" \t") + 1, begin);
  for (const UnitPhrase& phrase : unit_phrases()) {
    if (std::string_view(unified).substr(begin, end - begin) == phrase.text)
      return UnitParser(*this, phrase.unit).read();
  }
  return UnitParser(*this, unified).read();
}

UnitReading UnitSystem::define(const std::string& symbol, std::string_view definition) {
  if (definition == "base") {
    Unit unit;
    unit.dimension = Dimension(next_base_++);
    unit.parts = {{symbol, 1, {{symbol, 1}}}};
    own_[symbol] = unit;
    UnitReading reading;
    reading.unit = unit;
    return reading;
  }
  UnitReading reading = read(definition);
  if (!reading.unit) return reading;
  Unit unit = *reading.unit;
  UnitPart part{symbol, 1, {}};
  part.coherent = coherent_symbols(unit);
  unit.parts = {part};
  unit.offset = 0;
  own_[symbol] = unit;
  reading.unit = unit;
  return reading;
}

bool UnitSystem::knows(std::string_view symbol) const { return find_symbol(symbol).has_value(); }

bool UnitSystem::may_define(std::string_view symbol) const {
  if (own_.contains(std::string(symbol))) return false;
  const CatalogueUnit* entry = find_catalogue(symbol);
  if (entry != nullptr) return std::string_view(entry->quantity) == "plain number";
  return !find_prefixed(symbol);
}

const CatalogueUnit* UnitSystem::find_catalogue(std::string_view symbol) const {
  for (const CatalogueUnit& entry : catalogue_units()) {
    if (symbol == entry.symbol || in_list(entry.aliases, symbol)) return &entry;
  }
  return nullptr;
}

Unit UnitSystem::build(const CatalogueUnit& entry, std::string_view spelling) const {
  const std::string_view symbol = entry.symbol;
  Unit unit;
  // Spellings that stand in for a sign which keyboards lack are printed with the sign: degC as °C.
  UnitPart part{std::string(is_ascii(symbol) ? spelling : symbol), 1, {}};
  if (*entry.definition == '\0') {
    constexpr std::array<std::string_view, 7> kBases = {"m", "g", "s", "A", "K", "mol", "cd"};
    const auto base = std::find(kBases.begin(), kBases.end(), symbol) - kBases.begin();
    unit.dimension = Dimension(static_cast<BaseQuantity>(base));
    if (symbol == "g") unit.factor = Factor::ten_to(-3);
    part.coherent = {{symbol == "g" ? "kg" : std::string(symbol), 1}};
  } else {
    unit = *read(entry.definition).unit;
    part.coherent = coherent_symbols(unit);
    if (symbol == "°C") {
      unit.offset = Rational(5463, 20);  // 273.15 K
    } else if (symbol == "°F") {
      unit.factor = Factor::integer(5) / Factor::integer(9);
      unit.offset = Rational(45967, 180);  // 459.67 * 5/9 K
    } else if (symbol == "°") {
      unit.factor = Factor::pi() / Factor::integer(180);
    } else if (symbol == "gon") {
      unit.factor = Factor::pi() / Factor::integer(200);
    } else if (symbol == "Oe") {
      unit.factor = Factor::integer(250) / Factor::pi();
    } else if (symbol == "arcmin") {
      unit.factor = Factor::pi() / Factor::integer(10'800);
    } else if (symbol == "arcsec") {
      unit.factor = Factor::pi() / Factor::integer(648'000);
    }
    if (symbol == "r") unit.counted.turns = 1;
    if (symbol == "Hz") unit.counted.cycles = 1;
    if (symbol == "Bq") unit.counted.decays = 1;
    if (symbol == "rad") unit.counted.angle = 1;
    // What is counted is named by the form that a product is shown in.
    const bool coherent_name =
        unit.factor.is_one() && !unit.is_dimensionless() && unit.counted.none() && !unit.is_reading();
    if (coherent_name) part.coherent = {{std::string(symbol), 1}};
  }
  unit.parts = {part};
  return unit;
}

std::optional<Unit> UnitSystem::find_whole(std::string_view symbol) const {
  const auto own = own_.find(std::string(symbol));
  if (own != own_.end()) return own->second;
  const CatalogueUnit* entry = find_catalogue(symbol);
  if (entry == nullptr) return std::nullopt;
  return build(*entry, symbol);
}

bool UnitSystem::is_refused(std::string_view symbol) const {
  return !own_.contains(std::string(symbol)) &&
         std::any_of(refused_units().begin(), refused_units().end(),
                     [&](const RefusedUnit& refused) { return symbol == refused.symbol; });
}

std::optional<Unit> UnitSystem::find_word(std::string_view written) const {
  // `Seconds` at the beginning of a header.
  std::string word(written);
  if (word.size() > 1 && std::islower(static_cast<unsigned char>(word[1])) != 0)
    word[0] = static_cast<char>(std::tolower(static_cast<unsigned char>(word[0])));
  const auto unit_of = [](std::string_view wanted) -> const char* {
    for (const UnitWords& words : unit_words()) {
      if (in_list(words.words, wanted)) return words.unit;
    }
    return nullptr;
  };
  if (const char* unit = unit_of(word)) return read(unit).unit;
  for (const CataloguePrefix& prefix : catalogue_prefixes()) {
    const std::string_view name = prefix.name;
    if (!std::string_view(word).starts_with(name)) continue;
    const char* unit = unit_of(std::string_view(word).substr(name.size()));
    if (unit != nullptr && find_catalogue(unit) != nullptr)
      return find_prefixed(std::string(prefix.symbol) + unit);
  }
  return std::nullopt;
}

std::optional<Unit> UnitSystem::find_symbol(std::string_view symbol) const {
  if (auto whole = find_whole(symbol)) return whole;
  if (auto prefixed = find_prefixed(symbol)) return prefixed;
  return find_word(symbol);
}

std::optional<Unit> UnitSystem::find_prefixed(std::string_view symbol) const {
  for (const CataloguePrefix& prefix : catalogue_prefixes()) {
    const std::string_view sign = prefix.symbol;
    if (symbol.size() <= sign.size() || symbol.substr(0, sign.size()) != sign) continue;
    const CatalogueUnit* entry = find_catalogue(symbol.substr(sign.size()));
    if (entry == nullptr || !takes_prefix(entry->prefixes, prefix.power_of_ten)) continue;
    Unit unit = build(*entry, symbol.substr(sign.size()));
    unit.factor = unit.factor * Factor::ten_to(prefix.power_of_ten);
    unit.parts.front().symbol.insert(0, sign == "u" ? "µ" : sign);
    return unit;
  }
  return std::nullopt;
}

std::string UnitSystem::nearest_symbol(std::string_view symbol) const {
  for (const NearlyUnit& nearly : nearly_units()) {
    if (symbol == nearly.spelling) return nearly.unit;
  }
  static const std::vector<std::string> kCatalogue = UnitSystem().spellings();
  std::vector<std::string> candidates;
  for (const auto& [name, unit] : own_) candidates.push_back(name);
  const std::string own = nearest_name(symbol, candidates);
  const std::string other = nearest_name(symbol, kCatalogue);
  if (own.empty() || other.empty()) return own.empty() ? other : own;
  return edit_distance(symbol, own) <= edit_distance(symbol, other) ? own : other;
}

std::vector<std::string> UnitSystem::spellings() const {
  std::vector<std::string> candidates;
  for (const CatalogueUnit& entry : catalogue_units()) {
    candidates.emplace_back(entry.symbol);
    for (std::string_view rest = entry.aliases; !rest.empty();) {
      const std::size_t end = std::min(rest.find(' '), rest.size());
      candidates.emplace_back(rest.substr(0, end));
      rest.remove_prefix(std::min(end + 1, rest.size()));
    }
    if (entry.prefixes == Prefixes::none) continue;
    for (const char* prefix : {"k", "m", "c", "µ", "n", "M", "h", "G"}) {
      std::string prefixed = std::string(prefix) + entry.symbol;
      if (find_symbol(prefixed)) candidates.push_back(std::move(prefixed));
    }
  }
  return candidates;
}

std::string UnitSystem::meant_by(std::string_view raw) const {
  const std::string text = unify_lookalikes(raw);
  for (const NearlyUnit& nearly : nearly_units()) {
    if (text == nearly.spelling) return nearly.unit;
  }
  // Replace one wrong symbol after the other, as long as what comes out is a different text.
  std::string candidate = text;
  for (int attempt = 0; attempt < 3; ++attempt) {
    const UnitReading reading = read(candidate);
    if (reading.unit) return candidate == text ? std::string() : candidate;
    if (reading.fault != UnitFault::unknown || reading.word.empty() || reading.suggestion.empty()) return {};
    const std::size_t word_at = candidate.find(reading.word);
    if (word_at == std::string::npos) return {};
    // A bracketed word is often no unit at all: only a differently cased or listed spelling is meant.
    const bool listed = std::any_of(nearly_units().begin(), nearly_units().end(),
                                    [&](const NearlyUnit& n) { return reading.word == n.spelling; });
    if (!listed && edit_distance(reading.word, reading.suggestion) >= 1) return {};
    candidate.replace(word_at, reading.word.size(), reading.suggestion);
  }
  return {};
}

std::vector<const CatalogueUnit*> units_of_dimension(const UnitSystem& units, const Dimension& dimension) {
  std::vector<const CatalogueUnit*> found;
  for (const CatalogueUnit& entry : catalogue_units()) {
    const UnitReading reading = units.read(entry.symbol);
    if (reading.unit && reading.unit->dimension == dimension) found.push_back(&entry);
  }
  return found;
}

}  // namespace opensum
