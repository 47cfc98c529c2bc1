// Reading a study from its TOML file.
#pragma once

#include <memory>
#include <optional>

#include "base/result.h"
#include "files/text_file.h"
#include "message/diagnostic.h"
#include "model/study.h"

namespace opensum {

/// The study in a TOML text, whose source's name is its path. Every key is known or reported with the nearest
/// known one; all that is wrong is reported together. Files that it uses are read relative to it and join the
/// inputs. Nothing only when the text is no TOML.
Result<Study> read_study(const std::shared_ptr<const Source>& source, Inputs& inputs,
                         Diagnostics& diagnostics);

/// Reads a file that studies share, with those that it uses itself; what is wrong is reported.
Library read_shared(const std::string& path, Inputs& inputs, Diagnostics& diagnostics);

}  // namespace opensum
