// A column as it comes from a query, cell by cell.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "table/column.h"

namespace opensum {

/// The null whose bits a cell holds.
Null null_in(std::string_view cell);

/// The cells of a value that stand side by side in a line of COPY, beside the value itself.
struct CellsBeside {
  bool why = false;     ///< why it is null
  bool source = false;  ///< its text as it was read
};

class FetchedColumn {
 public:
  FetchedColumn(Column& column, CellsBeside beside) : column_(&column), beside_(beside) {}

  /// Adds the cells from `at` as a row of the column, whose rows so far are `row`; gives where the next one's
  /// begin.
  std::size_t take(const std::vector<std::string>& cells, std::size_t at, std::size_t row);

 private:
  Column* column_;
  std::shared_ptr<MadeTexts> texts_;
  CellsBeside beside_;
};

}  // namespace opensum
