// Files that several studies share: where they are looked for.
#include "files/shared_files.h"

#include <algorithm>
#include <cstdlib>
#include <filesystem>
#include <set>

#include "base/split.h"

namespace opensum {
namespace {

std::string from_environment(const char* name) {
  const char* const value = std::getenv(name);
  return value == nullptr ? "" : value;
}

}  // namespace

std::vector<std::string> shared_folders() {
  std::vector<std::string> folders;
  for (const std::string& folder : split(from_environment("OPENSUM_PATH"), ':')) {
    if (!folder.empty()) folders.push_back(folder);
  }
  std::string config = from_environment("XDG_CONFIG_HOME");
  // A relative one is to be ignored.
  if (!config.starts_with('/')) {
    config = from_environment("HOME");
    if (!config.empty()) config += "/.config";
  }
  if (!config.empty()) folders.push_back(config + "/opensum");
  return folders;
}

std::string find_shared(const std::string& name) {
  for (const std::string& folder : shared_folders()) {
    const std::filesystem::path path = std::filesystem::path(folder) / name;
    std::error_code error;
    if (std::filesystem::is_regular_file(path, error)) return path.lexically_normal().string();
  }
  return "";
}

std::vector<std::string> all_shared() {
  std::vector<std::string> paths;
  std::set<std::string> names;
  for (const std::string& folder : shared_folders()) {
    std::vector<std::string> own;
    std::error_code error;
    for (const auto& entry : std::filesystem::directory_iterator(folder, error)) {
      const bool is_toml = entry.path().extension() == ".toml" && entry.is_regular_file(error);
      if (is_toml && names.insert(entry.path().filename().string()).second)
        own.push_back(entry.path().lexically_normal().string());
    }
    std::sort(own.begin(), own.end());
    paths.insert(paths.end(), own.begin(), own.end());
  }
  return paths;
}

}  // namespace opensum
