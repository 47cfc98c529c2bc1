// A table out of a file of any format, looked at as the commands do.
#pragma once

#include <fcntl.h>
#include <sys/mman.h>
#include <unistd.h>

#include "bytes.h"
#include "files/table_reader.h"

namespace opensum {

/// Reads the bytes as a file without a name; what is said of it can be shown.
inline void read_bytes(const std::uint8_t* bytes, std::size_t size, const std::string& part = "") {
  static const int kFile = ::memfd_create("fuzzed", 0);
  static const std::string kPath = "/proc/self/fd/" + std::to_string(kFile);
  if (::ftruncate(kFile, 0) != 0 || ::pwrite(kFile, bytes, size, 0) != static_cast<ssize_t>(size)) return;
  Diagnostics diagnostics;
  Inputs inputs;
  const auto table = read_table(kPath + part, {}, {}, inputs, diagnostics);
  require_visible(diagnostics);
  require(table.has_value() || diagnostics.has_errors(), "what is not read is said");
  if (!table) return;
  for (const auto& column : table->columns)
    require(column.size() == table->rows() || table->left_in_file, "each column has all rows");
}

}  // namespace opensum
