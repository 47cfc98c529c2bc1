// Tables of results, compared cell by cell.
#pragma once

#include <string>
#include <vector>

namespace opensum {

struct Csv {
  std::vector<std::string> header;
  std::vector<std::vector<std::string>> rows;
};

/// The records of a CSV file as it is written by runs.
Csv read_csv(const std::string& text);

/// Whether two cells are the same text, or numbers that agree to 2e-12 of the larger one.
bool same_to_12_digits(const std::string& a, const std::string& b);

/// Compares two files of results and fails the test where cells differ; how many cells there are.
std::size_t compare_cells(const std::string& name, const std::string& here, const std::string& there);

}  // namespace opensum
