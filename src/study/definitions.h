// The definitions of a sheet or of a study's constants, and what is said of their null rules.
#pragma once

#include <string>
#include <vector>

#include "equation/checked.h"
#include "equation/tree.h"
#include "message/diagnostic.h"

namespace opensum {

/// The definitions of several passages; later ones of a name are reported.
std::vector<Definition> read_definitions(const std::vector<Passage>& passages, Diagnostics& diagnostics);

/// How a checked equation treats nulls, in words.
std::string null_rule_of(const Checked& tree);

/// A ring of names as `a → b → a`.
std::string ring_text(const std::vector<std::string>& names);

}  // namespace opensum
