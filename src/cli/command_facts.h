// What is told of commands, their options and arguments: what help, manual and completions are made of.
#pragma once

#include <deque>
#include <string>
#include <vector>

namespace opensum {

/// What is told of an option or argument.
struct OptionFacts {
  std::vector<std::string> short_names;  ///< `-o`
  std::vector<std::string> long_names;   ///< `--output`
  std::string argument;                  ///< the name of an argument, `FILE`; empty for an option
  std::string value;                     ///< what the value of an option is called; empty for a flag
  std::string meaning;
  bool needed = false;
  bool repeated = false;       ///< whether it takes several values
  bool about_reading = false;  ///< whether it says how a file is read

  bool is_flag() const { return argument.empty() && value.empty(); }
  /// As it is written: `-o, --output FILE`, `FILE`.
  std::string form() const;
};

/// What is told of a command; of the program where it has no name.
struct CommandFacts {
  std::string name;
  std::string purpose;
  std::string examples;
  std::deque<OptionFacts> options;  ///< in the order of their definition, after that for help

  /// `opensum run`.
  std::string spoken() const { return name.empty() ? "opensum" : "opensum " + name; }
  std::vector<std::string> long_options() const;
};

}  // namespace opensum
