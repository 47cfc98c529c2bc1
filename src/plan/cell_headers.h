// What the headers of columns say whose cells become rows: numbers, or texts.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "base/result.h"
#include "equation/checked.h"
#include "message/diagnostic.h"
#include "model/study.h"
#include "units/unit_system.h"

namespace opensum {

/// What the header of each column says.
struct CellHeaders {
  Type type;
  std::vector<double> numbers;     ///< of numbers, in the unit of the type
  std::vector<std::string> texts;  ///< of texts
};

/// What remains of headers when the text that they have in common is taken away: `Abs 400 nm`, `Abs 410 nm`
/// are 400 and 410 in nm. They are numbers where all of them read as one. `stated` is the unit in which
/// numbers are wanted; that of the common text is converted, and one of another dimension is reported at
/// `place`. Nothing after a reported error.
Result<CellHeaders> read_cell_headers(const std::vector<std::string>& headers,
                                      const std::optional<Unit>& stated, const UnitSystem& units,
                                      const Place& place, Diagnostics& diagnostics);

/// A column as a study names it: `wavelength "Wavelength" [nm]`.
struct NamedColumn {
  std::string symbol;
  std::string label;
  std::optional<Unit> unit;
};

/// Reads the name of a column; nothing after a reported error.
Result<NamedColumn> read_named_column(const Passage& text, const UnitSystem& units, Diagnostics& diagnostics);

}  // namespace opensum
