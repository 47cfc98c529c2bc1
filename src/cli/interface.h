// The program told to others: pages of the manual, and what shells offer to go on with.
#pragma once

#include <string>
#include <vector>

#include "cli/command.h"

namespace opensum {

/// Answers `opensum interface WHAT WORDS`, which is no command for people and not listed: `manual [COMMAND]`,
/// `commands`, the completion of `bash`, `zsh` or `fish`, or `words PLACE WORD…`, what can stand at a place
/// of a command line. Gives the exit code.
int tell_others(const CommandLine& command_line, const std::vector<std::string>& words, Streams& streams);

}  // namespace opensum
