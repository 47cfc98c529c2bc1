// Reading whole files, and knowing which ones were read.
#pragma once

#include <sys/types.h>
#include <time.h>

#include <future>
#include <map>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "message/diagnostic.h"

namespace opensum {

class DatabaseConnection;

/// What a run's input is called that is no file.
constexpr const char* kStandardInput = "standard input";

/// A file as read. Sources are opened read-only and never written.
struct InputFile {
  std::string path;  ///< as shown in messages
  std::string_view text;
  dev_t device = 0;
  ino_t inode = 0;
  /// What the text looks into: a text of its own, or the memory-mapped file.
  std::shared_ptr<const void> bytes;
  bool mapped = false;
  /// When it was opened: changes since are noticed where it is memory-mapped.
  struct timespec modified {};

  /// Takes a text as the content.
  void hold(std::string content);
  /// Lets go of the memory in which bytes between two places were looked at; they stay readable.
  void forget(std::size_t begin, std::size_t end) const;
};

/// The files that a run has read; outputs are compared with them.
class Inputs {
 public:
  /// Reads a file, or standard input for `-`. Null after a reported error; `code` says which one. A long one
  /// is memory-mapped if that may be; whoever allows it asks report_changed() before writing.
  std::shared_ptr<const InputFile> read(const std::string& path, const Place& place, Diagnostics& diagnostics,
                                        Code code = Code::cannot_open, bool may_stay = false);
  /// Takes up what was read from elsewhere than a file: a table of a database.
  void add(std::shared_ptr<const InputFile> input) { files_.push_back(std::move(input)); }
  /// One of those by its path; null when there is none.
  std::shared_ptr<const InputFile> added(const std::string& path) const;
  /// The connections through which databases are read, by their servers: each sees its database as it was
  /// when it was first asked.
  std::map<std::string, std::shared_ptr<DatabaseConnection>>& databases() { return databases_; }
  /// The input that a path leads to, by device and inode; null when it is none.
  const InputFile* find(const std::string& path) const;
  const std::vector<std::shared_ptr<const InputFile>>& all() const { return files_; }
  /// Begins to find the SHA-256 of every file that was read, while other work goes on.
  void start_digests();
  /// That of a file by its place in all(); empty where it was not begun.
  std::string digest(std::size_t file) const;
  /// Reports files that were changed by others since they were opened, if it made a difference.
  void report_changed(Diagnostics& diagnostics) const;

 private:
  std::vector<std::shared_ptr<const InputFile>> files_;
  std::vector<std::shared_future<std::string>> digests_;
  std::map<std::string, std::shared_ptr<DatabaseConnection>> databases_;
};

/// The reason of the last failed system call, such as `No such file or directory`.
std::string system_reason(int error);

}  // namespace opensum
