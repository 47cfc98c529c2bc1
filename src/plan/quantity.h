// A number with its unit, as a study writes it in one text: `5 kW`, `20 s`, `3`.
#pragma once

#include <optional>
#include <string>

#include "units/unit_system.h"

namespace opensum {

struct Quantity {
  double value = 0;
  Unit unit;
  bool unit_stated = false;
};

/// Reads such a text; the unit may stand in square brackets. Nothing where it is of another form.
std::optional<Quantity> read_quantity(const std::string& text, const UnitSystem& units);

}  // namespace opensum
