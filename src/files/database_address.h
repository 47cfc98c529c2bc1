// Where a table of a database server is: `postgresql://HOST/DATABASE#TABLE`.
#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace opensum {

/// The address of a table on a server, or of a query there.
struct DatabaseAddress {
  std::string server;  ///< all before the first #, as the library that speaks to it takes it
  /// A table, with its schema or without, as it is written in the address; empty where a query is.
  std::string table;
  std::string query;  ///< what stands in brackets: `(select …)`
  std::string shown() const;
};

/// Whether a path is such an address.
bool is_database_address(std::string_view path);

/// Divides an address. Without a # both table and query are empty.
DatabaseAddress database_address(const std::string& path);

/// The address of the table for a sheet: where it has `{sheet}`, that is its name.
std::string table_for_sheet(const std::string& address, const std::string& sheet);

/// What a sheet of an address is called: the name of the table without its schema; empty for a query.
std::string table_name(const std::string& address);

/// Whether an address holds a password, which belongs elsewhere.
bool has_password(std::string_view server);

/// An address without its password, as messages show it.
std::string without_password(std::string_view path);

}  // namespace opensum
