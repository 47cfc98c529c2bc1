// A sheet that is computed and written a block of rows at a time: one pass for the functions of whole
// columns, where there are any, and one that computes and writes every row.
#pragma once

#include <memory>
#include <string>

#include "files/csv_writer.h"
#include "run/prepare.h"

namespace opensum {

/// An open file for the rows, and the error number of a failure to write them.
struct CsvSink {
  int descriptor = -1;
  CsvOptions options;
  int error = 0;
};

class SheetStream {
 public:
  SheetStream(PreparedStudy& prepared, std::size_t number);
  ~SheetStream();
  SheetStream(const SheetStream&) = delete;
  SheetStream& operator=(const SheetStream&) = delete;

  /// Computes the sheet and writes its rows as CSV (not if that is a null pointer) and its nulls into an open
  /// file. What the summary says of the sheet, and the columns that figures and fits need, stand in the sheet
  /// afterwards. The error number of a failure to write nulls, else 0.
  int run(CsvSink* csv, int nulls, Diagnostics& diagnostics);

 private:
  class Passes;
  std::unique_ptr<Passes> passes_;
};

}  // namespace opensum
