// A real PostgreSQL server of the system's packages, on a local socket in a folder of its own.
#pragma once

#include <memory>
#include <string>
#include <vector>

namespace opensum {

/// The folder of the programs of the newest server that is installed; empty for none.
std::string newest_server_programs();

class DatabaseServer {
 public:
  /// Starts one; a null pointer where none is installed, and says so.
  static std::unique_ptr<DatabaseServer> start();
  /// One that runs: the folder of its socket, and where its programs are.
  DatabaseServer(std::string folder, std::string programs)
      : folder_(std::move(folder)), programs_(std::move(programs)) {}
  ~DatabaseServer();
  DatabaseServer(const DatabaseServer&) = delete;
  DatabaseServer& operator=(const DatabaseServer&) = delete;

  /// Carries out SQL as the owner of everything, and gives what is printed: rows of cells between |.
  std::string sql(const std::string& text) const;
  /// The address of a table for a user.
  std::string address(const std::string& table, const std::string& user = "lab") const;
  /// What it wrote into its log.
  std::string log() const;
  /// The folder of its socket.
  const std::string& folder() const { return folder_; }

 private:
  std::string folder_;
  std::string programs_;
};

}  // namespace opensum
