// Reading a study from its TOML file.
#pragma once

#include <memory>
#include <optional>

#include "message/diagnostic.h"
#include "study/model.h"

namespace opensum {

/// The study in a TOML text. Every key is known or reported with the nearest known one; all that is wrong is
/// reported together. Nothing only when the text is no TOML.
std::optional<Study> read_study(const std::shared_ptr<const Source>& source, Diagnostics& diagnostics);

}  // namespace opensum
