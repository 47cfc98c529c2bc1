// How commands are defined, what is told of them, and how the words of a command line are read. The library
// that parses is known to command_line.cpp alone.
#pragma once

#include <deque>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "cli/command_facts.h"

namespace CLI {
class App;
class Option;
}  // namespace CLI

namespace opensum {

struct Streams;

/// The command that the command line chose, ready to run; gives the exit code.
using Chosen = std::function<int(Streams&)>;

/// Why a value is refused; empty for one that is taken.
using Refusal = std::function<std::string(const std::string&)>;

/// An option or argument of a command; what else is to be said of it follows in a chain.
class Option {
 public:
  Option(CLI::Option& parsed, OptionFacts& facts) : parsed_(&parsed), facts_(&facts) {}

  /// What its value is called.
  Option& value(const std::string& name);
  Option& meaning(const std::string& text);
  Option& needed();
  /// Each value follows the option again: `--by a --by b`.
  Option& one_value_each();
  /// Several values stand in one word: `--by a,b`.
  Option& comma_separated();
  Option& excludes(const Option& other);
  Option& about_reading(bool is = true);
  Option& refuses(Refusal refusal);
  /// An empty word is refused, such as that of a shell variable that was never set.
  Option& not_empty();
  Option& whole_number(std::size_t least, std::size_t greatest);

 private:
  CLI::Option* parsed_;
  OptionFacts* facts_;
};

/// A command that is being defined.
class Command {
 public:
  Command(CLI::App& parsed, CommandFacts& facts, Chosen& chosen)
      : parsed_(&parsed), facts_(&facts), chosen_(&chosen) {}

  Option argument(const std::string& name, std::string& into, const std::string& meaning);
  Option argument(const std::string& name, std::vector<std::string>& into, const std::string& meaning);
  /// An option; names such as `-o,--output`. It has a value, which `value` names.
  Option option(const std::string& names, std::string& into, const std::string& meaning);
  Option option(const std::string& names, std::optional<std::string>& into, const std::string& meaning);
  Option option(const std::string& names, std::vector<std::string>& into, const std::string& meaning);
  Option option(const std::string& names, std::size_t& into, const std::string& meaning);
  Option option(const std::string& names, std::optional<std::size_t>& into, const std::string& meaning);
  Option flag(const std::string& names, bool& into, const std::string& meaning);
  /// An option defined before, by its long name.
  Option defined(const std::string& name);
  /// What is run when the command is chosen and its words are understood.
  void runs(Chosen run);

 private:
  template <typename T>
  Option add(const std::string& names, T& into, const std::string& meaning, bool is_argument);

  CLI::App* parsed_;
  CommandFacts* facts_;
  Chosen* chosen_;
};

/// Why the words of a command line are not understood.
enum class WordFault : std::uint8_t {
  none,
  left_over,   ///< words that nothing takes
  excludes,    ///< two options that are not for one command line
  values,      ///< a value for a flag, or none for an option
  no_number,   ///< a value that is no number
  refused,     ///< a value that a check refuses
  incomplete,  ///< something that is needed
};

/// What became of the words of a command line.
struct ParsedWords {
  std::string told;  ///< the help or version that was asked for
  WordFault fault = WordFault::none;
  std::string text;                    ///< what the parser says of the fault
  std::vector<std::string> left_over;  ///< the words that nothing takes
};

/// The program as a command line sees it: its commands, and the one that was chosen.
class CommandLine {
 public:
  CommandLine(const std::string& purpose, const std::string& version);
  ~CommandLine();
  CommandLine(const CommandLine&) = delete;
  CommandLine& operator=(const CommandLine&) = delete;

  /// Adds a command with what it is for and worked examples.
  Command add(const std::string& name, const std::string& purpose, const std::string& examples);

  const CommandFacts& facts() const { return facts_; }
  const std::deque<CommandFacts>& commands() const { return commands_; }
  /// The command of a name; a null pointer for none.
  const CommandFacts* find(const std::string& name) const;
  /// What is told of the command that words begin with; of the program where they begin with none.
  const CommandFacts& facts_of(const std::vector<std::string>& words) const;

  /// Reads the words after the program's name.
  ParsedWords parse(const std::vector<std::string>& words);
  const Chosen& chosen() const { return chosen_; }

 private:
  std::unique_ptr<CLI::App> app_;
  std::string version_;
  CommandFacts facts_;
  std::deque<CommandFacts> commands_;
  Chosen chosen_;
};

}  // namespace opensum
