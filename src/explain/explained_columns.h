// The columns that an explanation looks at.
#pragma once

#include <optional>

#include "engine/executor.h"

namespace opensum {

/// What must be held to explain a column of a sheet: its values, and the lines of rows in which nulls may
/// have begun.
std::vector<LastWishes> wishes_of_column(const StudyRun& run, std::size_t sheet, std::size_t column);

/// What must be held to explain a cell: the column, everything from which it follows, in whichever sheet, the
/// lines of their rows, which rows links lead to and which gaps were filled. Where the row is known
/// beforehand, of columns from which the cell follows in its own row no more than the chunk of that is.
std::vector<LastWishes> wishes_of_cell(const StudyRun& run, std::size_t sheet, std::size_t column,
                                       std::optional<std::size_t> row);

}  // namespace opensum
