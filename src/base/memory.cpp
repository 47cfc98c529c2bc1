// Whether there is memory.
#include "base/memory.h"

#include <sys/mman.h>

#include <new>

namespace opensum {

void require_memory(std::size_t bytes) {
  void* const address =
      ::mmap(nullptr, bytes, PROT_READ | PROT_WRITE, MAP_PRIVATE | MAP_ANONYMOUS | MAP_NORESERVE, -1, 0);
  if (address == MAP_FAILED) throw std::bad_alloc();
  ::munmap(address, bytes);
}

}  // namespace opensum
