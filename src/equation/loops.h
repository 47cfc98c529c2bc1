// Lines `for ch in ch1..ch8 as nets: {ch}_net "Net {ch.label}" [mV] = {ch} - dark.{ch}`, which write one
// definition for each column of a list.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "equation/scope.h"
#include "equation/tree.h"
#include "message/diagnostic.h"

namespace opensum {

/// A definition's text with a column put in for the variable. Its bytes know where they stand in the source.
struct LoopTurn {
  Passage text;
  std::string words;  ///< `for ch = ch3`
};

/// The loops of a passage. `rest` is the passage with blanks in their place.
std::vector<Loop> parse_loops(const Passage& passage, Passage& rest, Diagnostics& diagnostics);

/// One text per column or text of the list, in the order of the list.
std::vector<LoopTurn> expand(const Loop& loop, const Scope& scope, Diagnostics& diagnostics);

}  // namespace opensum
