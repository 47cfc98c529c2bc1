// The order of rows by the values of columns.
#pragma once

#include <vector>

#include "table/column.h"

namespace opensum {

/// A column to sort by, upwards or down. Texts go by their bytes, false before true.
struct SortColumn {
  const Column* column = nullptr;
  bool down = false;
};

/// The rows in order: by the first column, among equals by the next; rows that are equal in all stay as they
/// were. Nulls come last, upwards and down.
std::vector<std::size_t> sorted_rows(const std::vector<SortColumn>& columns, std::size_t rows);

}  // namespace opensum
