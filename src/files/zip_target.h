// A file that a zip archive is written into.
#pragma once

#include <zip.h>

#include <cstdint>
#include <string>

#include "files/output.h"

namespace opensum {

/// The library writes to a file only by way of another one whose name it chooses, or into memory: this is
/// where it writes to a file as it stands. It must outlive the archive.
class ZipTarget {
 public:
  /// Opens the file at `path`, which is there.
  explicit ZipTarget(const std::string& path);

  /// An archive that is written there when it is closed; a null pointer where memory ends or the file could
  /// not be opened.
  zip_t* archive();
  /// The number of the first error, else 0.
  int error() const { return error_; }

 private:
  static zip_int64_t answer(void* self, void* data, zip_uint64_t size, zip_source_cmd_t command);
  zip_int64_t write(const void* data, zip_uint64_t size);
  zip_int64_t seek(void* data, zip_uint64_t size);
  zip_int64_t checked(int error);

  OwnedDescriptor file_;
  std::uint64_t at_ = 0;
  std::uint64_t size_ = 0;
  int error_ = 0;
};

}  // namespace opensum
