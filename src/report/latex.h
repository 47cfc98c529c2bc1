// Equations as LaTeX.
#pragma once

#include <string>

#include "equation/tree.h"

namespace opensum {

/// A name in mathematics: what follows its first underscore is an index, Greek letters are those.
std::string latex_name(const std::string& name);
/// The same between dollars, for a text.
std::string latex_symbol(const std::string& name);

/// An expression in mathematics, for amsmath and siunitx.
std::string latex_equation(const Node& expression);

}  // namespace opensum
