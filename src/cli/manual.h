// The pages of the manual, made from the definitions of the commands.
#pragma once

#include <string>

#include "cli/command_line.h"

namespace opensum {

/// The page of the program, or of one of its commands, in the language of the man macros.
std::string manual_page(const CommandLine& command_line);
std::string manual_page(const CommandFacts& command);

}  // namespace opensum
