// The words of a command line.
#include "cli/arguments.h"

#include <fmt/format.h>

#include <algorithm>

#include "message/nearest.h"
#include "message/other_words.h"

namespace opensum {
namespace {

// The option or argument that a message of the parser begins with or speaks of.
const OptionFacts* option_in(const CommandFacts& command, const std::string& text) {
  const OptionFacts* found = nullptr;
  std::size_t first = std::string::npos;
  for (const OptionFacts& option : command.options) {
    std::vector<std::string> names = option.long_names;
    names.insert(names.end(), option.short_names.begin(), option.short_names.end());
    if (!option.argument.empty()) names.push_back(option.argument);
    for (const std::string& name : names) {
      const std::size_t at = text.find(name);
      const std::size_t end = at + name.size();
      const bool whole =
          at != std::string::npos &&
          (end == text.size() || std::string_view(" :=,").find(text[end]) != std::string_view::npos);
      if (!whole || at >= first) continue;
      first = at;
      found = &option;
    }
  }
  return found;
}

std::string name_of(const OptionFacts& option) {
  const std::string form = option.form();
  return form.substr(0, form.find_first_of(" ,"));
}

// Arguments that nothing takes, as they were written.
void report_extras(const CommandFacts& command, std::vector<std::string> extras,
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
        diagnostics.add(Code::argument_too_many, {word, command.spoken()});
      }
      after_option = false;
      continue;
    }
    const std::string option = word.substr(0, word.find('='));
    std::string here = word_here(WordFor::option, option);
    if (here.empty() && option.starts_with("--")) here = nearest_name(option, command.long_options());
    diagnostics.add(Code::unknown_option,
                    {option, here.empty() ? command.spoken() + " --help shows all" : "write " + here});
    after_option = option.size() == word.size();
  }
}

}  // namespace

std::vector<std::string> completed_words(const CommandLine& command_line,
                                         const std::vector<std::string>& arguments,
                                         Diagnostics& diagnostics) {
  const std::vector<std::string> names = command_line.facts_of(arguments).long_options();
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

void report_words(const CommandLine& command_line, const ParsedWords& parsed,
                  const std::vector<std::string>& words, Diagnostics& diagnostics) {
  const CommandFacts& command = command_line.facts_of(words);
  const std::string& text = parsed.text;
  if (parsed.fault == WordFault::left_over)
    return report_extras(command, parsed.left_over, words, diagnostics);
  const OptionFacts* option = option_in(command, text);
  const std::string name = option == nullptr ? "" : name_of(*option);
  const std::string form = option == nullptr ? "" : option->form();
  const WordFault fault =
      option == nullptr && parsed.fault != WordFault::excludes ? WordFault::incomplete : parsed.fault;
  if (fault == WordFault::excludes) {
    diagnostics.add(Code::options_exclude, {name, text.substr(text.rfind(' ') + 1)});
  } else if (fault == WordFault::values || (fault == WordFault::no_number && option->is_flag())) {
    const bool flag = option->is_flag();
    diagnostics.add(flag ? Code::option_without_value : Code::option_needs_value,
                    {name, flag ? command.spoken() + " " + name : form});
  } else if (fault == WordFault::no_number) {
    const std::size_t equals = text.rfind("= ");
    diagnostics.add(Code::option_value,
                    {name, "a whole number", equals == std::string::npos ? "" : text.substr(equals + 2)});
  } else if (fault == WordFault::refused) {
    // The words of a refusal are ours; before them the parser names the option.
    const std::size_t colon = text.find(": ");
    diagnostics.add(Code::option_refused, {name, colon == std::string::npos ? text : text.substr(colon + 2)});
  } else {
    std::string meaning = option == nullptr ? "" : option->meaning;
    std::replace(meaning.begin(), meaning.end(), '\n', ' ');
    diagnostics.add(Code::argument_missing, {command.spoken(), option == nullptr ? "more" : form, meaning});
  }
}

}  // namespace opensum
