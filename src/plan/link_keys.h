// What the keys of a link say.
#pragma once

#include <string>
#include <utility>

#include "base/result.h"
#include "equation/checked.h"
#include "message/diagnostic.h"
#include "message/source.h"
#include "units/unit_system.h"

namespace opensum {

/// `here = there`, or one name for both.
std::pair<std::string, std::string> split_keys(const std::string& text);

/// `5 s`: a distance from a key of a type, in its unit, for dates in s. False after a reported error.
Result<void> read_within(const Passage& text, const Type& key, const UnitSystem& units,
                         std::optional<double>& within, Diagnostics& diagnostics);

}  // namespace opensum
