// Whether results are what their record says, and come out the same again.
#include "again/verify.h"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <iterator>
#include <map>

#include "again/compare_results.h"
#include "again/monte_carlo.h"
#include "base/result.h"
#include "base/temporary_folder.h"
#include "files/database_address.h"
#include "files/file_names.h"
#include "files/sha256.h"
#include "files/text_file.h"
#include "report/record.h"
#include "run/prepare.h"
#include "run/write.h"
#include "version.h"

namespace opensum {
namespace {

std::string joined(const std::string& folder, const std::string& path) {
  return path.starts_with('/') ? path : (std::filesystem::path(folder) / path).lexically_normal().string();
}

FilesVerified verified(const std::vector<InputFacts>& files, const std::string& folder) {
  FilesVerified out;
  for (const InputFacts& file : files) {
    std::size_t bytes = 0;
    const std::string digest = sha256_of_file(joined(folder, file.path), bytes);
    if (digest == file.sha256) {
      ++out.unchanged;
    } else {
      (digest.empty() ? out.missing : out.changed).push_back(file.path);
    }
  }
  return out;
}

// A run that the record tells of, with what is left of its outputs: later runs of a part wrote some anew.
struct RecordedRun {
  RunSettings settings;
  std::vector<InputFacts> outputs;
};

std::vector<RecordedRun> runs_of(const Recorded& record) {
  std::vector<RecordedRun> runs = {{record.settings, record.outputs}};
  for (const Recorded::Part& part : record.parts) runs.push_back({part.settings, part.outputs});
  std::map<std::string, std::size_t> last;
  for (std::size_t i = 0; i < runs.size(); ++i) {
    for (const InputFacts& output : runs[i].outputs) last[output.path] = i;
  }
  for (std::size_t i = 0; i < runs.size(); ++i)
    std::erase_if(runs[i].outputs, [&](const InputFacts& output) { return last[output.path] != i; });
  return runs;
}

StudyChanges changes_of(const RunSettings& settings) {
  StudyChanges changes;
  for (const std::string& constant : settings.constants)
    changes.constants.push_back(Passage::whole("--constant", constant));
  for (const std::string& name : settings.only) changes.only.push_back(Passage::whole("--only", name));
  changes.in_database = settings.in_database ? InDatabase::always : InDatabase::as_written;
  return changes;
}

// What is read of databases now, by address: its SHA-256.
using DatabaseDigests = std::map<std::string, std::string>;

// Computes a recorded run into a folder; false after a reported error.
bool compute_again(const std::string& study, const Recorded& record, const RunSettings& settings,
                   const std::string& folder, DatabaseDigests& databases, Diagnostics& diagnostics) {
  Diagnostics of_run;
  const StudyChanges changes = changes_of(settings);
  std::optional<SamplingFacts> sampling;
  if (record.sampled) sampling = sample_study(study, {record.trials, record.seed}, changes, of_run);
  const auto prepared =
      of_run.has_errors() ? nullptr : prepare_study_file(study, of_run, Rows::read, std::nullopt, changes);
  if (prepared && !of_run.has_errors()) {
    prepared->output = folder;
    prepared->writes_databases = false;
    prepared->inputs.start_digests();
    for (std::size_t i = 0; i < prepared->inputs.all().size(); ++i) {
      const std::string& path = prepared->inputs.all()[i]->path;
      if (is_database_address(path)) databases[path] = prepared->inputs.digest(i);
    }
    write_results(*prepared, of_run, std::move(sampling));
  }
  // Its warnings were said when the results were made.
  if (of_run.has_errors()) diagnostics.append(of_run);
  return !of_run.has_errors();
}

}  // namespace

Result<Verification> verify_results(const std::string& results, const std::string& study,
                                    Diagnostics& diagnostics) {
  const std::string path = results + "/" + kRecordFile;
  std::error_code error;
  if (!std::filesystem::exists(path, error)) {
    diagnostics.add(Code::no_record, {results});
    return std::nullopt;
  }
  Inputs inputs;
  const auto file = inputs.read(path, {}, diagnostics);
  if (!file) return std::nullopt;
  const auto record = read_record(std::string(file->text));
  if (!record) {
    diagnostics.add(Code::record_unreadable, {path});
    return std::nullopt;
  }
  Verification out;
  out.results = results;
  out.study = study.empty() ? joined(joined(results, record->study_folder), record->study) : study;
  out.computed_by = fmt::format("opensum {} ({})", record->version, record->build);
  out.verified_by = fmt::format("opensum {} ({})", kVersion, build_text());
  if (!std::filesystem::exists(out.study, error)) {
    diagnostics.add(Code::verify_no_study, {out.study});
    return std::nullopt;
  }
  std::string folder = std::filesystem::path(out.study).parent_path().string();
  if (folder.empty()) folder = ".";
  std::vector<InputFacts> files = record->inputs;
  const bool from_input =
      std::erase_if(files, [](const InputFacts& input) { return input.path == kStandardInput; }) > 0;
  // Elsewhere the study may have another name.
  if (!study.empty() && !files.empty()) files.front().path = std::filesystem::path(study).filename().string();
  // Tables of databases are known again when they are read again.
  std::vector<InputFacts> tables;
  std::copy_if(files.begin(), files.end(), std::back_inserter(tables),
               [](const InputFacts& input) { return is_database_address(input.path); });
  std::erase_if(files, [](const InputFacts& input) { return is_database_address(input.path); });
  out.inputs = verified(files, folder);
  const std::vector<RecordedRun> runs = runs_of(*record);
  std::vector<InputFacts> outputs;
  for (const RecordedRun& run : runs) outputs.insert(outputs.end(), run.outputs.begin(), run.outputs.end());
  out.outputs = verified(outputs, results);
  if (from_input) {
    out.not_computed = "some rows came from standard input";
    return out;
  }
  if (!out.inputs.missing.empty()) {
    out.not_computed = "an input is missing";
    return out;
  }
  DatabaseDigests read_again;
  for (const RecordedRun& run : runs) {
    if (run.outputs.empty()) continue;
    const TemporaryFolder again;
    if (!compute_again(out.study, *record, run.settings, again.path(), read_again, diagnostics))
      return std::nullopt;
    std::vector<std::string> differing;
    for (const InputFacts& output : run.outputs) {
      std::size_t bytes = 0;
      if (sha256_of_file(joined(again.path(), output.path), bytes) == output.sha256) {
        ++out.reproduced;
      } else {
        differing.push_back(output.path);
      }
    }
    if (differing.empty()) continue;
    const auto comparison = compare_results(results, again.path(), {}, diagnostics, differing);
    if (!comparison) return std::nullopt;
    out.comparison.tables.insert(out.comparison.tables.end(), comparison->tables.begin(),
                                 comparison->tables.end());
    out.comparison.equations.insert(out.comparison.equations.end(), comparison->equations.begin(),
                                    comparison->equations.end());
    out.comparison.constants.insert(out.comparison.constants.end(), comparison->constants.begin(),
                                    comparison->constants.end());
    out.differing.insert(out.differing.end(), differing.begin(), differing.end());
  }
  for (const InputFacts& table : tables) {
    if (read_again[table.path] == table.sha256) {
      ++out.inputs.unchanged;
    } else {
      out.inputs.changed.push_back(table.path);
    }
  }
  return out;
}

}  // namespace opensum
