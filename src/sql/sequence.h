// Functions of the sequence of rows as windows of SQL.
#pragma once

#include <string>
#include <vector>

#include "equation/program.h"
#include "sql/value.h"

namespace opensum {

/// The function of a value over the rows in the order of `place`, within groups of the same keys. Throws
/// NotInSql.
SqlValue sql_sequence(const Stage& stage, const SqlValue& value, OriginId own,
                      const std::vector<std::string>& keys, const std::string& place, double rows);

}  // namespace opensum
