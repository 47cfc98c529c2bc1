// Other spellings of units: words that mean one, and those that mean several or are near to one.
#pragma once

#include <span>

namespace opensum {

/// Words for a unit, separated by spaces; they are shown as the unit's symbol.
struct UnitWords {
  const char* words;
  const char* unit;
};

/// A whole text with spaces that means a unit.
struct UnitPhrase {
  const char* text;
  const char* unit;
};

/// A spelling that means different things to different people, and what to write instead.
struct RefusedUnit {
  const char* symbol;
  const char* choices;
};

/// A spelling that is not a unit here but plainly means one.
struct NearlyUnit {
  const char* spelling;
  const char* unit;
};

/// What to write instead of a pressure with a remark on what it counts from.
constexpr const char* kGaugeAdvice =
    "the unit alone; where zero is the pressure of the air, add that pressure in the equations";

std::span<const UnitWords> unit_words();
std::span<const UnitPhrase> unit_phrases();
std::span<const RefusedUnit> refused_units();
std::span<const NearlyUnit> nearly_units();

}  // namespace opensum
