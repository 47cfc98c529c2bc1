// The units a study can use: reading them from text, units of one's own, and suggestions.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "message/source.h"
#include "units/catalogue.h"
#include "units/unit.h"

namespace opensum {

/// Why a text is no unit.
enum class UnitFault : std::uint8_t {
  none,
  unknown,                ///< a symbol that nobody defined
  refused,                ///< a symbol with several meanings
  two_solidi,             ///< a/b/c
  product_after_solidus,  ///< kJ/kg K
  exponent,               ///< an exponent that cannot be read
  syntax,                 ///< anything else
};

/// What reading a unit gave: the unit, or the fault with its span in the text.
struct UnitReading {
  std::optional<Unit> unit;
  UnitFault fault = UnitFault::none;
  Span span;
  std::string word;           ///< the symbol that is at fault
  std::string suggestion;     ///< the nearest right spelling or the choices; may be empty
  bool plain_number = false;  ///< the unit is pH or dB, whose values are plain numbers here
};

class UnitSystem {
 public:
  /// Reads a unit such as `kJ/(kg K)`, `m s^-2`, `µm` or `1`.
  UnitReading read(std::string_view text) const;

  /// Defines a unit of one's own: `base` makes a new base quantity, anything else is a unit, with a number
  /// before it if need be. The fault says what is wrong with the definition.
  UnitReading define(const std::string& symbol, std::string_view definition);

  /// True where a symbol (with or without prefix) is taken.
  bool knows(std::string_view symbol) const;

  /// True where a symbol can be defined: nobody has it, or only a plain number with a name or a word for a
  /// unit, which then give way.
  bool may_define(std::string_view symbol) const;

  /// The unit that a text outside the rules plainly means (`Kw`: kW, `oC`: °C); empty when
  /// there is none.
  std::string meant_by(std::string_view text) const;

  const std::map<std::string, Unit>& own_units() const { return own_; }

 private:
  std::optional<Unit> find_symbol(std::string_view symbol) const;
  std::optional<Unit> find_whole(std::string_view symbol) const;
  std::optional<Unit> find_prefixed(std::string_view symbol) const;
  std::optional<Unit> find_word(std::string_view word) const;
  bool is_refused(std::string_view symbol) const;
  const CatalogueUnit* find_catalogue(std::string_view symbol) const;
  Unit build(const CatalogueUnit& entry, std::string_view spelling) const;
  std::string nearest_symbol(std::string_view symbol) const;
  /// The symbols and words of the catalogue, with the usual prefixes, that a misspelt one may mean.
  std::vector<std::string> spellings() const;

  std::map<std::string, Unit> own_;
  BaseQuantity next_base_ = kFirstOwnBase;
  friend class UnitParser;
};

/// The look-alikes of µ, Ω and Å and the typographic minus, in one form.
std::string unify_lookalikes(std::string_view text);

/// The catalogue's units that can stand for the same dimension.
std::vector<const CatalogueUnit*> units_of_dimension(const UnitSystem& units, const Dimension& dimension);

}  // namespace opensum
