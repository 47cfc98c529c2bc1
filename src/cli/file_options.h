// The options that every command with a FILE takes: how to read it, and what its columns are.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "base/result.h"
#include "cli/command_line.h"
#include "message/diagnostic.h"
#include "model/study.h"

namespace opensum {

struct FileOptions {
  std::string file;
  std::size_t skip_rows = 0;
  std::size_t skip_end = 0;
  std::string header;
  std::optional<std::size_t> units_row;
  std::optional<std::string> encoding;
  std::string delimiter;
  std::optional<std::string> comment;
  std::string short_rows = "error";
  std::string decimal_char;
  std::string group_char;
  std::vector<std::string> date_formats;  ///< FORMAT, or SYMBOL=FORMAT
  std::vector<std::string> missing;
  std::vector<std::string> missing_also;
  std::string unreadable = "error";
  std::vector<std::string> units;          ///< SYMBOL=UNIT
  std::vector<std::string> columns;        ///< SYMBOL=HEADER
  std::vector<std::string> kinds;          ///< SYMBOL=KIND
  std::vector<std::string> labels;         ///< SYMBOL=LABEL
  std::vector<std::string> uncertainties;  ///< `SYMBOL=U`
};

/// Adds FILE and the options to a command.
void add_file_options(Command& command, FileOptions& options);
/// Adds the options alone.
void add_read_options(Command& command, FileOptions& options);

/// How a table is printed.
enum class TableForm : std::uint8_t { table, markdown, csv, json };
/// Adds `--format`.
void add_format_option(Command& command, std::string& format);
/// The form of a word of `--format`; nothing after a reported error.
Result<TableForm> form_of(const std::string& word, Diagnostics& diagnostics);

/// The sheet that these options describe, named after the file; nothing after a reported error.
Result<SheetModel> sheet_of(const FileOptions& options, Diagnostics& diagnostics);

}  // namespace opensum
