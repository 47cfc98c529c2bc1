// Texts, units and headers as LaTeX writes them.
#include "table/latex_text.h"

#include <array>
#include <string_view>
#include <utility>

namespace opensum {
namespace {

using Pair = std::pair<std::string_view, std::string_view>;

constexpr std::array kEscapes = {
    Pair{"\\", "\\textbackslash{}"},
    Pair{"{", "\\{"},
    Pair{"}", "\\}"},
    Pair{"$", "\\$"},
    Pair{"&", "\\&"},
    Pair{"#", "\\#"},
    Pair{"%", "\\%"},
    Pair{"_", "\\_"},
    Pair{"^", "\\textasciicircum{}"},
    Pair{"~", "\\textasciitilde{}"},
    Pair{"<", "\\ensuremath{<}"},
    Pair{">", "\\ensuremath{>}"},
    Pair{"°", "\\ensuremath{^{\\circ}}"},
    Pair{"µ", "\\ensuremath{\\mu}"},
    Pair{"μ", "\\ensuremath{\\mu}"},
    Pair{"Ω", "\\ensuremath{\\Omega}"},
    Pair{"±", "\\ensuremath{\\pm}"},
    Pair{"²", "\\ensuremath{^2}"},
    Pair{"³", "\\ensuremath{^3}"},
    Pair{"…", "\\dots{}"},
    Pair{"−", "\\ensuremath{-}"},
    Pair{"·", "\\ensuremath{\\cdot}"},
    Pair{"×", "\\ensuremath{\\times}"},
    Pair{"χ", "\\ensuremath{\\chi}"},
};

constexpr std::array kUnits = {
    Pair{" ", "."},
    Pair{"°", "\\ensuremath{^{\\circ}}"},
    Pair{"µ", "\\ensuremath{\\mu}"},
    Pair{"μ", "\\ensuremath{\\mu}"},
    Pair{"Ω", "\\ensuremath{\\Omega}"},
    Pair{"Å", "\\ensuremath{\\mathring{\\mathrm{A}}}"},
    Pair{"%", "\\%"},
    Pair{"‰", "\\ensuremath{{}^{0}\\!/\\!_{00}}"},
    Pair{"'", "\\ensuremath{'}"},
    Pair{"_", "\\_"},
    Pair{"#", "\\#"},
    Pair{"&", "\\&"},
    Pair{"$", "\\$"},
};

template <typename Table>
std::string replaced(const std::string& text, const Table& table) {
  std::string out;
  for (std::size_t at = 0; at < text.size();) {
    const Pair* found = nullptr;
    for (const Pair& pair : table) {
      if (text.compare(at, pair.first.size(), pair.first) == 0) {
        found = &pair;
        break;
      }
    }
    if (found == nullptr) {
      out += text[at++];
    } else {
      out += found->second;
      at += found->first.size();
    }
  }
  return out;
}

// Exponents of several signs stand in braces: `m^-2` as `m^{-2}`.
std::string with_braces(const std::string& unit) {
  std::string out;
  for (std::size_t at = 0; at < unit.size();) {
    out += unit[at];
    if (unit[at++] != '^') continue;
    const std::size_t end = unit.find_first_not_of("-0123456789()/", at);
    std::string exponent = unit.substr(at, end - at);
    // A solidus or a closing bracket behind a plain exponent belongs to the unit.
    if (exponent.empty() || exponent.front() != '(')
      exponent = exponent.substr(0, exponent.find_first_of("/)"));
    out += '{' + exponent + '}';
    at += exponent.size();
  }
  return out;
}

}  // namespace

std::string latex_escaped(const std::string& text) { return replaced(text, kEscapes); }

std::string latex_unit(const std::string& unit) { return replaced(with_braces(unit), kUnits); }

}  // namespace opensum
