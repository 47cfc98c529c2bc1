// What every command has.
#include "cli/command.h"

namespace opensum {

void end_progress(Streams& streams) {
  listen_to_progress({});
  if (streams.progress != nullptr) streams.progress->wipe();
}

int report(const Diagnostics& diagnostics, Streams& streams) {
  end_progress(streams);
  streams.err << render(diagnostics, streams.color);
  return diagnostics.exit_code();
}

void add_list_format(Command& command, std::string& format) {
  command.option("--format", format, "print as table or markdown")
      .refuses([](const std::string& word) {
        return word == "table" || word == "markdown" ? std::string()
                                                     : "table or markdown is needed, not `" + word + "`";
      })
      .value("FORM");
}

}  // namespace opensum
