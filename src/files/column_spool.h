// Bytes that come row by row and are needed column by column.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

#include "files/output.h"

namespace opensum {

/// Beyond a few megabytes they wait in a file without a name.
class ColumnSpool {
 public:
  /// That file lies beside the one at `path`.
  ColumnSpool(std::size_t columns, std::string path) : path_(std::move(path)), columns_(columns) {}

  /// There are as many columns as were asked for, or as bytes were added to.
  void add(std::size_t column, std::string_view bytes);
  std::size_t columns() const { return columns_.size(); }
  /// How many bytes a column has.
  std::size_t size(std::size_t column) const { return columns_[column].size; }
  /// The bytes of a column are those of its pieces, one after the other; none divides what was added at once.
  std::size_t pieces(std::size_t column) const { return columns_[column].written.size() + 1; }
  std::string piece(std::size_t column, std::size_t index);
  /// The number of the first error, else 0.
  int error() const { return error_; }

 private:
  struct Piece {
    std::uint64_t begin = 0;
    std::size_t size = 0;
  };
  struct Waiting {
    std::string last;            ///< not written yet
    std::vector<Piece> written;  ///< to the file, before
    std::size_t size = 0;
  };
  void write_out();

  std::string path_;
  std::vector<Waiting> columns_;
  std::size_t held_ = 0;
  OwnedDescriptor file_;
  std::uint64_t end_ = 0;
  int error_ = 0;
};

}  // namespace opensum
