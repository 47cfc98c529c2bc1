// The names of columns that a test made, as equations see them.
#pragma once

#include <vector>

#include "equation/scope.h"
#include "table/column.h"

namespace opensum {

// Puts the columns into a scope; gives pointers to them in the scope's order.
template <typename Columns>
std::vector<const Column*> put_in_scope(const Columns& columns, Scope& scope) {
  std::vector<const Column*> pointers;
  for (const Column& column : columns) {
    ScopeColumn entry;
    entry.keeps_limits = true;
    entry.symbol = column.symbol;
    entry.type.kind = column.kind;
    entry.type.unit = column.unit;
    scope.columns.push_back(std::move(entry));
    pointers.push_back(&column);
  }
  return pointers;
}

}  // namespace opensum
