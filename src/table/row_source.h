// The rows of a long table that are left in their file and read a block at a time.
#pragma once

#include <cstddef>
#include <deque>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace opensum {

/// Some consecutive rows as text.
struct RawRows {
  std::vector<std::vector<std::string_view>> columns;  ///< one cell per row
  std::vector<std::size_t> lines;                      ///< the line of each row, from 1
  std::deque<std::string> unquoted;                    ///< fields whose doubled quotes were undone
  std::size_t table = 0;                               ///< in which of several tables they stand
  bool bare = false;   ///< nothing in them but cells, delimiters and single line ends: no quotes
  bool ascii = false;  ///< all their bytes are ASCII

  std::size_t rows() const { return lines.size(); }
};

/// Rows between two places of a file.
struct RowBlock {
  std::size_t begin = 0;       ///< the first byte
  std::size_t end = 0;         ///< the byte after it
  std::size_t first_line = 1;  ///< of the file
  std::size_t first_row = 0;   ///< among all rows that are kept
  std::size_t rows = 0;        ///< that are kept
  std::size_t first_source_row = 0;
  std::size_t source_rows = 0;
};

/// Reads rows anywhere in a file; several threads may do so at a time.
class RowSource {
 public:
  virtual ~RowSource() = default;

  /// The line of the row that is sure to begin at a place; nothing where none is sure to.
  virtual std::optional<std::size_t> line_at(std::size_t place) const = 0;
  /// Places between which blocks may lie, the first row and the end among them. The first is sure to be the
  /// begin of a row.
  virtual std::vector<std::size_t> cuts() const = 0;

  /// Where reading ended.
  struct Reading {
    std::size_t end = 0;    ///< the first byte of the row after it
    std::size_t lines = 0;  ///< that were passed
    /// False at what only the careful reader of whole tables can judge.
    bool clean = false;
  };
  /// Reads the rows that begin from a place on and before another. Lines count on from `first_line`.
  virtual Reading read(std::size_t begin, std::size_t end, std::size_t first_line, RawRows& rows) const = 0;
  /// Whether the bytes between two places are the text that they are taken for.
  virtual bool is_text(std::size_t begin, std::size_t end) const = 0;
  /// Whether a text is a part of the file, and so lives as long as the source.
  virtual bool holds(std::string_view text) const = 0;
  /// Lets go of the memory in which bytes between two places were looked at.
  virtual void forget(std::size_t begin, std::size_t end) const = 0;
};

}  // namespace opensum
