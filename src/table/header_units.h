// Which of what stands in the headers of a table is a unit, and which is part of a name.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "units/unit_system.h"

namespace opensum {

/// What is to be said of the text in a header's brackets, or after its solidus.
enum class HeaderDoubt : std::uint8_t {
  none,
  nearly_unit,   ///< no unit, but plainly a slip for one
  either,        ///< as likely a unit as part of the name; no unit is taken
  unknown_unit,  ///< has the form of a unit and is none that is known
  label,         ///< a unit by itself, but the headers show that it tells names apart
  plain_number,  ///< pH and dB: taken, as plain numbers
};

struct HeaderReading {
  std::string label;
  Unit unit;
  bool unit_stated = false;
  HeaderDoubt doubt = HeaderDoubt::none;
  std::string bracketed;  ///< the text in question
  std::string meant;      ///< the unit it may mean
  std::string choices;    ///< for a unit with several meanings: what to write instead
};

/// Reads headers such as `Flow [L/min]`, `Mass (g)`, `Flow / (L/min)`, `t/°C`. What stands in brackets at the
/// end or after the solidus is the unit where all of it reads as one that people use. It is part of the
/// label where headers are alike but for it and not all of these are units of one dimension (`Cell (A)`,
/// `Cell (B)`), or where both sides of a solidus have the form of a name (`T1/T2`). `C` and `F` are scales
/// where the label speaks of a temperature, and doubted elsewhere.
std::vector<HeaderReading> read_headers(const std::vector<std::string>& headers, const UnitSystem& units);

/// A unit that a text by itself is taken for in a header or a units row: nothing where symbols run together
/// or a prefix that nobody uses would make one up (`RH`, `PV`, `ZN`).
UnitReading read_header_unit(std::string_view text, const UnitSystem& units);

}  // namespace opensum
