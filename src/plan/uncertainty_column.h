// The column that states the standard uncertainty of another.
#pragma once

#include "equation/scope.h"

namespace opensum {

/// The column with the header `u(…)` around the label or the symbol of a column; -1 where there is none.
int uncertainty_column(const Scope& scope, std::size_t column);

}  // namespace opensum
