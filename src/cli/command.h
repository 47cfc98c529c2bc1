// What every command has: streams to print to, and a place among the subcommands.
#pragma once

#include <ostream>
#include <string>

#include "cli/command_line.h"
#include "message/diagnostic.h"
#include "model/study_changes.h"
#include "report/progress_line.h"

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

/// Wipes the line that shows how far work has come; no further one is shown.
void end_progress(Streams& streams);

/// Prints diagnostics; gives the exit code of the gravest.
int report(const Diagnostics& diagnostics, Streams& streams);

/// The option `--format` of a command that prints lists: table or markdown.
void add_list_format(Command& command, std::string& format);

void add_run(CommandLine& command_line);
void add_check(CommandLine& command_line);
void add_look(CommandLine& command_line);
void add_new(CommandLine& command_line);
void add_derive(CommandLine& command_line);
void add_calc(CommandLine& command_line);
void add_units(CommandLine& command_line);
void add_functions(CommandLine& command_line);
void add_explain(CommandLine& command_line);
void add_demo(CommandLine& command_line);
void add_compare(CommandLine& command_line);
void add_verify(CommandLine& command_line);
void add_watch(CommandLine& command_line);
void add_fit(CommandLine& command_line);
void add_plot(CommandLine& command_line);

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
  bool in_database = false;            ///< sheets whose rows are in a database are computed there
};

/// What these options change in a study.
StudyChanges changes_of(const RunOptions& options);

/// Adds STUDY and the options that `run` and `watch` share.
void add_study_options(Command& command, RunOptions& options);

/// Runs a study and prints its summary: what `run` and `demo` share.
int run_study(const RunOptions& options, Streams& streams);

}  // namespace opensum
