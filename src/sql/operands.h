// What expressions in SQL are made of: where they find their operands.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "sql/value.h"

namespace opensum {

/// What the expressions of one column left to be counted.
struct SqlLeftOut {
  std::string nulls;  ///< how many nulls a reduction along the row left out in a row
};

/// Where an expression finds its operands.
struct SqlOperands {
  std::function<SqlValue(std::size_t column)> column;  ///< by index in the scope
  std::vector<SqlValue> stages;                        ///< what functions of whole columns give
  OriginId own = 0;                                    ///< the origin of nulls that begin here
};

}  // namespace opensum
