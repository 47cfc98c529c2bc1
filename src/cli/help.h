// What --help says: of the program and of each command, in one form.
#pragma once

#include <string>

namespace CLI {
class App;
class Option;
}  // namespace CLI

namespace opensum {

/// The group of options that say how a file is read; it stands last.
constexpr const char* kReadingGroup = "How FILE is read";

/// The help of the program, or of one of its commands: what it is for, how it is called, its own options,
/// those for reading files, and worked examples.
std::string help_of(const CLI::App& app);

/// An option or argument as it is written: `--x SYMBOL`, `FILE`.
std::string option_form(const CLI::Option& option);

}  // namespace opensum
