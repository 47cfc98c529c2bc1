// Where in the lines of a file the parts of a table stand: header, units row, rows.
#pragma once

#include <optional>
#include <string>

#include "base/result.h"
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
  /// Where a line that is a comment holds the headers or units, its sign is passed over.
  std::optional<LineStart> header;
  std::optional<LineStart> second_header;  ///< headers over two lines
  std::optional<LineStart> units;
  LineStart rows;               ///< the first line that may hold a row
  std::size_t end = 0;          ///< the byte after the last line of the table
  std::size_t skipped_end = 0;  ///< lines left out below the table
  std::string comment;          ///< what lines begin with that are comments; empty for none
  char delimiter = ',';         ///< as the file says it, or as its lines look
};

/// Finds the parts as the settings say. Before a header that is not named by its number blank lines are
/// passed over, a first line such as `sep=;`, and comments: lines that begin with the sign of the first one.
/// The last of these is the header where it has as many fields as the numbers below it. Nothing after a
/// reported error.
Result<TableLayout> find_layout(const InputFile& file, const ReadSettings& settings,
                                Diagnostics& diagnostics);

}  // namespace opensum
