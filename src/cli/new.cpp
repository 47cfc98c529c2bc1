// opensum new: a study to begin with.
#include <CLI/CLI.hpp>
#include <algorithm>
#include <filesystem>
#include <memory>

#include "cli/command.h"
#include "cli/file_options.h"
#include "files/output.h"
#include "run/prepare.h"
#include "run/starter.h"
#include "table/header.h"

namespace opensum {
namespace {

struct NewOptions {
  FileOptions file;
  std::vector<std::string> files;
  std::string output = "study.toml";
};

// Names that are taken get a number.
void make_distinct(std::vector<SheetModel>& sheets) {
  std::vector<std::string> names;
  names.reserve(sheets.size());
  for (const SheetModel& sheet : sheets) names.push_back(sheet.name);
  number_repeated(names);
  for (std::size_t i = 0; i < sheets.size(); ++i) sheets[i].name = names[i];
}

int write_new(const NewOptions& options, Streams& streams) {
  Diagnostics diagnostics;
  Study study;
  for (const std::string& file : options.files) {
    FileOptions one = options.file;
    one.file = file;
    if (auto sheet = sheet_of(one, diagnostics)) study.sheets.push_back(std::move(*sheet));
    if (diagnostics.has_errors()) return report(diagnostics, streams);
  }
  make_distinct(study.sheets);
  const auto prepared = prepare(std::move(study), "", {}, diagnostics, Rows::left_if_long);
  if (diagnostics.has_errors()) return report(diagnostics, streams);
  // What cells say of their uncertainty would be a column of its own only where it is computed.
  prepared->sheets.front()->table().keep_measured();
  const std::string folder = std::filesystem::path(options.output).parent_path().string();
  // What a warning is about stands in the study as a comment.
  Diagnostics writing;
  OutputFiles files(prepared->inputs, false, Sharing::with_others, "choose another name with --output");
  if (files.write(options.output, starter_study(*prepared, folder), writing)) files.commit(writing);
  if (const int code = report(writing, streams)) return code;
  streams.out << "written: " << options.output << "\nIt runs as it stands: opensum run";
  if (options.output != "study.toml") streams.out << ' ' << options.output;
  streams.out << '\n';
  return static_cast<int>(Exit::done);
}

}  // namespace

void add_new(CLI::App& app, Chosen& chosen) {
  auto options = std::make_shared<NewOptions>();
  CLI::App* command =
      add_command(app, "new", "write a study to begin with, made from tables",
                  "  opensum new opensum-demo/day1.csv\n"
                  "  opensum new opensum-demo/day1.csv --missing-also=err --output first.toml");
  command->add_option("FILE", options->files, "the tables: CSV or TSV")->required();
  add_read_options(*command, options->file);
  command->add_option("-o,--output", options->output, "the study; default study.toml; never overwritten")
      ->check(not_empty())
      ->type_name("FILE");
  command->callback(
      [options, &chosen] { chosen = [options](Streams& streams) { return write_new(*options, streams); }; });
}

}  // namespace opensum
