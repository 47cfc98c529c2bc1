// opensum demo: writes the demo study and its data, and runs it.
#include <filesystem>
#include <memory>

#include "cli/command.h"
#include "cli/demo_files.h"
#include "files/output.h"

namespace opensum {
namespace {

// Whether a file already holds exactly this content.
bool holds(const std::string& path, const char* content) {
  if (!std::filesystem::exists(path)) return false;
  Inputs inputs;
  Diagnostics ignored;
  const auto file = inputs.read(path, {}, ignored);
  return file && file->text == content;
}

int demo(const std::string& folder, Streams& streams) {
  Diagnostics diagnostics;
  {
    const Inputs none;
    OutputFiles files(none, false, Sharing::with_others, "name another folder: opensum demo DIR");
    for (const DemoFile& file : demo_files()) {
      const std::string path = folder + "/" + file.name;
      // Running the demo again is no reason to complain about its own files.
      if (holds(path, file.content)) continue;
      // What is wrong with one folder need not be said of each of its files.
      if (!files.write(path, file.content, diagnostics)) break;
    }
    if (!diagnostics.has_errors()) files.commit(diagnostics);
  }
  if (const int code = report(diagnostics, streams)) return code;
  RunOptions bench;
  bench.study = folder + "/study.toml";
  if (const int code = run_study(bench, streams)) return code;
  streams.out << "\nA second study, of gaps, dates and detection limits, is in " << folder << "/pond:\n\n";
  RunOptions pond;
  pond.study = folder + "/pond/study.toml";
  if (const int code = run_study(pond, streams)) return code;
  streams.out << "\nA third one, of spectra whose cells become rows, is in " << folder << "/dye:\n\n";
  RunOptions dye;
  dye.study = folder + "/dye/study.toml";
  if (const int code = run_study(dye, streams)) return code;
  streams.out << "\nThe demo is in " << folder << ". Open these:\n"
              << "  " << folder << "/study.toml                      the study: what is calculated, and how\n"
              << "  " << folder
              << "/results/day1.csv                measured and derived columns side by side\n"
              << "  " << folder << "/results/figures/duty.png        derived against measured\n"
              << "  " << folder
              << "/pond/study.toml                 the second study, with a rule for every gap\n"
              << "  " << folder
              << "/pond/results/pond.csv           what was measured, and beside it filled\n"
              << "  " << folder << "/pond/results/nulls.csv          every null and what became of it\n"
              << "  " << folder << "/dye/results/figures/spectra.png a wide table, made long and drawn\n"
              << "  " << folder
              << "/dye/results/samples.csv         what the calibration found in the rinse\n";
  return static_cast<int>(Exit::done);
}

}  // namespace

void add_demo(CommandLine& command_line) {
  auto folder = std::make_shared<std::string>("opensum-demo");
  Command command = command_line.add("demo", "write the demo study and its data, and run it",
                                     "  opensum demo\n"
                                     "  opensum demo plate-cooler");
  command.argument("DIR", *folder, "where to; default opensum-demo").not_empty();
  command.runs([folder](Streams& streams) { return demo(*folder, streams); });
}

}  // namespace opensum
