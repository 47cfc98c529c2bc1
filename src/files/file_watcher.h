// Noticing that files change, however editors and instruments write them.
#pragma once

#include <map>
#include <set>
#include <string>
#include <vector>

#include "files/output.h"

namespace opensum {

/// Files that are watched by way of their folders (inotify), so that one that is replaced, removed and made
/// anew or not there yet is noticed too.
class FileWatcher {
 public:
  /// Throws std::system_error where the system has no more watches to give.
  FileWatcher();

  /// Watches these paths, or patterns of paths with `*`, `?` or `[` in their last part, in the place of those
  /// from before. Gives the reason for the first folder that cannot be watched, else nothing.
  std::string watch(const std::vector<std::string>& paths);

  /// Waits until some of them changed, nothing more happened to them for a moment, nobody is in the middle of
  /// writing one, and each is there again; for the last two no longer than some seconds. Gives the paths that
  /// changed; none when something can be read from `stop`.
  std::vector<std::string> wait(int stop);

 private:
  struct Watched {
    std::string path;  ///< as it was given
    std::string name;  ///< of the file in its folder, or a pattern
  };
  void read_events(std::set<std::string>& changed, std::set<std::string>& being_written);
  static bool all_there(const std::set<std::string>& paths);

  OwnedDescriptor descriptor_;
  std::map<int, std::vector<Watched>> folders_;  ///< by their watches
};

}  // namespace opensum
