// What --help says: of the program and of each command, in one form.
#pragma once

#include <deque>
#include <string>

#include "cli/command_facts.h"

namespace opensum {

/// What stands above the worked examples of a command.
constexpr const char* kExamples = "Examples, in a folder where `opensum demo` was run";

/// The help of the program: its commands.
std::string help_of(const CommandFacts& program, const std::deque<CommandFacts>& commands);
/// The help of a command: what it is for, how it is called, its own options, those for reading files, and
/// worked examples.
std::string help_of(const CommandFacts& command);

}  // namespace opensum
