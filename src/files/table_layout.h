// Where in the lines of a file the parts of a table stand: header, units row, rows.
#pragma once

#include <optional>

#include "files/text_file.h"
#include "message/diagnostic.h"
#include "model/study.h"

namespace opensum {

/// A physical line of a file: its number from 1 and its first byte.
struct LineStart {
  std::size_t number = 1;
  std::size_t offset = 0;
};

struct TableLayout {
  std::optional<LineStart> header;
  std::optional<LineStart> units;
  LineStart rows;               ///< the first line that may hold a row
  std::size_t end = 0;          ///< the byte after the last line of the table
  std::size_t skipped_end = 0;  ///< lines left out below the table
};

/// Finds the parts as the settings say. Blank lines before a header that is not named by its number are
/// passed over. Nothing after a reported error.
std::optional<TableLayout> find_layout(const InputFile& file, const ReadSettings& settings,
                                       Diagnostics& diagnostics);

}  // namespace opensum
