// Numbers as people and instruments write them in cells, beyond plain ones.
#pragma once

#include <optional>
#include <string>
#include <string_view>

#include "table/number_text.h"

namespace opensum {

/// A number in another form than a plain one.
struct NumberForm {
  std::string plain;  ///< the same as a plain decimal number: `1.5e3` for `1.5×10^3`
  /// Of `5.0(1)` and `5.0 ± 0.1`: that behind it, 0.1 of both, as a plain decimal number; else empty.
  std::string uncertainty;
};

/// Whether a text holds a letter that no number of any form has: most texts do.
bool has_foreign_letter(std::string_view text, const NumberStyle& style);

/// Reads `−1.5` (with a minus sign proper), `1.5×10^3`, `1.5 x 10³`, `5.0(1)`, `5.0 ± 0.1`, and in a column
/// of percents `5 %`. Nothing for anything else.
std::optional<NumberForm> read_number_form(std::string_view cell, const NumberStyle& style, bool percent);

/// The uncertainty that a cell states of its number; NaN where it states none.
double uncertainty_in_cell(std::string_view cell, const NumberStyle& style, bool percent);

}  // namespace opensum
