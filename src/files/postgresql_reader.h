// Reading a table, a view or a query of a server that speaks PostgreSQL's protocol.
#pragma once

#include <string>

#include "base/result.h"
#include "files/csv_reader.h"
#include "files/database.h"
#include "files/database_address.h"
#include "message/diagnostic.h"
#include "table/raw_table.h"

namespace opensum {

/// The connection through which a run reads from the server of an address: one transaction that can only read
/// and sees everything as it was when it began. Null after a reported error.
std::shared_ptr<DatabaseConnection> reading_connection(const DatabaseAddress& address, const Place& place,
                                                       Inputs& inputs, Diagnostics& diagnostics);

/// A table of a database by its name as written in an address.
struct DatabaseTable {
  std::string schema;
  std::string name;
  char kind =
      'r';  ///< as the server's catalogue has it: r a table, v a view, p one of partitions, f a foreign one
  /// Its rows are all its own and stand in an order: it has neither partitions nor tables that inherit from
  /// it.
  bool in_one_piece = false;
};
/// Finds a table as it is called, or else the only one called so in other letters of upper or lower case.
/// Nothing after a reported error.
Result<DatabaseTable> find_database_table(DatabaseConnection& connection, const DatabaseAddress& address,
                                          const Place& place, Diagnostics& diagnostics);

/// What the server's type of a column is here; nothing for one that is read as text because it is none that
/// is known.
struct DatabaseType {
  std::uint32_t number = 0;
  Kind kind = Kind::number;
};
std::optional<DatabaseType> database_type(std::uint32_t number);

/// What a comment of a column says of it: `unit: kPa; label: Pressure`. Whatever else is in it is no concern
/// of ours.
ColumnMetadata comment_metadata(const std::string& comment);

/// Reads the table at an address, whose rows are laid out as text in a file without a name. Nothing after a
/// reported error.
Result<RawTable> read_postgresql(const std::string& path, const Place& place, Rows rows, Inputs& inputs,
                                 Diagnostics& diagnostics);

}  // namespace opensum
