// The words of a command line: options that are cut short, and what is wrong with those that are not
// understood.
#pragma once

#include <string>
#include <vector>

#include "message/diagnostic.h"

namespace CLI {
class App;
class ParseError;
}  // namespace CLI

namespace opensum {

/// The arguments with long options written in full: `--outp` is `--output` where the command has no other
/// that begins like it. One that several begin like is reported.
std::vector<std::string> completed_arguments(const CLI::App& app, const std::vector<std::string>& arguments,
                                             Diagnostics& diagnostics);

/// Reports why the arguments were not understood.
void report_parse_error(const CLI::App& app, const CLI::ParseError& error,
                        const std::vector<std::string>& arguments, Diagnostics& diagnostics);

}  // namespace opensum
