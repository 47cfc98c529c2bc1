// Writing files whole or not at all.
#include "files/output.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstdio>
#include <filesystem>
#include <future>

#include "base/parallel.h"
#include "files/leftovers.h"

namespace opensum {

int write_all(int descriptor, std::string_view text) {
  while (!text.empty()) {
    const ssize_t written = ::write(descriptor, text.data(), text.size());
    if (written < 0 && errno == EINTR) continue;
    if (written < 0) return errno;
    text.remove_prefix(static_cast<std::size_t>(written));
  }
  return 0;
}

OutputFiles::~OutputFiles() {
  std::error_code ignored;
  for (const Staged& staged : staged_) std::filesystem::remove(staged.temporary, ignored);
  // Folders made for files that never came; one that holds something stays.
  for (auto folder = folders_.rbegin(); folder != folders_.rend(); ++folder) ::rmdir(folder->c_str());
  forget_leftovers();
}

std::string OutputFiles::stage(const std::string& path, Diagnostics& diagnostics) {
  if (inputs_.find(path) != nullptr) {
    diagnostics.add(Code::would_overwrite_input, {path});
    return {};
  }
  struct stat status {};
  if (::lstat(path.c_str(), &status) == 0) {
    if (S_ISDIR(status.st_mode)) {
      diagnostics.add(Code::cannot_write, {path, system_reason(EISDIR)});
      return {};
    }
    if (!replace_) {
      diagnostics.add(Code::already_exists, {path, advice_});
      return {};
    }
  }
  const Making making;
  std::vector<std::filesystem::path> missing;
  for (std::filesystem::path folder = std::filesystem::path(path).parent_path();
       !folder.empty() && !std::filesystem::exists(folder); folder = folder.parent_path()) {
    missing.push_back(folder);
  }
  for (auto folder = missing.rbegin(); folder != missing.rend(); ++folder) {
    if (::mkdir(folder->c_str(), 0777) != 0 && errno != EEXIST) {
      diagnostics.add(Code::cannot_write, {folder->string(), system_reason(errno)});
      return {};
    }
    folders_.push_back(folder->string());
    note_leftover(folder->string(), true);
  }
  std::string temporary = path + ".part-" + std::to_string(::getpid());
  note_leftover(temporary, false);
  const int descriptor = ::open(temporary.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0666);
  if (descriptor < 0) {
    diagnostics.add(Code::cannot_write, {path, system_reason(errno)});
    return {};
  }
  ::close(descriptor);
  staged_.push_back({path, temporary});
  return temporary;
}

bool OutputFiles::write(const std::string& path, std::string_view content, Diagnostics& diagnostics) {
  return write(
      path, [&](int descriptor) { return write_all(descriptor, content); }, diagnostics);
}

bool OutputFiles::write(const std::string& path, const std::function<int(int)>& fill,
                        Diagnostics& diagnostics) {
  const std::string temporary = stage(path, diagnostics);
  if (temporary.empty()) return false;
  const int descriptor = ::open(temporary.c_str(), O_WRONLY | O_TRUNC | O_CLOEXEC);
  int error = descriptor < 0 ? errno : fill(descriptor);
  if (descriptor >= 0 && ::close(descriptor) != 0 && error == 0) error = errno;
  if (error == 0) return true;
  diagnostics.add(Code::cannot_write, {path, system_reason(error)});
  return false;
}

bool OutputFiles::commit(Diagnostics& diagnostics) {
  const Unstoppable all_at_once;
  for (const Staged& staged : staged_) {
    if (std::rename(staged.temporary.c_str(), staged.path.c_str()) != 0) {
      diagnostics.add(Code::cannot_write, {staged.path, system_reason(errno)});
      return false;
    }
  }
  staged_.clear();
  folders_.clear();
  forget_leftovers();
  return true;
}

std::vector<std::string> OutputFiles::paths() const {
  std::vector<std::string> paths;
  for (const Staged& staged : staged_) paths.push_back(staged.path);
  return paths;
}

}  // namespace opensum
