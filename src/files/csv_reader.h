// Reading CSV and TSV (RFC 4180): fields, quotes, line ends, separators found by themselves.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>

#include "base/result.h"
#include "files/csv_rows.h"
#include "files/text_file.h"
#include "message/diagnostic.h"
#include "model/study.h"
#include "table/raw_table.h"

namespace opensum {

/// What becomes of the rows of a table: they are read, or those of a long one in UTF-8 are left in the file.
/// Of the latter only the first may be looked at to find what the columns are, which the first pass makes
/// sure. Those of a database may be left there.
enum class Rows : std::uint8_t { read, left_if_long, left_unseen, left_in_database };

/// The table of text in a file; nothing after a reported error. The views in it look into the file, which it
/// keeps alive. Long is a text of at least `long_from` bytes.
Result<RawTable> read_csv(const std::shared_ptr<const InputFile>& file, const ReadSettings& settings,
                          Diagnostics& diagnostics, Rows rows = Rows::read,
                          std::size_t long_from = row_limits().long_table);

}  // namespace opensum
