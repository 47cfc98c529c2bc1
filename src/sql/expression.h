// Programs of the equation language as SQL: row by row, with our reasons for nulls and never an error of the
// server's.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "equation/program.h"
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

/// The value of a program, by its operands. Throws NotInSql.
SqlValue sql_value(const Program& program, const SqlOperands& operands,
                   std::vector<SqlLeftOut>* left_out = nullptr);

/// A null of a reason that begins in a column.
std::string sql_null(Reason reason, OriginId own);

/// A number in another unit. Throws NotInSql.
SqlValue converted(const SqlValue& value, const Conversion& conversion, OriginId own);

}  // namespace opensum
