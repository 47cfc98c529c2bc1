// Tables on servers to which a run writes its sheets.
#pragma once

#include <map>
#include <memory>
#include <string>
#include <vector>

#include "base/result.h"
#include "base/text_buffer.h"
#include "files/database.h"
#include "files/database_address.h"
#include "files/table_writer.h"
#include "message/diagnostic.h"

namespace opensum {

/// A table that is filled row by row; a column that holds cells which cannot be read is one of text.
class DatabaseTableWriter {
 public:
  DatabaseTableWriter(std::shared_ptr<DatabaseConnection> connection, std::string shown)
      : connection_(std::move(connection)), shown_(std::move(shown)) {}

  const std::string& shown() const { return shown_; }
  /// Takes up lines as append_copied_rows makes them; false where the server refused them, see fault().
  bool put(std::string_view rows) { return connection_->put(rows); }
  bool finish() { return connection_->end_copy_in(); }
  const std::string& fault() const { return connection_->fault(); }

 private:
  std::shared_ptr<DatabaseConnection> connection_;
  std::string shown_;
};

/// Appends the rows of a table as COPY takes them: cells between tabs, nulls as \N.
void append_copied_rows(TextBuffer& out, const Table& table, std::vector<std::size_t>* ends);

/// All tables that a run writes, in one transaction for each server.
class DatabaseTables {
 public:
  /// `made_by` says of which study they are: only tables that say the same in their comment are replaced.
  explicit DatabaseTables(std::string made_by) : made_by_(std::move(made_by)) {}

  /// Creates the table of a sheet, in place of an earlier one of the same study, and opens it for rows. Null
  /// after a reported error.
  std::unique_ptr<DatabaseTableWriter> create(const DatabaseAddress& address, const WrittenSheet& sheet,
                                              Diagnostics& diagnostics);
  /// The same with the rows of a query of that server, as they were when its snapshot was taken; false after
  /// a reported error.
  bool create_from(const DatabaseAddress& address, const WrittenSheet& sheet, const std::string& select,
                   const std::string& snapshot, Diagnostics& diagnostics);
  /// Makes all that was written lasting; false after a reported error.
  bool commit(Diagnostics& diagnostics);
  /// The addresses of the tables, in the order in which they were made.
  const std::vector<std::string>& written() const { return written_; }

 private:
  std::shared_ptr<DatabaseConnection> connection_to(const DatabaseAddress& address,
                                                    const std::string& snapshot, Diagnostics& diagnostics);
  std::string create_empty(DatabaseConnection& connection, const DatabaseAddress& address,
                           const WrittenSheet& sheet, Diagnostics& diagnostics);

  std::string made_by_;
  std::map<std::string, std::shared_ptr<DatabaseConnection>> connections_;
  std::vector<std::string> written_;
};

}  // namespace opensum
