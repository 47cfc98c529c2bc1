// What every command has.
#include "cli/command.h"

#include <fmt/format.h>

#include <CLI/CLI.hpp>
#include <charconv>

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
  command->footer("Examples, in a folder where `opensum demo` was run\n" + examples);
  command->set_help_flag("-h,--help", "this text");
  return command;
}

const CLI::App* find_command(const CLI::App& app, const std::string& name) {
  for (const CLI::App* command : app.get_subcommands({})) {
    if (command->get_name() == name) return command;
  }
  return nullptr;
}

CLI::Validator not_empty() {
  return CLI::Validator(
      [](const std::string& text) { return text.empty() ? std::string("a name is missing") : std::string(); },
      "");
}

void add_list_format(CLI::App& command, std::string& format) {
  command.add_option("--format", format, "print as table or markdown")
      ->check(CLI::Validator(
          [](const std::string& word) {
            return word == "table" || word == "markdown" ? std::string()
                                                         : "table or markdown is needed, not `" + word + "`";
          },
          ""))
      ->type_name("FORM");
}

CLI::Validator whole_number(std::size_t least, std::size_t greatest) {
  return CLI::Validator(
      [least, greatest](const std::string& text) {
        std::size_t value = 0;
        const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
        if (error == std::errc() && end == text.data() + text.size() && value >= least && value <= greatest)
          return std::string();
        constexpr std::size_t kUnheardOf = 1'000'000'000;
        const std::string most = greatest < kUnheardOf ? fmt::format(" to {}", greatest) : "";
        return fmt::format("a whole number from {}{} is needed, not `{}`", least, most, text);
      },
      "");
}

}  // namespace opensum
