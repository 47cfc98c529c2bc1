// Texts, units and headers as LaTeX writes them.
#pragma once

#include <string>

namespace opensum {

/// A text with the signs escaped that mean something to LaTeX, and those replaced that its fonts may lack.
std::string latex_escaped(const std::string& text);

/// A unit such as `kJ/(kg K)` as an argument of siunitx's \unit and \qty, without macros: `kJ/(kg.K)`.
std::string latex_unit(const std::string& unit);

}  // namespace opensum
