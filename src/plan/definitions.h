// The definitions of a sheet or of a study's constants, and what is said of their null rules.
#pragma once

#include <string>
#include <vector>

#include "equation/checked.h"
#include "equation/scope.h"
#include "equation/tree.h"
#include "message/diagnostic.h"
#include "model/study.h"

namespace opensum {

/// The definitions of several passages. One of a later step replaces one of an earlier step by its name, in
/// its place; two of one step are reported. Those in `without` are left out of what was written before.
/// Loops go over the columns of `scope`, and give it the lists that they make; without a scope they are
/// passed over.
std::vector<Definition> read_definitions(const std::vector<Lines>& passages,
                                         const std::vector<LeftOut>& without, Scope* scope,
                                         Diagnostics& diagnostics);
/// The same for claims, whose names are their texts.
std::vector<Claim> read_claims(const std::vector<Lines>& passages, const std::vector<LeftOut>& without,
                               Diagnostics& diagnostics);

/// How a checked equation treats nulls, in words.
std::string null_rule_of(const Checked& tree);

/// A cycle of names as `a → b → a`.
std::string cycle_text(const std::vector<std::string>& names);

}  // namespace opensum
