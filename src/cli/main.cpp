// The program `opensum`: reads the command line and runs the command chosen.
#include <sys/ioctl.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstdlib>
#include <exception>
#include <iostream>
#include <new>
#include <optional>
#include <utility>

#include "cli/arguments.h"
#include "cli/command.h"
#include "cli/help.h"
#include "cli/interface.h"
#include "cli/standard_output.h"
#include "files/leftovers.h"
#include "files/text_file.h"
#include "message/nearest.h"
#include "message/other_words.h"
#include "report/progress_line.h"
#include "version.h"

namespace opensum {
namespace {

constexpr std::size_t kNarrowest = 40;

std::size_t terminal_width(int descriptor) {
  winsize size{};
  if (::ioctl(descriptor, TIOCGWINSZ, &size) == 0 && size.ws_col > 0) {
    return std::max<std::size_t>(size.ws_col, kNarrowest);
  }
  return 80;
}

// What is said where no command is named: all of them, how one is used, or the one that was likely meant.
std::optional<int> without_command(const CommandLine& command_line, int argc, char** argv, Streams& streams) {
  const std::string word = argc < 2 ? "help" : argv[1];
  std::vector<std::string> commands;
  for (const CommandFacts& command : command_line.commands()) commands.push_back(command.name);
  const auto named = [&](const std::string& name) { return command_line.find(name) != nullptr; };
  if (word == "interface")
    return tell_others(command_line, std::vector<std::string>(argv + 2, argv + argc), streams);
  if (word == "help") {
    const std::string about = argc > 2 ? argv[2] : "";
    streams.out << (named(about) ? help_of(*command_line.find(about))
                                 : help_of(command_line.facts(), command_line.commands()));
    return static_cast<int>(Exit::done);
  }
  if (word.empty() || word.starts_with('-') || named(word)) return std::nullopt;
  std::string meant = word_here(WordFor::command, word);
  if (word == "version") meant = "--version";
  if (meant.empty()) meant = nearest_name(word, commands);
  Diagnostics diagnostics;
  diagnostics.add(Code::unknown_command, {word, meant.empty() ? "" : "opensum " + meant});
  return report(diagnostics, streams);
}

// The exit code with regard to whether everything printed got through. A reader that went away wants no more.
int code_of_output(int code, StandardOutput& printed, Streams& streams) {
  streams.out.flush();
  if (printed.error() == 0 || printed.error() == EPIPE) return code;
  Diagnostics diagnostics;
  diagnostics.add(Code::output_lost, {system_reason(printed.error())});
  const int lost = report(diagnostics, streams);
  return code == static_cast<int>(Exit::done) ? lost : code;
}

int run(int argc, char** argv) {
  CommandLine command_line(
      "Open Sum derives calculated columns from measured tables: units checked, nulls explained.",
      std::string("opensum ") + kVersion);
  add_run(command_line);
  add_check(command_line);
  add_look(command_line);
  add_new(command_line);
  add_derive(command_line);
  add_plot(command_line);
  add_fit(command_line);
  add_explain(command_line);
  add_calc(command_line);
  add_units(command_line);
  add_functions(command_line);
  add_compare(command_line);
  add_verify(command_line);
  add_watch(command_line);
  add_demo(command_line);
  const char* no_color = std::getenv("NO_COLOR");
  const bool color = ::isatty(STDERR_FILENO) != 0 && (no_color == nullptr || *no_color == '\0');
  const bool to_terminal = ::isatty(STDOUT_FILENO) != 0;
  StandardOutput printed(to_terminal);
  std::ostream out(&printed);
  Streams streams{out, std::cerr, color, to_terminal, terminal_width(STDOUT_FILENO)};
  if (const auto code = without_command(command_line, argc, argv, streams))
    return code_of_output(*code, printed, streams);
  Diagnostics of_words;
  const std::vector<std::string> words =
      completed_words(command_line, std::vector<std::string>(argv + 1, argv + argc), of_words);
  if (of_words.has_errors()) return report(of_words, streams);
  const ParsedWords parsed = command_line.parse(words);
  if (!parsed.told.empty()) {
    out << parsed.told;
    return code_of_output(static_cast<int>(Exit::done), printed, streams);
  }
  if (parsed.fault != WordFault::none) {
    report_words(command_line, parsed, words, of_words);
    return report(of_words, streams);
  }
  clean_up_when_stopped();
  ProgressLine line(std::cerr, terminal_width(STDERR_FILENO));
  const char* terminal = std::getenv("TERM");
  const bool can_wipe = terminal != nullptr && std::string(terminal) != "dumb";
  if (can_wipe && ::isatty(STDERR_FILENO) != 0)
    listen_to_progress([&line](const Progress& progress) { line.show(progress); });
  streams.progress = &line;
  const int code = command_line.chosen()(streams);
  end_progress(streams);
  return code_of_output(code, printed, streams);
}

}  // namespace
}  // namespace opensum

int main(int argc, char** argv) {
  try {
    return opensum::run(argc, argv);
  } catch (const std::bad_alloc&) {
    // No more memory is asked for to say it.
    std::cerr << "opensum: error: this takes more memory than there is\n      hint: "
              << (opensum::is_anything_written()
                      ? "the results were written, and only what is said of them is missing"
                      : "nothing was written")
              << "; keep fewer rows or columns, or run it where there is more memory\n";
    return static_cast<int>(opensum::Exit::data);
  } catch (const std::exception& error) {
    std::cerr << "opensum: a fault of the program: " << error.what() << '\n';
    return static_cast<int>(opensum::Exit::fault);
  }
}
