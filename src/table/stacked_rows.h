// The rows of several long tables, left in their files and put below one another.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "table/row_source.h"

namespace opensum {

/// A column of the stack in one of the tables: the place of its cells there, or a text that stands in all
/// rows, empty where the table has no such column.
struct StackedCells {
  std::optional<std::size_t> place;
  std::string text = {};
};

/// One of the tables. Each has the same columns of the stack.
struct StackedTable {
  std::shared_ptr<const RowSource> rows;  ///< a null pointer for a table without rows
  std::vector<StackedCells> columns;
};

/// Their rows as those of one table. Places count on from table to table, and blocks lie within one; lines
/// are those of each file.
std::shared_ptr<const RowSource> stack_tables(std::vector<StackedTable> tables);

}  // namespace opensum
