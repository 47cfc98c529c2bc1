// The rows of a long CSV table, left in their file.
#pragma once

#include <memory>

#include "files/line_form.h"
#include "files/text_file.h"
#include "table/row_source.h"

namespace opensum {

/// Where the rows of a table stand in its file, and how they are divided.
struct CsvRows {
  std::shared_ptr<const InputFile> file;
  std::size_t begin = 0;
  std::size_t end = 0;
  std::size_t first_line = 1;
  std::size_t width = 0;  ///< fields of each row
  LineForm form;
};

/// Reads them in blocks.
std::shared_ptr<const RowSource> csv_row_source(CsvRows rows);

/// Tables of at least so many bytes are left in their file where nothing needs them as a whole, and are read
/// in blocks of about so many.
struct RowLimits {
  std::size_t long_table = std::size_t{2} << 20U;
  std::size_t block = std::size_t{256} << 10U;
};
RowLimits row_limits();
void set_row_limits(const RowLimits& limits);

}  // namespace opensum
