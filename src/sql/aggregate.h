// Functions of whole columns as aggregates of SQL.
#pragma once

#include <string>
#include <utility>
#include <vector>

#include "equation/program.h"
#include "sql/expression.h"

namespace opensum {

/// What a query over all rows, or over those of each group, gives of a function, and its value by these.
struct SqlAggregate {
  std::vector<std::pair<std::string, std::string>> columns;  ///< names (quoted) and what they are
  SqlValue value;
  std::string known;  ///< the names of how many values were known, of how many
  std::string met;
  bool leaves_out = false;  ///< whether it is said how many were left out
};

/// The aggregate of a function; `name` begins the names of its columns. `rows` bounds the number of rows,
/// `place` is the column that says where a row stands, empty where none does. Throws NotInSql.
SqlAggregate sql_aggregate(const Stage& stage, const SqlOperands& operands, const std::string& name,
                           double rows, const std::string& place);

}  // namespace opensum
