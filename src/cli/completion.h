// What a shell offers to go on with.
#pragma once

#include <string>
#include <vector>

#include "cli/command_line.h"

namespace opensum {

/// Words that can stand at a place of a command line, from the definitions of the commands, the study and the
/// file that are named there. `:files`, `:studies` or `:folders` alone has the shell offer such paths.
std::vector<std::string> words_at(const CommandLine& command_line, const std::vector<std::string>& words,
                                  std::size_t place);

/// The script that has a shell ask for these: `bash`, `zsh` or `fish`. Empty for another one.
std::string completion_script(const std::string& shell);

}  // namespace opensum
