// Reading a table from a path, whatever its format.
#pragma once

#include <memory>
#include <optional>
#include <string>

#include "base/result.h"
#include "files/csv_reader.h"
#include "files/text_file.h"
#include "message/diagnostic.h"
#include "model/study.h"
#include "table/raw_table.h"

namespace opensum {

/// The table at `path`: a file of text, `file#part` for a sheet of a workbook or a table of a database, or
/// the address of a table on a server. An existing file whose name holds # is meant first. A text of at least
/// `long_from` bytes is a long table. Nothing after a reported error.
Result<RawTable> read_table(const std::string& path, const Place& place, const ReadSettings& settings,
                            Inputs& inputs, Diagnostics& diagnostics, Rows rows = Rows::read,
                            std::size_t long_from = row_limits().long_table);

/// The table in a text, such as one typed into a study.
Result<RawTable> read_text_table(const std::shared_ptr<const InputFile>& file, const ReadSettings& settings,
                                 Diagnostics& diagnostics, Rows rows = Rows::read,
                                 std::size_t long_from = row_limits().long_table);

}  // namespace opensum
