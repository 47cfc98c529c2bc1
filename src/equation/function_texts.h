// What goes into each function and comes out.
#pragma once

#include <string>
#include <string_view>

#include "equation/functions.h"

namespace opensum {

/// What goes in and what comes out, such as `a number → its root's unit`.
std::string_view in_and_out(const Signature& signature);

/// What becomes of nulls among the arguments.
std::string_view nulls_in(const Signature& signature);

std::string_view family_name(Family family);

}  // namespace opensum
