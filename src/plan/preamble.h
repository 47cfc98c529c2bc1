// Quantities and texts in the lines before a table, such as `Specimen width: 12.5 mm`.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "table/number_text.h"
#include "units/unit_system.h"

namespace opensum {

/// A line that names a value.
struct PreambleLine {
  std::string name;   ///< without a unit in brackets
  std::string value;  ///< the text after it; of a quantity the number alone
  std::optional<double> number;
  std::optional<Unit> unit;
  std::string unknown_unit;  ///< what stands where the unit would, if it is none that is known
};

/// The line whose name is the one wanted, or begins with it; nothing where there is none. Reads
/// `Width: 12.5 mm`, `Width = 12.5 mm`, `Width;12.5;mm`, `Width [mm]: 12.5`, each with or without quotes.
std::optional<PreambleLine> find_in_preamble(const std::vector<std::string>& lines, std::string_view name,
                                             const NumberStyle& style, const UnitSystem& units);

/// The lines that have the form of a name and a value.
std::vector<PreambleLine> preamble_lines(const std::vector<std::string>& lines, const NumberStyle& style,
                                         const UnitSystem& units);

}  // namespace opensum
