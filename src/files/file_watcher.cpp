// Noticing that files change.
#include "files/file_watcher.h"

#include <fnmatch.h>
#include <poll.h>
#include <sys/inotify.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <chrono>
#include <cstring>
#include <filesystem>
#include <system_error>

namespace opensum {
namespace {

using Clock = std::chrono::steady_clock;

// Several files that are saved together, and the steps in which editors save one, fall within this.
constexpr std::chrono::milliseconds kQuiet{200};
// How long is waited for a file to be closed by its writer, or to be there again.
constexpr std::chrono::seconds kPatience{3};

bool is_pattern_of_files(const std::string& name) { return name.find_first_of("*?[") != std::string::npos; }

}  // namespace

FileWatcher::FileWatcher() : descriptor_(::inotify_init1(IN_CLOEXEC | IN_NONBLOCK)) {
  if (!descriptor_.is_open()) throw std::system_error(errno, std::generic_category(), "inotify");
}

std::string FileWatcher::watch(const std::vector<std::string>& paths) {
  constexpr std::uint32_t kEvents = IN_CLOSE_WRITE | IN_MODIFY | IN_MOVED_TO | IN_MOVED_FROM | IN_CREATE |
                                    IN_DELETE | IN_DELETE_SELF | IN_MOVE_SELF;
  std::map<int, std::vector<Watched>> before;
  before.swap(folders_);
  std::string fault;
  const auto add = [&](const std::filesystem::path& file, const std::string& path) {
    const std::string folder = file.has_parent_path() ? file.parent_path().string() : ".";
    // The same folder has the same watch however often it is added.
    const int watch = ::inotify_add_watch(descriptor_.number(), folder.c_str(), kEvents);
    if (watch >= 0) {
      folders_[watch].push_back({path, file.filename().string()});
    } else if (errno != ENOENT && fault.empty()) {
      fault = folder + ": " + std::generic_category().message(errno);
    }
  };
  for (const std::string& path : paths) {
    add(path, path);
    // Where it is a link, what it leads to may change.
    std::error_code error;
    const std::filesystem::path real = std::filesystem::canonical(path, error);
    if (!error && real != std::filesystem::absolute(path).lexically_normal()) add(real, path);
  }
  for (const auto& folder : before) {
    if (!folders_.contains(folder.first)) ::inotify_rm_watch(descriptor_.number(), folder.first);
  }
  return fault;
}

void FileWatcher::read_events(std::set<std::string>& changed, std::set<std::string>& being_written) {
  constexpr std::size_t kBuffer = 65536;
  alignas(inotify_event) std::array<char, kBuffer> buffer{};
  for (;;) {
    const ssize_t got = ::read(descriptor_.number(), buffer.data(), buffer.size());
    if (got <= 0) return;
    for (std::size_t at = 0; at < static_cast<std::size_t>(got);) {
      inotify_event event{};
      std::memcpy(&event, &buffer.at(at), sizeof event);
      const char* const name = event.len > 0 ? &buffer.at(at + sizeof event) : "";
      at += sizeof event + event.len;
      const auto folder = folders_.find(event.wd);
      if (folder == folders_.end()) continue;
      for (const Watched& watched : folder->second) {
        const bool whole_folder = event.len == 0;
        const bool meant = watched.name == name || (is_pattern_of_files(watched.name) &&
                                                    ::fnmatch(watched.name.c_str(), name, 0) == 0);
        if ((!whole_folder && !meant) || is_temporary(name)) continue;
        changed.insert(watched.path);
        if ((event.mask & IN_MODIFY) != 0) being_written.insert(watched.path);
        if ((event.mask & (IN_CLOSE_WRITE | IN_MOVED_TO | IN_DELETE)) != 0) being_written.erase(watched.path);
      }
    }
  }
}

bool FileWatcher::all_there(const std::set<std::string>& paths) {
  return std::all_of(paths.begin(), paths.end(), [](const std::string& path) {
    std::error_code error;
    return is_pattern_of_files(path) || std::filesystem::exists(path, error);
  });
}

std::vector<std::string> FileWatcher::wait(int stop) {
  std::set<std::string> changed;
  std::set<std::string> being_written;
  Clock::time_point last{};
  for (;;) {
    std::array<pollfd, 2> descriptors{pollfd{descriptor_.number(), POLLIN, 0}, pollfd{stop, POLLIN, 0}};
    const int timeout = changed.empty() ? -1 : static_cast<int>(kQuiet.count());
    const int ready = ::poll(descriptors.data(), descriptors.size(), timeout);
    if (ready < 0 && errno != EINTR) return {};
    if (descriptors[1].revents != 0) return {};
    if (descriptors[0].revents != 0) {
      read_events(changed, being_written);
      last = Clock::now();
      continue;
    }
    const bool patient = Clock::now() - last < kPatience && (!being_written.empty() || !all_there(changed));
    if (!changed.empty() && !patient) return {changed.begin(), changed.end()};
  }
}

}  // namespace opensum
