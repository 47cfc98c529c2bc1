// A table as read from a file, before its cells have kinds: headers and cells as text.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "message/source.h"
#include "table/column.h"
#include "table/row_source.h"

namespace opensum {

struct SqlSource;

/// What metadata beside a file say of one of its columns.
struct ColumnMetadata {
  std::string symbol;
  std::string label;
  std::optional<std::string> unit;
  std::optional<Kind> kind;
  bool duration = false;  ///< the kind is a number, and cells may be written hh:mm:ss
  std::optional<std::vector<std::string>> missing;
};

/// Headers and cells as text. Every column has one cell per row.
struct RawTable {
  std::string file;  ///< as shown in messages
  std::vector<std::string> headers;
  std::vector<std::vector<std::string_view>> columns;
  std::vector<std::size_t> lines;  ///< the source's line of each row, from 1
  /// The line that holds the headers, and where each stands in it, for messages.
  std::shared_ptr<const Source> header_source;
  std::vector<Span> header_spans;
  /// The cells of the units row, one per column, and where they stand; empty without one.
  std::vector<std::string> units;
  std::shared_ptr<const Source> units_source;
  std::vector<Span> units_spans;
  /// Per column; empty without metadata.
  std::vector<std::optional<ColumnMetadata>> metadata;
  /// What was understood of the file.
  std::string format;  ///< in words, if it is no text
  std::string encoding;
  char delimiter = ',';
  std::string comment;          ///< what lines begin with that are comments
  std::size_t header_line = 0;  ///< 0 without a header
  /// The lines before the table, without the signs of comments.
  std::vector<std::string> before;
  /// What the views look into.
  std::shared_ptr<const void> storage;
  /// Of a long table whose rows are left in the file; there are none in `columns` then.
  std::shared_ptr<const RowSource> left_in_file;
  /// Of a table whose rows are left in their database; there are none here then.
  std::shared_ptr<const SqlSource> left_in_database;

  std::size_t rows() const { return lines.size(); }
};

}  // namespace opensum
