// Tables of results, compared cell by cell.
#include "program/csv_cells.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <map>

namespace opensum {

Csv read_csv(const std::string& text) {
  Csv csv;
  std::vector<std::string> fields(1);
  bool quoted = false;
  for (const char c : text) {
    if (c == '"') {
      quoted = !quoted;
    } else if (c == ',' && !quoted) {
      fields.emplace_back();
    } else if (c == '\n' && !quoted) {
      if (csv.header.empty()) {
        csv.header = fields;
      } else {
        csv.rows.push_back(fields);
      }
      fields.assign(1, "");
    } else if (c != '\r' || quoted) {
      fields.back() += c;
    }
  }
  return csv;
}

bool same_to_12_digits(const std::string& a, const std::string& b) {
  // A limit is a null, which other formats hold as such.
  const auto is_limit = [](const std::string& cell) {
    return cell.starts_with('<') || cell.starts_with('>');
  };
  if (a == b || (is_limit(a) && b.empty()) || (a.empty() && is_limit(b))) return true;
  char* end_a = nullptr;
  char* end_b = nullptr;
  const double x = std::strtod(a.c_str(), &end_a);
  const double y = std::strtod(b.c_str(), &end_b);
  if (a.empty() || b.empty() || *end_a != 0 || *end_b != 0) return false;
  return std::fabs(x - y) <= 2e-12 * std::max(std::fabs(x), std::fabs(y));
}

std::size_t compare_cells(const std::string& name, const std::string& here, const std::string& there) {
  const Csv a = read_csv(here);
  const Csv b = read_csv(there);
  EXPECT_EQ(a.header, b.header) << name;
  EXPECT_EQ(a.rows.size(), b.rows.size()) << name;
  std::map<std::string, int> differing;
  std::size_t cells = 0;
  for (std::size_t row = 0; row < std::min(a.rows.size(), b.rows.size()); ++row) {
    for (std::size_t i = 0; i < std::min(a.rows[row].size(), b.rows[row].size()); ++i) {
      ++cells;
      const std::string& column = a.header[i];
      if (!same_to_12_digits(a.rows[row][i], b.rows[row][i]) && differing[column]++ < 3) {
        ADD_FAILURE() << name << " row " << row + 1 << ": " << column << " is " << b.rows[row][i]
                      << " there and " << a.rows[row][i] << " here";
      }
    }
  }
  return cells;
}

}  // namespace opensum
