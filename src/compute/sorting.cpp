// The order of rows by the values of columns.
#include "compute/sorting.h"

#include <algorithm>
#include <numeric>
#include <utility>

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
    const Instant x = column.instant(a);
    const Instant y = column.instant(b);
    order = x < y ? -1 : x > y ? 1 : 0;
  }
  return by.down ? -order : order;
}

// The rows by one column of numbers, dates or truths: its values are gathered, so that comparing two rows
// looks at nothing else.
std::vector<std::size_t> sorted_by_numbers(const SortColumn& by, std::size_t rows) {
  std::vector<std::pair<Instant, std::size_t>> known;
  std::vector<std::size_t> nulls;
  known.reserve(rows);
  for (std::size_t row = 0; row < rows; ++row) {
    if (by.column->null(row)) {
      nulls.push_back(row);
    } else {
      known.emplace_back(by.column->instant(row), row);
    }
  }
  std::sort(known.begin(), known.end(), [&](const auto& a, const auto& b) {
    if (a.first != b.first) return by.down ? a.first > b.first : a.first < b.first;
    return a.second < b.second;
  });
  std::vector<std::size_t> order;
  order.reserve(rows);
  for (const auto& [value, row] : known) order.push_back(row);
  order.insert(order.end(), nulls.begin(), nulls.end());
  return order;
}

}  // namespace

std::vector<std::size_t> sorted_rows(const std::vector<SortColumn>& columns, std::size_t rows) {
  if (columns.size() == 1 && columns.front().column->kind != Kind::text)
    return sorted_by_numbers(columns.front(), rows);
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
