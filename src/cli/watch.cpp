// opensum watch: runs a study, and again whenever it or a file that it reads changes.
#include <signal.h>
#include <sys/signalfd.h>

#include <algorithm>
#include <ctime>
#include <filesystem>
#include <memory>
#include <set>
#include <system_error>
#include <tuple>

#include "again/compare_results.h"
#include "base/parallel.h"
#include "base/split.h"
#include "base/temporary_folder.h"
#include "cli/command.h"
#include "files/file_names.h"
#include "files/file_watcher.h"
#include "report/summary.h"
#include "run/compute.h"
#include "run/prepare.h"
#include "run/write.h"
#include "study/sources.h"

namespace opensum {
namespace {

std::string clock_now() {
  const std::time_t now = std::time(nullptr);
  std::tm local{};
  ::localtime_r(&now, &local);
  std::array<char, 16> text{};
  const std::size_t length = std::strftime(text.data(), text.size(), "%H:%M:%S", &local);
  return {text.data(), length};
}

// Signals that end the watching, as something to be read from. They are held back from the threads of a run,
// so that what it writes is written, and the page is told that nobody watches any more.
class StopSignal {
 public:
  StopSignal() {
    sigset_t signals;
    ::sigemptyset(&signals);
    for (const int signal : {SIGINT, SIGTERM, SIGHUP}) ::sigaddset(&signals, signal);
    ::pthread_sigmask(SIG_BLOCK, &signals, nullptr);
    descriptor_ = OwnedDescriptor(::signalfd(-1, &signals, SFD_CLOEXEC | SFD_NONBLOCK));
  }
  int descriptor() const { return descriptor_.number(); }

 private:
  OwnedDescriptor descriptor_;
};

// The tables and the record of a folder of results as they are now, in a folder of their own.
void copy_results(const std::string& results, const std::string& to) {
  std::error_code ignored;
  for (const auto& entry : std::filesystem::directory_iterator(results, ignored)) {
    const std::string name = entry.path().filename().string();
    if (name.ends_with(".csv") || name.ends_with(".json"))
      std::filesystem::copy_file(entry.path(), std::filesystem::path(to) / name, ignored);
  }
}

// A part of a summary: a line, with those that are indented more deeply than it and its like.
struct SummaryItem {
  std::string heading;  // the line without indent above it; empty where it is that line itself
  std::string text;
  friend bool operator<(const SummaryItem& a, const SummaryItem& b) {
    return std::tie(a.heading, a.text) < std::tie(b.heading, b.text);
  }
};

std::vector<SummaryItem> items_of(const std::string& summary) {
  constexpr std::size_t kIndent = 2;
  std::vector<SummaryItem> items;
  std::string heading;
  for (const std::string& line : split(summary, '\n')) {
    const std::size_t indent = line.find_first_not_of(' ');
    if (indent == std::string::npos) continue;
    if (indent == 0) heading = line;
    if (indent > kIndent && !items.empty() && items.back().text == heading) {
      // What stands above the columns of a table.
      heading = items.back().text += '\n' + line;
    } else if (indent > kIndent && !items.empty()) {
      items.back().text += '\n' + line;
    } else {
      items.push_back({indent == 0 ? "" : heading, line});
    }
  }
  return items;
}

// What a summary says that another one did not, under the headings it stands under.
std::string new_lines(const std::string& summary, const std::string& before) {
  const std::vector<SummaryItem> old = items_of(before);
  const std::set<SummaryItem> known(old.begin(), old.end());
  std::string out;
  std::string said;
  for (const SummaryItem& item : items_of(summary)) {
    if (known.contains(item)) continue;
    if (!item.heading.empty() && item.heading != said) out += item.heading + '\n';
    said = item.heading.empty() ? item.text : item.heading;
    out += item.text + '\n';
  }
  return out;
}

class Watch {
 public:
  Watch(const RunOptions& options, Streams& streams) : options_(options), streams_(streams) {}

  int run() {
    const StopSignal stop;
    FileWatcher watcher;
    paths_ = {options_.study};
    for (bool first = true;; first = false) {
      // Changes that come while it is computed are for the next turn.
      watcher.watch({paths_.begin(), paths_.end()});
      turn(first);
      const std::string fault = watcher.watch({paths_.begin(), paths_.end()});
      if (!fault.empty()) {
        Diagnostics diagnostics;
        diagnostics.add(Code::watch_unable, {options_.study, fault});
        return report(diagnostics, streams_);
      }
      streams_.out.flush();
      const std::vector<std::string> changed = watcher.wait(stop.descriptor());
      if (changed.empty()) break;
      streams_.out << '\n' << clock_now() << "  changed:";
      for (const std::string& path : changed) streams_.out << ' ' << path;
      streams_.out << '\n' << std::flush;
    }
    settle_page();
    return static_cast<int>(Exit::done);
  }

 private:
  // One run. What is wrong is said, and the last good results stay.
  void turn(bool first) {
    const TemporaryFolder before;
    if (!output_.empty()) copy_results(output_, before.path());
    Diagnostics diagnostics;
    bool good = false;
    try {
      with_first_look([&](Rows rows) -> std::optional<int> {
        diagnostics = {};
        good = false;
        const auto prepared =
            prepare_study_file(options_.study, diagnostics, rows, std::nullopt, changes_of(options_));
        if (prepared) note_paths(*prepared);
        if (!prepared || diagnostics.has_errors()) {
          if (prepared && is_guess(*prepared)) return std::nullopt;
          return 0;
        }
        if (!options_.output.empty()) prepared->output = options_.output;
        prepared->watched = true;
        prepared->inputs.start_digests();
        facts_ = write_results(*prepared, diagnostics);
        good = !diagnostics.has_errors();
        if (good) output_ = prepared->output;
        if (good) report_claims(*prepared, diagnostics);
        return 0;
      });
    } catch (const std::filesystem::filesystem_error& error) {
      // A folder may be gone for a moment.
      streams_.err << "opensum: " << error.what() << '\n';
    }
    report(diagnostics, streams_);
    if (good) {
      tell(first, before.path());
    } else if (!summary_.empty()) {
      streams_.out << "the results are still those of " << time_of_results_ << '\n';
    }
    if (first) streams_.out << "watching " << paths_.size() << " files; Ctrl+C ends it\n";
  }

  void tell(bool first, const std::string& before) {
    const std::string summary = summary_text(facts_);
    time_of_results_ = clock_now();
    if (first || summary_.empty()) {
      streams_.out << summary;
    } else {
      std::string changed;
      Diagnostics ignored;
      const auto comparison = compare_results(before, output_, {}, ignored);
      if (comparison && !comparison->same()) changed = comparison_text(*comparison);
      const std::string said = new_lines(summary, summary_);
      if (!changed.empty() && !said.empty()) changed += '\n';
      changed += said;
      streams_.out << (changed.empty() ? "nothing in the results is otherwise\n" : changed);
    }
    summary_ = summary;
  }

  void note_paths(const PreparedStudy& prepared) {
    std::set<std::string> paths = {options_.study};
    for (const auto& input : prepared.inputs.all()) paths.insert(input->path);
    for (const SheetModel& sheet : prepared.study.sheets) {
      for (const Passage& data : sheet.data) {
        const std::string path = resolved(prepared.folder, data.text());
        const std::size_t part = path.rfind('#');
        paths.insert(path.substr(0, std::filesystem::exists(path) ? path.size() : part));
      }
    }
    paths.erase(kStandardInput);
    paths_ = std::move(paths);
  }

  // The page as it is when nobody watches.
  void settle_page() {
    if (output_.empty() || facts_.page.empty()) return;
    Diagnostics diagnostics;
    const Inputs none;
    OutputFiles files(none, true, Sharing::alone);
    if (files.write(output_ + "/" + kReportFile, facts_.page, diagnostics)) files.commit(diagnostics);
    report(diagnostics, streams_);
  }

  const RunOptions& options_;
  Streams& streams_;
  std::set<std::string> paths_;
  RunFacts facts_;  // of the last good run
  std::string summary_;
  std::string output_;
  std::string time_of_results_;
};

int watch(const RunOptions& options, Streams& streams) {
  if (options.study == "-") {
    Diagnostics diagnostics;
    diagnostics.add(Code::watch_unable, {kStandardInput, "it cannot be read twice"});
    return report(diagnostics, streams);
  }
  try {
    return Watch(options, streams).run();
  } catch (const std::system_error& error) {
    Diagnostics diagnostics;
    diagnostics.add(Code::watch_unable, {options.study, error.code().message()});
    return report(diagnostics, streams);
  }
}

}  // namespace

void add_watch(CommandLine& command_line) {
  auto options = std::make_shared<RunOptions>();
  Command command = command_line.add("watch", "run a study, and again whenever it or its data change",
                                     "  opensum watch opensum-demo/study.toml\n"
                                     "  opensum watch opensum-demo/study.toml --output elsewhere");
  add_study_options(command, *options);
  command.runs([options](Streams& streams) {
    set_threads(options->threads);
    return watch(*options, streams);
  });
}

}  // namespace opensum
