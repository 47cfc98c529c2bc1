// opensum verify: whether results are what their record says, and come out the same again.
#include "again/verify.h"

#include <memory>

#include "base/parallel.h"
#include "cli/command.h"

namespace opensum {
namespace {

struct VerifyOptions {
  std::string results = "results";
  std::string study;
  std::string format = "table";
  std::size_t threads = 0;
};

int verify(const VerifyOptions& options, Streams& streams) {
  Diagnostics diagnostics;
  if (options.format != "table" && options.format != "json") {
    diagnostics.add(Code::option_value, {"--format", "table or json", options.format});
    return report(diagnostics, streams);
  }
  std::string results = options.results;
  while (results.size() > 1 && results.back() == '/') results.pop_back();
  const auto verification = verify_results(results, options.study, diagnostics);
  if (const int code = report(diagnostics, streams); code != 0 || !verification) return code;
  streams.out << (options.format == "json" ? verification_json(*verification)
                                           : verification_text(*verification));
  return static_cast<int>(verification->good() ? Exit::done : Exit::different);
}

}  // namespace

void add_verify(CommandLine& command_line) {
  auto options = std::make_shared<VerifyOptions>();
  Command command =
      command_line.add("verify", "check results against their record, and compute them again",
                       "  opensum verify opensum-demo/results\n"
                       "  opensum verify opensum-demo/results --study opensum-demo/study.toml --format json");
  command.argument("RESULTS", options->results, "the folder with record.json; default results").not_empty();
  command.option("--study", options->study, "the study, if it is no longer where it was")
      .not_empty()
      .value("STUDY");
  command
      .option("--threads", options->threads, "how many work at a time; default: as many as there are cores")
      .whole_number(1, 1024)
      .value("N");
  command.option("--format", options->format, "print as table or json").value("FORM");
  command.runs([options](Streams& streams) {
    set_threads(options->threads);
    return verify(*options, streams);
  });
}

}  // namespace opensum
