// The options that every command with a FILE takes: how to read it, and what its columns are.
#pragma once

#include <CLI/CLI.hpp>
#include <optional>
#include <string>
#include <vector>

#include "message/diagnostic.h"
#include "study/model.h"

namespace opensum {

struct FileOptions {
  std::string file;
  std::string delimiter;
  std::vector<std::string> missing;
  std::vector<std::string> missing_also;
  std::string unreadable = "error";
  std::vector<std::string> units;  ///< SYMBOL=UNIT
  std::vector<std::string> names;  ///< SYMBOL=HEADER
  std::vector<std::string> types;  ///< SYMBOL=KIND
};

/// Adds the options to a command.
void add_file_options(CLI::App& command, FileOptions& options);

/// The sheet that these options describe, named after the file; nothing after a reported error.
std::optional<SheetModel> sheet_of(const FileOptions& options, Diagnostics& diagnostics);

}  // namespace opensum
