// What --help says.
#include "cli/help.h"

#include <fmt/format.h>

#include <algorithm>
#include <vector>

#include "base/sentence.h"
#include "base/unicode.h"

namespace opensum {
namespace {

constexpr std::size_t kWidth = 79;
// A form that is longer has its meaning on the next line.
constexpr std::size_t kWidestForm = 26;

// A text from a column on, broken between words.
std::string from_column(const std::string& text, std::size_t column) {
  std::string out;
  std::size_t used = column;
  for (std::size_t begin = 0; begin < text.size();) {
    const std::size_t end = std::min(text.find_first_of(" \n", begin), text.size());
    const std::string word = text.substr(begin, end - begin);
    const std::size_t width = display_width(word);
    if (used > column && used + 1 + width > kWidth) {
      out += '\n' + std::string(column, ' ');
      used = column;
    } else if (used > column) {
      out += ' ';
      ++used;
    }
    out += word;
    used += width;
    begin = end + 1;
  }
  return out;
}

// Forms and what they mean, in two columns.
std::string listed(const std::vector<std::pair<std::string, std::string>>& lines) {
  std::size_t width = 0;
  for (const auto& line : lines) {
    const std::size_t own = display_width(line.first);
    if (own <= kWidestForm) width = std::max(width, own);
  }
  std::string out;
  for (const auto& [form, meaning] : lines) {
    const std::size_t own = display_width(form);
    out += "  " + form;
    out += own > width ? '\n' + std::string(width + 4, ' ') : std::string(width + 2 - own, ' ');
    out += from_column(meaning, width + 4) + '\n';
  }
  return out;
}

}  // namespace

std::string help_of(const CommandFacts& program, const std::deque<CommandFacts>& commands) {
  std::vector<std::pair<std::string, std::string>> purposes;
  for (const CommandFacts& command : commands) purposes.emplace_back(command.name, command.purpose);
  return fmt::format(
      "opensum COMMAND [ARGUMENTS] [OPTIONS]\n\n{}\n\n{}\n"
      "opensum COMMAND --help explains one of them, opensum --version says which version\nthis is.\n",
      from_column(program.purpose, 0), listed(purposes));
}

std::string help_of(const CommandFacts& command) {
  std::string usage = command.spoken();
  std::vector<std::pair<std::string, std::string>> arguments;
  std::vector<std::pair<std::string, std::string>> own;
  std::vector<std::pair<std::string, std::string>> reading;
  std::string needed;
  for (const OptionFacts& option : command.options) {
    const std::string form = option.form();
    if (!option.argument.empty()) {
      usage +=
          fmt::format(fmt::runtime(option.needed ? " {}{}" : " [{}{}]"), form, option.repeated ? "…" : "");
      arguments.emplace_back(form, option.meaning);
      continue;
    }
    if (option.needed) needed += " " + form;
    (option.about_reading ? reading : own).emplace_back(form, option.meaning);
  }
  // How to get help is no news to who reads it.
  std::rotate(own.begin(), own.begin() + 1, own.end());
  usage += needed + " [OPTIONS]";
  std::string out = fmt::format("{}\n\n{}\n", usage, from_column(full_sentence(command.purpose), 0));
  if (!arguments.empty()) out += '\n' + listed(arguments);
  out += "\nOptions\n" + listed(own);
  if (!reading.empty()) out += "\nHow FILE is read\n" + listed(reading);
  return out + "\n" + kExamples + "\n" + command.examples + '\n';
}

}  // namespace opensum
