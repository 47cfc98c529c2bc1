// Tables of formats that are no text, laid out as lines of text so that they are read in blocks like any
// other.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "base/result.h"
#include "files/csv_reader.h"
#include "files/spool.h"
#include "message/diagnostic.h"
#include "table/raw_table.h"

namespace opensum {

/// A column of such a table.
struct SpooledColumn {
  std::string header;
  ColumnMetadata metadata;
};

/// Takes up rows one after the other.
class SpooledTable {
 public:
  explicit SpooledTable(std::vector<SpooledColumn> columns) : columns_(std::move(columns)) {}

  /// Adds the next cell of a row; an empty text is a null.
  void add(std::string_view cell);
  void end_row();
  /// Lines that say something of the whole table.
  void add_before(std::string line) { before_.push_back(std::move(line)); }

  /// The table, shown under the name of a file; nothing after a reported error.
  Result<RawTable> finish(const InputFile& shown_as, const std::string& name, Rows rows,
                          Diagnostics& diagnostics);
  /// The text of the rows, once it is finished; a null pointer where it could not be kept.
  const std::shared_ptr<const InputFile>& text() const { return text_; }

 private:
  std::vector<SpooledColumn> columns_;
  std::vector<std::string> before_;
  Spool spool_;
  std::shared_ptr<const InputFile> text_;
  std::string line_;
  bool begun_ = false;
  std::size_t place_ = 0;  ///< of the next cell in its row
  std::size_t rows_ = 0;
  std::size_t replaced_ = 0;  ///< texts with bytes that are no UTF-8
  std::string first_replaced_;
};

}  // namespace opensum
