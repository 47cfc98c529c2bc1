// Bytes that come row by row and are needed column by column.
#include "files/column_spool.h"

#include <cerrno>

namespace opensum {

void ColumnSpool::add(std::size_t column, std::string_view bytes) {
  constexpr std::size_t kHeld = std::size_t{8} << 20U;
  if (column >= columns_.size()) columns_.resize(column + 1);
  Waiting& own = columns_[column];
  own.last += bytes;
  own.size += bytes.size();
  held_ += bytes.size();
  if (held_ >= kHeld) write_out();
}

void ColumnSpool::write_out() {
  held_ = 0;
  if (error_ == 0 && !file_.is_open()) {
    file_ = open_unnamed(path_);
    if (!file_.is_open()) error_ = errno;
  }
  for (Waiting& column : columns_) {
    if (column.last.empty()) continue;
    if (error_ == 0) error_ = write_all(file_.number(), column.last);
    column.written.push_back({end_, column.last.size()});
    end_ += column.last.size();
    // Not its memory for the next ones: of many columns each may be the longest once.
    column.last = std::string();
  }
}

std::string ColumnSpool::piece(std::size_t column, std::size_t index) {
  const Waiting& own = columns_[column];
  if (index == own.written.size()) return own.last;
  const Piece& piece = own.written[index];
  std::string bytes(piece.size, '\0');
  if (error_ == 0) error_ = read_all(file_.number(), piece.begin, bytes.data(), bytes.size());
  return bytes;
}

}  // namespace opensum
