// opensum run: everything in a study.
#include <memory>

#include "again/monte_carlo.h"
#include "base/parallel.h"
#include "cli/command.h"
#include "report/record.h"
#include "report/summary.h"
#include "run/compute.h"
#include "run/prepare.h"
#include "run/write.h"

namespace opensum {

namespace {

std::optional<int> run_rows(const RunOptions& options, Rows rows, Streams& streams) {
  Diagnostics diagnostics;
  const StudyChanges changes = changes_of(options);
  const auto prepared = prepare_study_file(options.study, diagnostics, rows, std::nullopt, changes);
  if (!prepared || diagnostics.has_errors()) {
    if (prepared && is_guess(*prepared)) return std::nullopt;
    return report(diagnostics, streams);
  }
  if (!options.output.empty()) prepared->output = options.output;
  std::optional<SamplingFacts> sampling;
  if (options.uncertainty == "monte-carlo") {
    sampling = sample_study(options.study, {options.trials, options.seed}, changes, diagnostics);
    if (!sampling) return report(diagnostics, streams);
  }
  prepared->inputs.start_digests();
  const RunFacts facts = write_results(*prepared, diagnostics, std::move(sampling));
  const int code = report(diagnostics, streams);
  if (code != 0) return code;
  if (options.format == "json") {
    streams.out << record_json(facts);
  } else if (!options.quiet) {
    streams.out << (options.details ? details_text(facts) : summary_text(facts));
  }
  Diagnostics of_claims;
  report_claims(*prepared, of_claims);
  streams.out.flush();
  return report(of_claims, streams);
}

}  // namespace

StudyChanges changes_of(const RunOptions& options) {
  StudyChanges changes;
  for (const std::string& constant : options.constants)
    changes.constants.push_back(Passage::whole("--constant", constant));
  for (const std::string& name : options.only) changes.only.push_back(Passage::whole("--only", name));
  changes.in_database = options.in_database ? InDatabase::always : InDatabase::as_written;
  return changes;
}

void add_study_options(Command& command, RunOptions& options) {
  command.argument("STUDY", options.study, "the study; default study.toml").not_empty();
  command.option("-o,--output", options.output, "folder for the results, instead of the study's own")
      .not_empty()
      .value("DIR");
  command
      .option("--constant", options.constants,
              "another value for a constant of the study, such as 'cp [kJ/(kg K)] = 4.2'; said in all "
              "that is written")
      .one_value_each()
      .value("DEFINITION");
  command.option("--threads", options.threads, "how many work at a time; default: as many as there are cores")
      .whole_number(1, 1024)
      .value("N");
}

int run_study(const RunOptions& options, Streams& streams) {
  Diagnostics diagnostics;
  if (options.format != "table" && options.format != "json") {
    diagnostics.add(Code::option_value, {"--format", "table or json", options.format});
    return report(diagnostics, streams);
  }
  if (options.uncertainty != "linear" && options.uncertainty != "monte-carlo") {
    diagnostics.add(Code::option_value, {"--uncertainty", "linear or monte-carlo", options.uncertainty});
    return report(diagnostics, streams);
  }
  return with_first_look([&](Rows rows) { return run_rows(options, rows, streams); });
}

void add_run(CommandLine& command_line) {
  auto options = std::make_shared<RunOptions>();
  Command command = command_line.add("run", "compute everything in a study and write the results",
                                     "  opensum run opensum-demo/study.toml\n"
                                     "  opensum run opensum-demo/study.toml --output elsewhere --quiet");
  add_study_options(command, *options);
  command
      .option("--only", options->only,
              "this sheet, fit or plot with what it needs, and nothing else; repeated: and this one")
      .comma_separated()
      .one_value_each()
      .value("NAME");
  command
      .option("--uncertainty", options->uncertainty,
              "linear (default), or monte-carlo: also by sampling, as a check of it")
      .value("HOW");
  command.option("--trials", options->trials, "how often is sampled; default 10000")
      .whole_number(100, 10'000'000)
      .value("N");
  command.option("--seed", options->seed, "another one gives other trials; default 1")
      .whole_number(0, 1'000'000'000)
      .value("N");
  command.flag("--in-database", options->in_database, "compute sheets whose rows are in a database there");
  command.flag("--details", options->details, "say it of every column, rule, link and file");
  command.flag("-q,--quiet", options->quiet, "print no summary");
  command.option("--format", options->format, "print the summary as table or json").value("FORM");
  command.runs([options](Streams& streams) {
    set_threads(options->threads);
    return run_study(*options, streams);
  });
}

}  // namespace opensum
