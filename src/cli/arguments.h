// The words of a command line: options that are cut short, and what is wrong with those that are not
// understood.
#pragma once

#include <string>
#include <vector>

#include "cli/command_line.h"
#include "message/diagnostic.h"

namespace opensum {

/// The words with long options written in full: `--outp` is `--output` where the command has no other that
/// begins like it. One that several begin like is reported.
std::vector<std::string> completed_words(const CommandLine& command_line,
                                         const std::vector<std::string>& words, Diagnostics& diagnostics);

/// Reports why the words were not understood.
void report_words(const CommandLine& command_line, const ParsedWords& parsed,
                  const std::vector<std::string>& words, Diagnostics& diagnostics);

}  // namespace opensum
