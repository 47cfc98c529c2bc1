// The tables of text that a sheet is made of.
#include "study/sources.h"

#include <glob.h>

#include <algorithm>
#include <filesystem>

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
  for (const Passage& data : sheet.data) {
    const std::vector<std::string> paths = files_of(resolved(folder, data.text()));
    if (paths.empty()) {
      diagnostics.add(Code::no_such_files, data.place(), {data.text()});
      good = false;
    }
    for (const std::string& path : paths) {
      auto table = read_table(path, data.place(), sheet.read, inputs, diagnostics, rows);
      good = good && table.has_value();
      if (table) tables.push_back(std::move(*table));
    }
  }
  if (!good) tables.clear();
  return tables;
}

}  // namespace opensum
