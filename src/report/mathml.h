// Equations as mathematics: presentation MathML, which browsers draw without help.
#pragma once

#include <pugixml.hpp>
#include <string>

#include "equation/tree.h"

namespace opensum {

/// Adds `name = expression` to an element of a page, as MathML that stands in a line of its own.
void add_mathml(pugi::xml_node in, const std::string& name, const Node& expression);

}  // namespace opensum
