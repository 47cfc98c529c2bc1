// What every command has.
#include "cli/command.h"

#include <CLI/CLI.hpp>

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

CLI::App* add_command(CLI::App& app, const std::string& name, const std::string& description,
                      const std::string& examples) {
  CLI::App* command = app.add_subcommand(name, description);
  command->group("Commands");
  command->footer("Examples, in a folder where `opensum demo` was run:\n" + examples);
  return command;
}

CLI::Validator not_empty() {
  return CLI::Validator(
      [](const std::string& text) { return text.empty() ? std::string("a name is missing") : std::string(); },
      "");
}

}  // namespace opensum
