// Cells as they are shown and written.
#pragma once

#include <string>
#include <string_view>

#include "table/column.h"

namespace opensum {

/// The text of a cell: measured ones as they were read where that is a plain number or an ISO date, derived
/// ones with the column's digits. A null is empty.
std::string cell_text(const Column& column, std::size_t row);

/// A text of a chunk, a measured one as its bytes are in the source.
std::string_view text_as_read(const Chunk& chunk, std::size_t i);

/// Appends the text of a known cell that is no text.
void append_value(std::string& out, const Column& column, const Chunk& chunk, std::size_t i);

/// A null cell such as `<0.05` as it was read, with a point for the decimal sign; empty for all others.
std::string limit_text(const Column& column, std::size_t row);

}  // namespace opensum
