// What every command has: streams to print to, and a place among the subcommands.
#pragma once

#include <functional>
#include <ostream>
#include <string>

#include "message/diagnostic.h"
#include "model/study_changes.h"
#include "report/progress_line.h"

namespace CLI {
class App;
class Validator;
}  // namespace CLI

namespace opensum {

/// The exit codes of the program.
enum class Exit : int {
  done = 0,
  fault = 1,
  command = 2,
  study = 3,
  data = 4,
  claim = 5,      ///< a claim of a study does not hold
  different = 5,  ///< what was compared or verified is not the same
};

/// Where results and messages go.
struct Streams {
  std::ostream& out;
  std::ostream& err;
  bool color = false;  ///< of messages
  bool out_is_terminal = false;
  std::size_t width = 80;  ///< of the terminal
  ProgressLine* progress = nullptr;
};

/// The command that the command line chose, ready to run.
using Chosen = std::function<int(Streams&)>;

/// Wipes the line that shows how far work has come; no further one is shown.
void end_progress(Streams& streams);

/// Prints diagnostics; gives the exit code of the gravest.
int report(const Diagnostics& diagnostics, Streams& streams);

/// Makes a subcommand with its description and worked examples.
CLI::App* add_command(CLI::App& app, const std::string& name, const std::string& description,
                      const std::string& examples);

/// The command of a name; a null pointer for none.
const CLI::App* find_command(const CLI::App& app, const std::string& name);

/// Refuses an argument without a character, such as that of a shell variable that was never set.
CLI::Validator not_empty();

/// The option `--format` of a command that prints lists: table or markdown.
void add_list_format(CLI::App& command, std::string& format);

/// Refuses what is no whole number from `least` to `greatest`.
CLI::Validator whole_number(std::size_t least, std::size_t greatest);

void add_run(CLI::App& app, Chosen& chosen);
void add_check(CLI::App& app, Chosen& chosen);
void add_look(CLI::App& app, Chosen& chosen);
void add_new(CLI::App& app, Chosen& chosen);
void add_derive(CLI::App& app, Chosen& chosen);
void add_calc(CLI::App& app, Chosen& chosen);
void add_units(CLI::App& app, Chosen& chosen);
void add_functions(CLI::App& app, Chosen& chosen);
void add_explain(CLI::App& app, Chosen& chosen);
void add_demo(CLI::App& app, Chosen& chosen);
void add_compare(CLI::App& app, Chosen& chosen);
void add_verify(CLI::App& app, Chosen& chosen);
void add_watch(CLI::App& app, Chosen& chosen);
void add_fit(CLI::App& app, Chosen& chosen);
void add_plot(CLI::App& app, Chosen& chosen);

/// How a study is run, and how its summary is printed.
struct RunOptions {
  std::string study = "study.toml";
  std::string output;  ///< a folder instead of the study's own
  bool quiet = false;
  bool details = false;  ///< whether the summary says everything
  std::string format = "table";
  std::size_t threads = 0;
  std::string uncertainty = "linear";
  std::size_t trials = 10'000;
  std::uint64_t seed = 1;
  std::vector<std::string> constants;  ///< definitions in the place of the study's
  std::vector<std::string> only;       ///< sheets, fits and plots
};

/// What these options change in a study.
StudyChanges changes_of(const RunOptions& options);

/// Adds STUDY and the options that `run` and `watch` share.
void add_study_options(CLI::App& command, RunOptions& options);

/// Runs a study and prints its summary: what `run` and `demo` share.
int run_study(const RunOptions& options, Streams& streams);

}  // namespace opensum
