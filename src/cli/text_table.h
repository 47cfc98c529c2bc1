// Aligned, framed tables for the terminal.
#pragma once

#include <string>
#include <vector>

namespace opensum {

/// A table of texts: headings, and rows of as many cells. Numbers are set to the right.
class TextTable {
 public:
  struct Heading {
    std::string text;
    bool right = false;
    /// Where the terminal is too narrow, columns of the least weight go first, the last of them before
    /// others.
    int weight = 0;
  };
  explicit TextTable(std::vector<Heading> headings) : headings_(std::move(headings)) {}
  void add(std::vector<std::string> row) { rows_.push_back(std::move(row)); }
  /// A thin line across, such as between the first and the last rows of a file.
  void add_gap() { rows_.emplace_back(); }

  /// The table, no wider than `width` columns of the terminal: columns that do not fit are left out, those of
  /// least weight first, and a line below says which.
  std::string text(std::size_t width) const;
  /// The whole table in several below one another, of as many columns as fit beside the first; of very many
  /// the first ones, and a line that says how many are left.
  std::string pages(std::size_t width) const;
  /// The whole table as Markdown.
  std::string markdown() const;

 private:
  std::vector<std::size_t> all_widths() const;
  std::string framed(const std::vector<std::size_t>& shown, const std::vector<std::size_t>& all_widths) const;
  /// The columns that fit into a width, at least one.
  std::vector<std::size_t> fitting(const std::vector<std::size_t>& widths, std::size_t width) const;

  std::vector<Heading> headings_;
  std::vector<std::vector<std::string>> rows_;
};

}  // namespace opensum
