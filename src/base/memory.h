// Whether there is memory, asked before libraries that end the program where there is none.
#pragma once

#include <cstddef>

namespace opensum {

/// Throws std::bad_alloc where the process could not be given so many more bytes.
void require_memory(std::size_t bytes);

}  // namespace opensum
