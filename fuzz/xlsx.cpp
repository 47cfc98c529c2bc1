// Workbooks of Office Open XML: their sheets, or the parts of them, packed.
#include "packed.h"
#include "tables.h"

using namespace opensum;

// The bytes as a file of their own, and as the sheet of one that is packed around them: what fuzzing changes
// is then no checksum but what is read.
extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t size) {
  const std::string text = text_of(bytes, size);
  const std::string packed = text.starts_with("PK") ? text : packed_xlsx(text);
  read_bytes(reinterpret_cast<const std::uint8_t*>(packed.data()), packed.size());
  return 0;
}
