// What --help says.
#include "cli/help.h"

#include <fmt/format.h>

#include <CLI/CLI.hpp>
#include <algorithm>
#include <vector>

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

std::string sentence(std::string text) {
  if (text[0] >= 'a' && text[0] <= 'z') text[0] = static_cast<char>(text[0] - 'a' + 'A');
  return text + ".";
}

std::string help_of_program(const CLI::App& app) {
  std::vector<std::pair<std::string, std::string>> commands;
  for (const CLI::App* command : app.get_subcommands({}))
    commands.emplace_back(command->get_name(), command->get_description());
  return fmt::format(
      "opensum COMMAND [ARGUMENTS] [OPTIONS]\n\n{}\n\n{}\n"
      "opensum COMMAND --help explains one of them, opensum --version says which version\nthis is.\n",
      from_column(app.get_description(), 0), listed(commands));
}

}  // namespace

std::string option_form(const CLI::Option& option) {
  if (option.get_positional()) return option.get_name(true);
  std::string form;
  for (const std::string& name : option.get_snames()) form += (form.empty() ? "-" : ", -") + name;
  for (const std::string& name : option.get_lnames()) form += (form.empty() ? "--" : ", --") + name;
  const std::string type = option.get_items_expected_max() == 0 ? "" : option.get_type_name();
  return type.empty() ? form : form + " " + type;
}

std::string help_of(const CLI::App& app) {
  if (app.get_parent() == nullptr) return help_of_program(app);
  std::string usage = "opensum " + app.get_name();
  std::vector<std::pair<std::string, std::string>> arguments;
  std::vector<std::pair<std::string, std::string>> own;
  std::vector<std::pair<std::string, std::string>> reading;
  std::string needed;
  bool any = false;
  for (const CLI::Option* option : app.get_options()) {
    const std::string form = option_form(*option);
    if (option->get_positional()) {
      const std::string several = option->get_items_expected_max() > 1 ? "…" : "";
      usage += option->get_required() ? fmt::format(" {}{}", form, several)
                                      : fmt::format(" [{}{}]", form, several);
      arguments.emplace_back(form, option->get_description());
      continue;
    }
    any = true;
    if (option->get_required()) needed += " " + form;
    (option->get_group() == kReadingGroup ? reading : own).emplace_back(form, option->get_description());
  }
  // How to get help is no news to who reads it.
  std::rotate(own.begin(), own.begin() + 1, own.end());
  usage += needed + (any ? " [OPTIONS]" : "");
  std::string out = fmt::format("{}\n\n{}\n", usage, from_column(sentence(app.get_description()), 0));
  if (!arguments.empty()) out += '\n' + listed(arguments);
  out += "\nOptions\n" + listed(own);
  if (!reading.empty()) out += fmt::format("\n{}\n{}", kReadingGroup, listed(reading));
  return out + '\n' + app.get_footer() + '\n';
}

}  // namespace opensum
