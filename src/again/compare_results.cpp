// Two folders of results compared.
#include "again/compare_results.h"

#include <algorithm>
#include <filesystem>
#include <map>
#include <set>

#include "base/result.h"
#include "files/file_names.h"
#include "files/output.h"
#include "files/sha256.h"
#include "report/record.h"
#include "table/header.h"

namespace opensum {
namespace {

// The paths of files in a folder of results with this ending, from that folder.
std::set<std::string> files_with(const std::string& folder, const std::string& ending) {
  std::set<std::string> names;
  std::error_code error;
  for (const auto& entry : std::filesystem::recursive_directory_iterator(folder, error)) {
    const std::string name = entry.path().lexically_relative(folder).string();
    if (entry.is_regular_file(error) && name.ends_with(ending) && !is_temporary(name)) names.insert(name);
  }
  return names;
}

using Named = std::vector<std::pair<std::string, std::string>>;

std::vector<ChangedText> changes_of(const Named& before, const Named& after) {
  std::vector<ChangedText> changes;
  const std::map<std::string, std::string> now(after.begin(), after.end());
  const std::map<std::string, std::string> then(before.begin(), before.end());
  for (const auto& [name, text] : before) {
    const auto found = now.find(name);
    if (found == now.end()) {
      changes.push_back({name, text, ""});
    } else if (found->second != text) {
      changes.push_back({name, text, found->second});
    }
  }
  for (const auto& [name, text] : after) {
    if (!then.contains(name)) changes.push_back({name, "", text});
  }
  return changes;
}

Named digests_of(const std::vector<InputFacts>& files, std::size_t from) {
  Named named;
  for (std::size_t i = from; i < files.size(); ++i) named.emplace_back(files[i].path, files[i].sha256);
  return named;
}

// The rows of the tables that a run writes beside those of its sheets are found by what they are of.
std::vector<Passage> keys_of(const std::string& file, const CompareHow& how) {
  static const std::map<std::string, std::vector<const char*>> keys = {
      {kFitsFile, {"fit", "sheet", "group", "parameter"}}, {kNullsFile, {"sheet", "row", "column"}}};
  const auto found = keys.find(file);
  if (found == keys.end()) return how.by;
  std::vector<Passage> by;
  for (const char* key : found->second) by.push_back(Passage::whole("--by", key));
  return by;
}

Result<Recorded> record_in(const std::string& folder, Diagnostics& diagnostics) {
  const std::string path = folder + "/" + kRecordFile;
  std::error_code error;
  if (!std::filesystem::exists(path, error)) return std::nullopt;
  Inputs inputs;
  const auto file = inputs.read(path, {}, diagnostics);
  return file ? read_record(std::string(file->text)) : std::nullopt;
}

void compare_records(const Recorded& before, const Recorded& after, Comparison& out) {
  if (before.version != after.version) out.versions.push_back({"opensum", before.version, after.version});
  if (before.build != after.build) out.versions.push_back({"build", before.build, after.build});
  out.constants = changes_of(before.constants, after.constants);
  out.equations = changes_of(before.equations, after.equations);
  // Of the study itself it is told what changed in it.
  out.inputs = changes_of(digests_of(before.inputs, 1), digests_of(after.inputs, 1));
}

std::unique_ptr<PreparedStudy> table_in(const std::string& folder, const std::string& name,
                                        Diagnostics& diagnostics) {
  SheetModel sheet;
  sheet.name = "table";
  sheet.data.emplace_back(nullptr, 0, folder + "/" + name);
  Diagnostics of_reading;
  auto table = held_table(std::move(sheet), of_reading);
  // What is doubtful in a table was said when it was written.
  for (const Diagnostic& diagnostic : of_reading.all()) {
    if (table == nullptr) diagnostics.add(diagnostic);
  }
  return table;
}

bool same_bytes(const std::filesystem::path& a, const std::filesystem::path& b) {
  std::size_t size_a = 0;
  std::size_t size_b = 0;
  const std::string digest = sha256_of_file(a, size_a);
  return !digest.empty() && digest == sha256_of_file(b, size_b);
}

// Figures in the one form that says the same in the fewest bytes: as SVG, or else as they are.
std::vector<std::string> figures_unlike(const std::string& before, const std::string& after) {
  std::vector<std::string> unlike;
  for (const char* ending : {".svg", ".png", ".pdf"}) {
    const std::set<std::string> there = files_with(after, ending);
    for (const std::string& name : files_with(before, ending)) {
      const std::string figure = std::filesystem::path(name).stem().string();
      if (!there.contains(name) || std::find(unlike.begin(), unlike.end(), figure) != unlike.end()) continue;
      if (!same_bytes(std::filesystem::path(before) / name, std::filesystem::path(after) / name))
        unlike.push_back(figure);
    }
  }
  return unlike;
}

}  // namespace

Result<Comparison> compare_results(const std::string& before, const std::string& after, const CompareHow& how,
                                   Diagnostics& diagnostics, const std::vector<std::string>& only) {
  Comparison out;
  out.before = before;
  out.after = after;
  const auto old_record = record_in(before, diagnostics);
  const auto new_record = record_in(after, diagnostics);
  if (old_record && new_record) compare_records(*old_record, *new_record, out);
  const std::set<std::string> old_tables = files_with(before, ".csv");
  const std::set<std::string> new_tables = files_with(after, ".csv");
  if (old_tables.empty() && new_tables.empty()) {
    diagnostics.add(Code::no_results, {before, after});
    return std::nullopt;
  }
  if (only.empty()) {
    std::set_difference(old_tables.begin(), old_tables.end(), new_tables.begin(), new_tables.end(),
                        std::back_inserter(out.files_gone));
    std::set_difference(new_tables.begin(), new_tables.end(), old_tables.begin(), old_tables.end(),
                        std::back_inserter(out.files_come));
  }
  for (const std::string& name : old_tables) {
    const bool wanted = only.empty() || std::find(only.begin(), only.end(), name) != only.end();
    if (!wanted || !new_tables.contains(name)) continue;
    const auto old_table = table_in(before, name, diagnostics);
    const auto new_table = table_in(after, name, diagnostics);
    if (!old_table || !new_table) return std::nullopt;
    CompareHow own = how;
    own.by = keys_of(name, how);
    // A quantity need not fit every table.
    const bool by_unit = how.within && how.within->unit_stated;
    if (by_unit && !fits_some_column(*old_table, *how.within)) own.within.reset();
    const auto table = compare_tables(name, *old_table, *new_table, own, diagnostics);
    if (!table) return std::nullopt;
    out.tables.push_back(*table);
  }
  out.figures = figures_unlike(before, after);
  return out;
}

}  // namespace opensum
