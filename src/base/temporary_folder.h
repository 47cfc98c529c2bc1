// A folder of its own for as long as it is needed.
#pragma once

#include <filesystem>
#include <string>

namespace opensum {

/// A new, empty folder where temporary files belong, removed with all that is in it when this goes. Throws
/// std::filesystem::filesystem_error where none can be made.
class TemporaryFolder {
 public:
  TemporaryFolder();
  ~TemporaryFolder();
  TemporaryFolder(const TemporaryFolder&) = delete;
  TemporaryFolder& operator=(const TemporaryFolder&) = delete;
  const std::string& path() const { return path_; }

 private:
  std::string path_;
};

}  // namespace opensum
