// The operations by their type alone, for those who pass them on; which there are stands in operation.h.
#pragma once

#include <cstdint>

namespace opensum {

enum class Op : std::uint8_t;

}  // namespace opensum
