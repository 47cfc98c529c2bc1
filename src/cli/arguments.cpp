// The words of a command line.
#include "cli/arguments.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <CLI/CLI.hpp>
#include <algorithm>

#include "cli/help.h"
#include "message/nearest.h"
#include "message/other_words.h"

namespace opensum {
namespace {

// The command that the arguments name; the program itself where they name none.
const CLI::App& command_of(const CLI::App& app, const std::vector<std::string>& arguments) {
  for (const CLI::App* command : app.get_subcommands({})) {
    if (!arguments.empty() && command->get_name() == arguments.front()) return *command;
  }
  return app;
}

std::string spoken(const CLI::App& command) {
  return command.get_parent() == nullptr ? "opensum" : "opensum " + command.get_name();
}

std::vector<std::string> long_options(const CLI::App& command) {
  std::vector<std::string> names;
  for (const CLI::Option* option : command.get_options()) {
    for (const std::string& name : option->get_lnames()) names.push_back("--" + name);
  }
  return names;
}

// The option or argument that a message of the parser begins with or speaks of.
const CLI::Option* option_in(const CLI::App& command, const std::string& text) {
  const CLI::Option* found = nullptr;
  std::size_t first = std::string::npos;
  for (const CLI::Option* option : command.get_options()) {
    std::vector<std::string> names = {option->get_name(option->get_positional())};
    for (const std::string& name : option->get_lnames()) names.push_back("--" + name);
    for (const std::string& name : option->get_snames()) names.push_back("-" + name);
    for (const std::string& name : names) {
      const std::size_t at = text.find(name);
      const std::size_t end = at + name.size();
      const bool whole =
          at != std::string::npos &&
          (end == text.size() || std::string_view(" :=,").find(text[end]) != std::string_view::npos);
      if (!whole || at >= first) continue;
      first = at;
      found = option;
    }
  }
  return found;
}

std::string name_of(const CLI::Option& option) {
  const std::string form = option_form(option);
  return form.substr(0, form.find_first_of(" ,"));
}

// Arguments that nothing takes, as they were written.
void report_extras(const CLI::App& command, std::vector<std::string> extras,
                   const std::vector<std::string>& arguments, Diagnostics& diagnostics) {
  const auto place = [&](const std::string& word) {
    return std::find(arguments.begin(), arguments.end(), word);
  };
  std::stable_sort(extras.begin(), extras.end(),
                   [&](const std::string& a, const std::string& b) { return place(a) < place(b); });
  bool after_option = false;
  for (const std::string& word : extras) {
    const bool number = word.size() > 1 && word[0] == '-' && word[1] >= '0' && word[1] <= '9';
    if (!word.starts_with('-') || word.size() < 2 || (number && after_option)) {
      // What stands behind an unknown option is likely its value; behind a range, its other end.
      const auto at = place(word);
      const bool ends =
          at - arguments.begin() >= 2 && (at - 2)->starts_with("--") && (at - 2)->ends_with("-range");
      if (ends && !after_option) {
        diagnostics.add(Code::option_value,
                        {*(at - 2), "two ends such as 0,25 or auto,'5 kW'", *(at - 1) + " " + word});
      } else if (!after_option) {
        diagnostics.add(Code::argument_too_many, {word, spoken(command)});
      }
      after_option = false;
      continue;
    }
    const std::string option = word.substr(0, word.find('='));
    std::string here = word_here(WordFor::option, option);
    if (here.empty() && option.starts_with("--")) here = nearest_name(option, long_options(command));
    diagnostics.add(Code::unknown_option,
                    {option, here.empty() ? spoken(command) + " --help shows all" : "write " + here});
    after_option = option.size() == word.size();
  }
}

}  // namespace

std::vector<std::string> completed_arguments(const CLI::App& app, const std::vector<std::string>& arguments,
                                             Diagnostics& diagnostics) {
  const std::vector<std::string> names = long_options(command_of(app, arguments));
  std::vector<std::string> completed;
  bool options_end = false;
  for (const std::string& argument : arguments) {
    options_end = options_end || argument == "--";
    const std::string option = argument.substr(0, argument.find('='));
    std::vector<std::string> meant;
    const bool known = std::find(names.begin(), names.end(), option) != names.end();
    if (!options_end && !known && option.starts_with("--")) {
      std::copy_if(names.begin(), names.end(), std::back_inserter(meant),
                   [&](const std::string& name) { return name.starts_with(option); });
    }
    if (meant.size() > 1) {
      diagnostics.add(Code::option_of_several, {option, fmt::format("{}", fmt::join(meant, ", "))});
    }
    completed.push_back(meant.size() == 1 ? meant.front() + argument.substr(option.size()) : argument);
  }
  return completed;
}

void report_parse_error(const CLI::App& app, const CLI::ParseError& error,
                        const std::vector<std::string>& arguments, Diagnostics& diagnostics) {
  const CLI::App& command = command_of(app, arguments);
  const std::string text = error.what();
  if (dynamic_cast<const CLI::ExtrasError*>(&error) != nullptr) {
    return report_extras(command, app.remaining(true), arguments, diagnostics);
  }
  const CLI::Option* option = option_in(command, text);
  const std::string name = option == nullptr ? "" : name_of(*option);
  const std::string form = option == nullptr ? "" : option_form(*option);
  if (dynamic_cast<const CLI::ExcludesError*>(&error) != nullptr) {
    diagnostics.add(Code::options_exclude, {name, text.substr(text.rfind(' ') + 1)});
  } else if (dynamic_cast<const CLI::ArgumentMismatch*>(&error) != nullptr && option != nullptr) {
    const bool flag = option->get_items_expected_max() == 0;
    diagnostics.add(flag ? Code::option_without_value : Code::option_needs_value,
                    {name, flag ? spoken(command) + " " + name : form});
  } else if (dynamic_cast<const CLI::ConversionError*>(&error) != nullptr && option != nullptr) {
    const std::size_t equals = text.rfind("= ");
    diagnostics.add(Code::option_value,
                    {name, "a whole number", equals == std::string::npos ? "" : text.substr(equals + 2)});
  } else if (dynamic_cast<const CLI::ValidationError*>(&error) != nullptr && option != nullptr) {
    // The validators are ours, and so are their words; before them the parser names the option.
    const std::size_t colon = text.find(": ");
    diagnostics.add(Code::option_refused, {name, colon == std::string::npos ? text : text.substr(colon + 2)});
  } else {
    std::string meaning = option == nullptr ? "" : option->get_description();
    std::replace(meaning.begin(), meaning.end(), '\n', ' ');
    diagnostics.add(Code::argument_missing, {spoken(command), option == nullptr ? "more" : form, meaning});
  }
}

}  // namespace opensum
