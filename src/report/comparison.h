// What two tables, or two folders of results, have unlike: as text for people and as JSON for programs.
#pragma once

#include <cstddef>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace opensum {

/// A cell that differs: which row, and what stands there.
struct DifferingCell {
  std::string row;  ///< `row 7`, or `code C-4` where rows are found by keys
  std::string before;
  std::string after;
};

/// What became of a column.
struct ColumnComparison {
  std::string symbol;
  std::string unit;         ///< in which differences are given
  std::string unit_before;  ///< where the two have unlike ones
  std::string unit_after;
  std::string incomparable;   ///< why its values cannot be compared, in words
  std::size_t compared = 0;   ///< rows that both have
  std::size_t differing = 0;  ///< cells that are not the same, nulls among them
  std::size_t became_null = 0;
  std::size_t became_known = 0;
  std::optional<double> greatest;  ///< difference of numbers or, in s, of dates
  std::optional<double> relative;  ///< the same as a share of the greater of the two values
  DifferingCell worst;             ///< where it is the greatest, else the first
  bool same() const { return differing == 0 && incomparable.empty(); }
};

struct TableComparison {
  std::string name;
  std::size_t rows_before = 0;
  std::size_t rows_after = 0;
  std::vector<std::string> rows_gone;  ///< the first few, and how many there are
  std::vector<std::string> rows_come;
  std::size_t gone = 0;
  std::size_t come = 0;
  std::vector<std::string> columns_gone;
  std::vector<std::string> columns_come;
  std::vector<ColumnComparison> columns;
  bool same() const;
};

/// A text that was one thing and is another: an equation, a constant, a file. Empty where there was or is
/// none.
struct ChangedText {
  std::string name;
  std::string before;
  std::string after;
};

struct Comparison {
  std::string before;  ///< what is compared
  std::string after;
  std::vector<ChangedText> versions;
  std::vector<ChangedText> constants;
  std::vector<ChangedText> equations;
  std::vector<ChangedText> inputs;      ///< by path: their SHA-256
  std::vector<std::string> files_gone;  ///< tables and figures
  std::vector<std::string> files_come;
  std::vector<std::string> figures;  ///< that are not the same
  std::vector<TableComparison> tables;
  /// Whether what was computed is the same: tables and which files there are. Figures and texts follow.
  bool same() const;
};

/// The comparison as people read it: what changed, then what that did.
std::string comparison_text(const Comparison& comparison);

/// The same as JSON.
std::string comparison_json(const Comparison& comparison);

}  // namespace opensum
