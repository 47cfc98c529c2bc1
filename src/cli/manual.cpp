// The pages of the manual.
#include "cli/manual.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/sentence.h"
#include "base/split.h"
#include "cli/help.h"
#include "version.h"

namespace opensum {
namespace {

// Text as the macros take it: a backslash and a minus are signs of their own, and a line that begins with a
// point or an apostrophe would be a request.
std::string escaped(const std::string& text) {
  std::string out;
  bool at_begin = true;
  for (const char c : text) {
    if (at_begin && (c == '.' || c == '\'')) out += "\\&";
    if (c == '\\') {
      out += "\\e";
    } else if (c == '-') {
      out += "\\-";
    } else {
      out += c;
    }
    at_begin = c == '\n';
  }
  return out;
}

std::string upper(std::string text) {
  std::transform(text.begin(), text.end(), text.begin(),
                 [](unsigned char c) { return static_cast<char>(std::toupper(c)); });
  return text;
}

std::string head(const std::string& name, const std::string& description) {
  return fmt::format(".TH {} 1 \"\" \"Open Sum {}\" \"Open Sum\"\n.SH NAME\n{} \\- {}\n", upper(name),
                     kVersion, escaped(name), escaped(description));
}

void append_items(std::string& out, const std::string& title,
                  const std::vector<std::pair<std::string, std::string>>& items) {
  if (items.empty()) return;
  out += ".SH " + title + "\n";
  for (const auto& [form, meaning] : items)
    out += fmt::format(".TP\n.B {}\n{}\n", escaped(form), escaped(full_sentence(meaning)));
}

constexpr const char* kExitCodes =
    ".SH EXIT STATUS\n"
    ".TP\n.B 0\nDone.\n"
    ".TP\n.B 1\nA fault of the program.\n"
    ".TP\n.B 2\nThe command line, or where to write.\n"
    ".TP\n.B 3\nThe study: an equation, a unit, a name.\n"
    ".TP\n.B 4\nThe data: a file, a cell, a key.\n"
    ".TP\n.B 5\nDone, but a claim of the study does not hold, or what was compared or verified is not the "
    "same.\n";

constexpr const char* kEnvironment =
    ".SH ENVIRONMENT\n"
    ".TP\n.B OPENSUM_PATH\nFolders, divided by colons, in which files are looked for that a study uses and "
    "that are "
    "not beside it; after them\n.I opensum\nin XDG_CONFIG_HOME or ~/.config.\n"
    ".TP\n.B NO_COLOR\nMessages have no colours.\n";

}  // namespace

std::string manual_page(const CommandLine& command_line) {
  std::string out = head("opensum", "derive calculated columns from measured tables");
  out += ".SH SYNOPSIS\n.B opensum\n.I COMMAND\n[\\fIARGUMENTS\\fR] [\\fIOPTIONS\\fR]\n";
  out += ".SH DESCRIPTION\n" + escaped(command_line.facts().purpose) + "\n";
  std::vector<std::pair<std::string, std::string>> commands;
  for (const CommandFacts& command : command_line.commands())
    commands.emplace_back(command.name, command.purpose);
  append_items(out, "COMMANDS", commands);
  std::vector<std::pair<std::string, std::string>> options;
  for (const OptionFacts& option : command_line.facts().options)
    options.emplace_back(option.form(), option.meaning);
  append_items(out, "OPTIONS", options);
  out += kExitCodes;
  out += kEnvironment;
  out += ".SH SEE ALSO\n";
  for (std::size_t i = 0; i < commands.size(); ++i)
    out += fmt::format(".BR opensum\\-{} (1){}\n", commands[i].first, i + 1 < commands.size() ? "," : "");
  return out;
}

std::string manual_page(const CommandFacts& command) {
  std::vector<std::pair<std::string, std::string>> arguments;
  std::vector<std::pair<std::string, std::string>> own;
  std::vector<std::pair<std::string, std::string>> reading;
  std::string synopsis;
  for (const OptionFacts& option : command.options) {
    const std::string form = option.form();
    if (!option.argument.empty()) {
      arguments.emplace_back(form, option.meaning);
      synopsis += fmt::format(fmt::runtime(option.needed ? " \\fI{}\\fR{}" : " [\\fI{}\\fR{}]"),
                              escaped(form), option.repeated ? " ..." : "");
      continue;
    }
    if (option.needed) synopsis += " " + escaped(form);
    (option.about_reading ? reading : own).emplace_back(form, option.meaning);
  }
  std::string out = head("opensum-" + command.name, command.purpose);
  out += fmt::format(".SH SYNOPSIS\n.B opensum {}\n{} [\\fIOPTIONS\\fR]\n", command.name,
                     synopsis.empty() ? synopsis : synopsis.substr(1));
  out += ".SH DESCRIPTION\n" + escaped(full_sentence(command.purpose)) + "\n";
  append_items(out, "ARGUMENTS", arguments);
  append_items(out, "OPTIONS", own);
  append_items(out, "HOW FILE IS READ", reading);
  out += kExitCodes;
  out += ".SH EXAMPLES\n" + escaped(full_sentence(kExamples)) + "\n.PP\n.nf\n.RS 4\n";
  for (const std::string& line : split(command.examples, '\n'))
    out += escaped(line.substr(std::min<std::size_t>(2, line.size()))) + "\n";
  out += ".RE\n.fi\n.SH SEE ALSO\n.BR opensum (1)\n";
  return out;
}

}  // namespace opensum
