// The order of rows by the values of columns.
#include "compute/sorting.h"

#include <algorithm>
#include <numeric>

namespace opensum {
namespace {

// Negative when row a comes before row b, positive when after, zero when neither.
int compared(const SortColumn& by, std::size_t a, std::size_t b) {
  const Column& column = *by.column;
  const bool null_a = static_cast<bool>(column.null(a));
  const bool null_b = static_cast<bool>(column.null(b));
  if (null_a || null_b) return static_cast<int>(null_a) - static_cast<int>(null_b);
  int order = 0;
  if (column.kind == Kind::text) {
    order = column.text(a).compare(column.text(b));
  } else {
    const double x = column.number(a);
    const double y = column.number(b);
    order = x < y ? -1 : x > y ? 1 : 0;
  }
  return by.down ? -order : order;
}

}  // namespace

std::vector<std::size_t> sorted_rows(const std::vector<SortColumn>& columns, std::size_t rows) {
  std::vector<std::size_t> order(rows);
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
    for (const SortColumn& column : columns) {
      if (const int result = compared(column, a, b); result != 0) return result < 0;
    }
    return false;
  });
  return order;
}

}  // namespace opensum
