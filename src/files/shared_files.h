// Files that several studies share: where they are looked for.
#pragma once

#include <string>
#include <vector>

namespace opensum {

/// The folders in which a file named by `use` is looked for that is not beside the study, in order: those of
/// the environment's OPENSUM_PATH, divided by colons, then `opensum` in XDG_CONFIG_HOME or else ~/.config
/// (XDG Base Directory Specification). Folders that are not there are among them.
std::vector<std::string> shared_folders();

/// The path of a file in the first of these folders that has it; empty for one that none has.
std::string find_shared(const std::string& name);

/// All TOML files in these folders that `use` finds by their names alone.
std::vector<std::string> all_shared();

}  // namespace opensum
