// The column that states the standard uncertainty of another.
#include "plan/uncertainty_column.h"

namespace opensum {

std::optional<std::size_t> uncertainty_column(const Scope& scope, std::size_t column) {
  const ScopeColumn& own = scope.columns[column];
  for (std::size_t i = 0; i < scope.columns.size(); ++i) {
    std::string_view label = scope.columns[i].label;
    // Among thousands of columns few are of this form.
    if (!label.starts_with("u(") || !label.ends_with(")")) continue;
    label = label.substr(2, label.size() - 3);
    if (label == own.label || label == own.symbol) return scope.meant_by(i);
  }
  return std::nullopt;
}

}  // namespace opensum
