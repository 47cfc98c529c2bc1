// opensum new: a study to begin with.
#include <algorithm>
#include <filesystem>
#include <map>
#include <memory>

#include "cli/command.h"
#include "cli/file_options.h"
#include "files/file_names.h"
#include "files/output.h"
#include "files/shared_files.h"
#include "files/study_reader.h"
#include "message/nearest.h"
#include "message/quoting.h"
#include "run/prepare.h"
#include "starter/starter.h"
#include "starter/study_again.h"
#include "table/header.h"

namespace opensum {
namespace {

struct NewOptions {
  FileOptions file;
  std::vector<std::string> files;
  std::string output = "study.toml";
  std::string from;           ///< results whose study is taken
  std::string template_name;  ///< a template of a shared file
};

// Names that are taken get a number.
void make_distinct(std::vector<SheetModel>& sheets) {
  std::vector<std::string> names;
  names.reserve(sheets.size());
  for (const SheetModel& sheet : sheets) names.push_back(sheet.name);
  number_repeated(names);
  for (std::size_t i = 0; i < sheets.size(); ++i) sheets[i].name = names[i];
}

// `SHEET=FILE` or a file alone, by the sheets.
std::map<std::string, std::string> files_by_sheet(const std::vector<std::string>& arguments) {
  std::map<std::string, std::string> files;
  for (const std::string& argument : arguments) {
    const std::size_t equals = argument.find('=');
    if (equals == std::string::npos || std::filesystem::exists(argument)) {
      files[""] = argument;
    } else {
      files[argument.substr(0, equals)] = argument.substr(equals + 1);
    }
  }
  return files;
}

int write_study(const NewOptions& options, const StudyAgain& study, Streams& streams) {
  Diagnostics writing;
  const Inputs none;
  OutputFiles files(none, false, Sharing::with_others, "choose another name with --output");
  const std::filesystem::path folder = std::filesystem::path(options.output).parent_path();
  bool good = files.write(options.output, study.text, writing);
  for (const StudyText& used : study.used)
    good = good && files.write((folder / used.path).string(), used.text, writing);
  if (good) files.commit(writing);
  if (const int code = report(writing, streams)) return code;
  streams.out << "written: " << options.output;
  for (const StudyText& used : study.used) streams.out << ", " << (folder / used.path).string();
  streams.out << "\nWhether the data fit it: opensum check";
  if (options.output != "study.toml") streams.out << ' ' << options.output;
  streams.out << '\n';
  return static_cast<int>(Exit::done);
}

// The study of earlier results for other files.
int write_from_results(const NewOptions& options, Streams& streams) {
  Diagnostics diagnostics;
  const std::string path = options.from + "/" + kRecordFile;
  Inputs inputs;
  const auto file = std::filesystem::exists(path) ? inputs.read(path, {}, diagnostics) : nullptr;
  const auto record = file ? read_record(std::string(file->text)) : std::nullopt;
  if (!file) diagnostics.add(Code::no_record, {options.from});
  if (file && !record) diagnostics.add(Code::record_unreadable, {path});
  if (!record) return report(diagnostics, streams);
  const std::string folder = std::filesystem::path(options.output).parent_path().string();
  const StudyAgain study =
      study_again(*record, options.from, files_by_sheet(options.files), folder, diagnostics);
  if (const int code = report(diagnostics, streams)) return code;
  return write_study(options, study, streams);
}

// A study of sheets that are like a template of a shared file.
int write_from_template(const NewOptions& options, Streams& streams) {
  Diagnostics diagnostics;
  std::vector<std::string> known;
  std::string looked;
  std::string found;
  for (const std::string& path : all_shared()) {
    looked += (looked.empty() ? "" : ", ") + path;
    Inputs inputs;
    Diagnostics of_file;
    const Library library = read_shared(path, inputs, of_file);
    for (const auto& one : library.templates) known.push_back(one.first);
    if (found.empty() && library.templates.contains(options.template_name)) found = path;
  }
  if (found.empty()) {
    if (looked.empty()) {
      for (const std::string& folder : shared_folders()) looked += (looked.empty() ? "" : ", ") + folder;
    }
    diagnostics.add(Code::no_template,
                    {options.template_name, looked, nearest_name(options.template_name, known)});
    return report(diagnostics, streams);
  }
  std::vector<SheetModel> sheets;
  for (const std::string& file : options.files) {
    FileOptions one = options.file;
    one.file = file;
    if (auto sheet = sheet_of(one, diagnostics)) sheets.push_back(std::move(*sheet));
  }
  if (diagnostics.has_errors()) return report(diagnostics, streams);
  make_distinct(sheets);
  const std::string folder = std::filesystem::path(options.output).parent_path().string();
  StudyAgain study;
  study.text =
      "use = " + toml_quoted(std::filesystem::path(found).filename().string()) + "  # " + found + "\n";
  for (const SheetModel& sheet : sheets) {
    const std::string file = sheet.data.front().text();
    const std::string path =
        is_relative_path(file) && !folder.empty()
            ? std::filesystem::absolute(file).lexically_relative(std::filesystem::absolute(folder)).string()
            : file;
    study.text += "\n[sheet." + toml_quoted(sheet.name) + "]\nlike = " + toml_quoted(options.template_name) +
                  "\ndata = " + toml_quoted(path) + "\n";
  }
  return write_study(options, study, streams);
}

int write_new(const NewOptions& options, Streams& streams) {
  if (!options.from.empty()) return write_from_results(options, streams);
  if (!options.template_name.empty()) return write_from_template(options, streams);
  Diagnostics diagnostics;
  if (options.files.empty()) {
    diagnostics.add(Code::argument_missing, {"opensum new", "FILE", "opensum new --help shows how"});
    return report(diagnostics, streams);
  }
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

void add_new(CommandLine& command_line) {
  auto options = std::make_shared<NewOptions>();
  Command command =
      command_line.add("new", "write a study to begin with, made from tables",
                       "  opensum new opensum-demo/day1.csv\n"
                       "  opensum new opensum-demo/day1.csv --missing-also=err --output first.toml");
  command.argument("FILE", options->files,
                   "the tables: CSV or TSV; with --from SHEET=FILE, for each sheet that reads another one");
  add_read_options(command, options->file);
  const Option from =
      command
          .option("--from", options->from,
                  "the study of earlier results, as it was, for these files: the folder with record.json")
          .not_empty()
          .value("RESULTS");
  command
      .option("--template", options->template_name,
              "sheets like this template of a file along OPENSUM_PATH or in ~/.config/opensum")
      .not_empty()
      .excludes(from)
      .value("NAME");
  command.option("-o,--output", options->output, "the study; default study.toml; never overwritten")
      .not_empty()
      .value("FILE");
  command.runs([options](Streams& streams) { return write_new(*options, streams); });
}

}  // namespace opensum
