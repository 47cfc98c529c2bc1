// The plain evaluator: walks a checked tree for one row at a time. Slow and simple; the fast one must agree
// with it bit for bit, null reasons and origins included.
#pragma once

#include <string>
#include <vector>

#include "equation/checked.h"
#include "table/column.h"

namespace opensum::reference {

struct Value {
  double number = 0;
  std::string text;
  Null null;
};

/// The value of a tree in one row. `own` is the origin of nulls that begin in the result.
Value evaluate(const Checked& node, const std::vector<const Column*>& columns, std::size_t row, OriginId own);

}  // namespace opensum::reference
