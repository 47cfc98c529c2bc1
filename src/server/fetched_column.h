// A column as it comes from a query, cell by cell.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "table/column.h"

namespace opensum {

/// The null whose bits a cell holds.
Null null_in(std::string_view cell);

/// Cells of a line of COPY that stand side by side: the value, why it is null, and the text as it was read.
class FetchedColumn {
 public:
  /// Without `has_why` and `has_source` the line has no such cell.
  FetchedColumn(Column& column, bool has_why, bool has_source)
      : column_(&column), has_why_(has_why), has_source_(has_source) {}

  /// Adds the cells from `at` as a row of the column, whose rows so far are `row`; gives where the next one's
  /// begin.
  std::size_t take(const std::vector<std::string>& cells, std::size_t at, std::size_t row);

 private:
  Column* column_;
  std::shared_ptr<MadeTexts> texts_;
  bool has_why_;
  bool has_source_;
};

}  // namespace opensum
