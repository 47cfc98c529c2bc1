// The column that states the standard uncertainty of another.
#include "plan/uncertainty_column.h"

namespace opensum {

std::optional<std::size_t> uncertainty_column(const Scope& scope, std::size_t column) {
  const ScopeColumn& own = scope.columns[column];
  for (std::size_t i = 0; i < scope.columns.size(); ++i) {
    const std::string& label = scope.columns[i].label;
    if (label == "u(" + own.label + ")" || label == "u(" + own.symbol + ")") return scope.meant_by(i);
  }
  return std::nullopt;
}

}  // namespace opensum
