// A connection to a database server. What speaks to a server is a module of its own, which is loaded when an
// address asks for it and is no part of the program.
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace opensum {

/// A column of what a query gives.
struct QueryColumn {
  std::string name;
  std::uint32_t type = 0;      ///< the server's number of its type
  std::uint32_t relation = 0;  ///< of the table that it comes from, 0 for none
  int number = 0;              ///< its place there, from 1
};

/// The rows of a small result, as text; nothing where a value is null.
using QueryRows = std::vector<std::vector<std::optional<std::string>>>;

class DatabaseConnection {
 public:
  DatabaseConnection() = default;
  virtual ~DatabaseConnection() = default;
  DatabaseConnection(const DatabaseConnection&) = delete;
  DatabaseConnection& operator=(const DatabaseConnection&) = delete;

  /// Carries out one command with values for $1, $2, …; its rows are dropped. False: see fault().
  virtual bool run(const std::string& sql, const std::vector<std::string>& values = {}) = 0;
  /// The same for a query with a small result.
  virtual bool ask(const std::string& sql, const std::vector<std::string>& values, QueryRows& rows) = 0;
  /// What columns a query gives, without carrying it out.
  virtual bool describe(const std::string& sql, std::vector<QueryColumn>& columns) = 0;
  /// Carries out a COPY … TO STDOUT and gives its lines, without their ends, one by one. Where `take` gives
  /// false the rest is dropped.
  virtual bool copy_out(const std::string& sql, const std::function<bool(std::string_view line)>& take) = 0;
  /// Begins a COPY … FROM STDIN, gives it text, and ends it.
  virtual bool begin_copy_in(const std::string& sql) = 0;
  virtual bool put(std::string_view text) = 0;
  virtual bool end_copy_in() = 0;
  /// What went wrong last, in the words of the server or of its library: one line.
  virtual const std::string& fault() const = 0;
  /// The five letters by which SQL knows what went wrong; empty where it was no command that did.
  virtual const std::string& state() const = 0;
};

/// What a module gives under the name `opensum_connect`: a connection, or a null pointer and what is wrong.
using ConnectDatabase = DatabaseConnection* (*)(const char* server, std::string* fault);
constexpr const char* kConnectDatabase = "opensum_connect";

}  // namespace opensum
