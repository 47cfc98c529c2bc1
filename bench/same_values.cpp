// Whether two CSV files hold the same cells.
#include "same_values.h"

#include <fmt/format.h>

#include <charconv>
#include <cmath>

namespace {

std::string_view next_cell(std::string_view& text) {
  const std::size_t end = std::min(text.find_first_of(",\n"), text.size());
  const std::string_view cell = text.substr(0, end);
  text.remove_prefix(std::min(end + 1, text.size()));
  return cell;
}

bool same_cell(std::string_view one, std::string_view two) {
  if (one == two) return true;
  double a = 0;
  double b = 0;
  const auto read_a = std::from_chars(one.data(), one.data() + one.size(), a);
  const auto read_b = std::from_chars(two.data(), two.data() + two.size(), b);
  if (read_a.ec != std::errc() || read_b.ec != std::errc()) return false;
  if (read_a.ptr != one.data() + one.size() || read_b.ptr != two.data() + two.size()) return false;
  return std::fabs(a - b) <= 2e-12 * std::max(std::fabs(a), std::fabs(b));
}

}  // namespace

std::string first_difference(std::string_view one, std::string_view two) {
  std::size_t cell = 0;
  while (!one.empty() && !two.empty()) {
    const std::string_view a = next_cell(one);
    const std::string_view b = next_cell(two);
    ++cell;
    if (!same_cell(a, b)) return fmt::format("cell {}: `{}` and `{}`", cell, a, b);
  }
  if (one.size() != two.size()) return fmt::format("one has {} more bytes", std::max(one.size(), two.size()));
  return {};
}
