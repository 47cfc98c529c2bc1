// The tables of text that a sheet is made of.
#include "study/sources.h"

#include <glob.h>

#include <algorithm>
#include <filesystem>

#include "files/csv_rows.h"
#include "files/database_address.h"
#include "files/file_names.h"
#include "files/table_reader.h"

namespace opensum {
namespace {

// Only rows, numbered from 1, and no columns.
RawTable planned_rows(const SheetModel& sheet) {
  RawTable table;
  table.file = "sheet " + sheet.name;
  for (std::size_t row = 1; row <= *sheet.rows; ++row) table.lines.push_back(row);
  return table;
}

// The files that a pattern means, sorted by their bytes; the path itself where it is no pattern.
std::vector<std::string> files_of(const std::string& path) {
  std::error_code error;
  const bool pattern = path.find_first_of("*?[") != std::string::npos && !is_database_address(path);
  if (!pattern || std::filesystem::exists(path, error)) return {path};
  glob_t found{};
  std::vector<std::string> paths;
  if (::glob(path.c_str(), GLOB_NOSORT, nullptr, &found) == 0) {
    for (std::size_t i = 0; i < found.gl_pathc; ++i) paths.emplace_back(found.gl_pathv[i]);
  }
  ::globfree(&found);
  std::sort(paths.begin(), paths.end());
  return paths;
}

// The bytes of a file, 0 for what is none.
std::size_t size_of(const std::string& path) {
  std::error_code error;
  const std::uintmax_t size = std::filesystem::file_size(path, error);
  return error ? 0 : static_cast<std::size_t>(size);
}

}  // namespace

std::string resolved(const std::string& folder, const std::string& path) {
  return is_relative_path(path) ? folder + path : path;
}

std::vector<RawTable> read_sources(const SheetModel& sheet, const std::string& folder, Inputs& inputs,
                                   Diagnostics& diagnostics, Rows rows) {
  std::vector<RawTable> tables;
  if (sheet.rows) {
    tables.push_back(planned_rows(sheet));
    return tables;
  }
  if (sheet.table) {
    auto typed = std::make_shared<InputFile>();
    typed->path = "table of " + sheet.name;
    typed->hold(sheet.table->text());
    if (auto table = read_text_table(typed, sheet.read, diagnostics)) tables.push_back(std::move(*table));
    return tables;
  }
  bool good = true;
  struct SourceFile {
    const Passage* named = nullptr;
    std::string path;
  };
  std::vector<SourceFile> sources;
  for (const Passage& data : sheet.data) {
    const std::vector<std::string> paths = files_of(resolved(folder, data.text()));
    if (paths.empty()) {
      diagnostics.add(Code::no_such_files, data.place(), {data.text()});
      good = false;
    }
    for (const std::string& path : paths) sources.push_back({&data, path});
  }
  // Several files are one table: they are left where they are if together they are long.
  std::size_t least = row_limits().long_table;
  if (sources.size() > 1) {
    std::size_t bytes = 0;
    for (const SourceFile& source : sources) bytes += size_of(source.path);
    if (bytes < least && rows != Rows::left_in_database) rows = Rows::read;
    least = 0;
  }
  for (const SourceFile& source : sources) {
    auto table = read_table(source.path, source.named->place(), sheet.read, inputs, diagnostics, rows, least);
    good = good && table.has_value();
    if (table) tables.push_back(std::move(*table));
  }
  if (!good) tables.clear();
  return tables;
}

}  // namespace opensum
