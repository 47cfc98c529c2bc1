// A memory-mapped file, for reading.
#pragma once

#include <sys/mman.h>

#include <cstddef>
#include <string_view>

namespace opensum {

/// The bytes of an open file, for as long as this lives. Made from a descriptor, not from a path: what is
/// mapped is the very file that was looked at before, or one that has no name.
class MappedFile {
 public:
  MappedFile(int descriptor, std::size_t size)
      : size_(size), address_(::mmap(nullptr, size, PROT_READ, MAP_PRIVATE, descriptor, 0)) {}
  ~MappedFile() {
    if (good()) ::munmap(address_, size_);
  }
  MappedFile(const MappedFile&) = delete;
  MappedFile& operator=(const MappedFile&) = delete;

  /// Whether it could be mapped; errno says why not.
  bool good() const { return address_ != MAP_FAILED; }
  std::string_view text() const { return {static_cast<const char*>(address_), size_}; }

 private:
  std::size_t size_;
  void* address_;
};

}  // namespace opensum
