// Programs of the equation language as SQL: row by row, with our reasons for nulls and never an error of the
// server's.
#pragma once

#include <vector>

#include "equation/program.h"
#include "sql/operands.h"

namespace opensum {

/// The value of a program, by its operands. Throws NotInSql.
SqlValue sql_value(const Program& program, const SqlOperands& operands,
                   std::vector<SqlLeftOut>* left_out = nullptr);

/// A number in another unit. Throws NotInSql.
SqlValue converted(const SqlValue& value, const Conversion& conversion, OriginId own);

}  // namespace opensum
