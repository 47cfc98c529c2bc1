// How a broken promise ends the program.
#include "bytes.h"

#include "base/unicode.h"

namespace opensum {

void require_visible(const Diagnostics& diagnostics) {
  const std::string text = render(diagnostics);
  require(is_visible(text), "messages are visible: " + visible(text));
}

}  // namespace opensum
