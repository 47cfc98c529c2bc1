// Equations as mathematics: presentation MathML, which browsers draw without help.
#pragma once

#include <string>

#include "equation/tree.h"

namespace opensum {

/// `name = expression` as a MathML element that stands in a line of its own.
std::string mathml(const std::string& name, const Node& expression);

}  // namespace opensum
