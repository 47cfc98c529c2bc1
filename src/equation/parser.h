// Second stage of an equation: tokens to tree. Sole entry points: parse_definitions, parse_claims and
// parse_expression.
#pragma once

#include <optional>
#include <vector>

#include "base/result.h"
#include "equation/tree.h"
#include "message/diagnostic.h"

namespace opensum {

/// Reads lines `NAME "Label" [UNIT] = EXPRESSION`. A faulty line is reported and left out, the others are
/// still read. Loops must have been taken out.
std::vector<Definition> parse_definitions(const Passage& passage, Diagnostics& diagnostics);

/// Reads lines `"what is claimed": CONDITION` in the same way.
std::vector<Claim> parse_claims(const Passage& passage, Diagnostics& diagnostics);

/// Reads lines `NAME(PARAMETER, …) = EXPRESSION` in the same way.
std::vector<Formula> parse_formulas(const Passage& passage, Diagnostics& diagnostics);

/// Reads `for NAME in LIST as NAME:`, where the list of what is made may be without a name.
Result<Loop> parse_loop_header(const Passage& passage, Diagnostics& diagnostics);

/// Reads a passage that is one expression; null when it is none, which is reported.
[[nodiscard]] NodePtr parse_expression(const Passage& passage, Diagnostics& diagnostics);

}  // namespace opensum
