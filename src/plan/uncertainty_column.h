// The column that states the standard uncertainty of another.
#pragma once

#include "equation/scope.h"

namespace opensum {

/// The column with the header `u(…)` around the label or the symbol of a column; nothing where there is none.
std::optional<std::size_t> uncertainty_column(const Scope& scope, std::size_t column);

}  // namespace opensum
