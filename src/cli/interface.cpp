// The program told to others.
#include "cli/interface.h"

#include <cstdlib>

#include "cli/completion.h"
#include "cli/manual.h"

namespace opensum {
namespace {

std::string answer(const CommandLine& command_line, const std::vector<std::string>& words) {
  const std::string what = words.empty() ? "" : words.front();
  std::string text = completion_script(what);
  if (what == "words" && words.size() > 2) {
    const std::size_t place = std::strtoul(words[1].c_str(), nullptr, 10);
    for (const std::string& word : words_at(command_line, {words.begin() + 2, words.end()}, place))
      text += word + '\n';
  }
  if (what == "commands") {
    for (const CommandFacts& command : command_line.commands()) text += command.name + '\n';
  }
  if (what == "manual") {
    const CommandFacts* page = words.size() < 2 ? nullptr : command_line.find(words[1]);
    if (words.size() < 2) text = manual_page(command_line);
    if (page != nullptr) text = manual_page(*page);
  }
  return text;
}

}  // namespace

int tell_others(const CommandLine& command_line, const std::vector<std::string>& words, Streams& streams) {
  const std::string text = answer(command_line, words);
  const bool is_words = !words.empty() && words.front() == "words";
  if (text.empty() && !is_words) {
    Diagnostics diagnostics;
    diagnostics.add(Code::option_value, {"interface", "manual [COMMAND], commands, bash, zsh, fish or words",
                                         words.empty() ? "" : words.front()});
    return report(diagnostics, streams);
  }
  streams.out << text;
  return static_cast<int>(Exit::done);
}

}  // namespace opensum
