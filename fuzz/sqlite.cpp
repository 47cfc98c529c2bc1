// Databases.
#include "tables.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t size) {
  opensum::read_bytes(bytes, size);
  return 0;
}
