// The program `opensum`: reads the command line and runs the command chosen.
#include <sys/ioctl.h>
#include <unistd.h>

#include <CLI/CLI.hpp>
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
std::optional<int> without_command(CLI::App& app, int argc, char** argv, Streams& streams) {
  const std::string word = argc < 2 ? "help" : argv[1];
  std::vector<std::string> commands;
  for (const CLI::App* command : app.get_subcommands({})) commands.push_back(command->get_name());
  const auto named = [&](const std::string& name) { return find_command(app, name) != nullptr; };
  if (word == "interface") return tell_others(app, std::vector<std::string>(argv + 2, argv + argc), streams);
  if (word == "help") {
    const std::string about = argc > 2 ? argv[2] : "";
    streams.out << (named(about) ? help_of(*app.get_subcommand(about)) : help_of(app));
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
  CLI::App app("Open Sum derives calculated columns from measured tables: units checked, nulls explained.",
               "opensum");
  app.set_help_flag("-h,--help", "how it is used");
  app.set_version_flag("-V,--version", std::string("opensum ") + kVersion, "which version this is");
  app.formatter_fn([](const CLI::App* of, const std::string&, CLI::AppFormatMode) { return help_of(*of); });
  app.require_subcommand(1);
  Chosen chosen;
  add_run(app, chosen);
  add_check(app, chosen);
  add_look(app, chosen);
  add_new(app, chosen);
  add_derive(app, chosen);
  add_plot(app, chosen);
  add_fit(app, chosen);
  add_explain(app, chosen);
  add_calc(app, chosen);
  add_units(app, chosen);
  add_functions(app, chosen);
  add_compare(app, chosen);
  add_verify(app, chosen);
  add_watch(app, chosen);
  add_demo(app, chosen);
  const char* no_color = std::getenv("NO_COLOR");
  const bool color = ::isatty(STDERR_FILENO) != 0 && (no_color == nullptr || *no_color == '\0');
  const bool to_terminal = ::isatty(STDOUT_FILENO) != 0;
  StandardOutput printed(to_terminal);
  std::ostream out(&printed);
  Streams streams{out, std::cerr, color, to_terminal, terminal_width(STDOUT_FILENO)};
  if (const auto code = without_command(app, argc, argv, streams))
    return code_of_output(*code, printed, streams);
  Diagnostics of_arguments;
  std::vector<std::string> arguments =
      completed_arguments(app, std::vector<std::string>(argv + 1, argv + argc), of_arguments);
  if (of_arguments.has_errors()) return report(of_arguments, streams);
  try {
    // The parser takes them from the back.
    app.parse(std::vector<std::string>(arguments.rbegin(), arguments.rend()));
  } catch (const CLI::Success& done) {
    app.exit(done, out, std::cerr);
    return code_of_output(static_cast<int>(Exit::done), printed, streams);
  } catch (const CLI::ParseError& error) {
    report_parse_error(app, error, arguments, of_arguments);
    return report(of_arguments, streams);
  }
  clean_up_when_stopped();
  ProgressLine line(std::cerr, terminal_width(STDERR_FILENO));
  const char* terminal = std::getenv("TERM");
  const bool can_wipe = terminal != nullptr && std::string(terminal) != "dumb";
  if (can_wipe && ::isatty(STDERR_FILENO) != 0)
    listen_to_progress([&line](const Progress& progress) { line.show(progress); });
  streams.progress = &line;
  const int code = chosen(streams);
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
    std::cerr << "opensum: error: this takes more memory than there is\n"
                 "      hint: nothing was written; keep fewer rows or columns, or run it where there is more "
                 "memory\n";
    return static_cast<int>(opensum::Exit::data);
  } catch (const std::exception& error) {
    std::cerr << "opensum: a fault of the program: " << error.what() << '\n';
    return static_cast<int>(opensum::Exit::fault);
  }
}
