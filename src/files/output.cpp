// Writing files whole or not at all.
#include "files/output.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <sys/random.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>
#include <cstdio>
#include <filesystem>
#include <utility>

#include "base/parallel.h"
#include "base/result.h"
#include "files/leftovers.h"
#include "files/sha256.h"

namespace opensum {
namespace {

constexpr std::string_view kTemporary = ".part-";
constexpr std::size_t kRandomDigits = 16;

std::string folder_of(const std::string& path) {
  const std::string folder = std::filesystem::path(path).parent_path().string();
  return folder.empty() ? "." : folder;
}

std::string random_name() {
  std::uint64_t number = 0;
  // A few bytes are given at once and whole.
  if (::getrandom(&number, sizeof number, 0) != sizeof number)
    number = static_cast<std::uint64_t>(::getpid());
  return fmt::format("{:016x}", number);
}

// Takes the lock on the first byte of a file, which its writer holds; false where somebody else has it. Locks
// of this kind go with the open file, and neither the libraries that write workbooks nor databases use the
// first byte.
bool claim(int descriptor) {
  struct flock lock {};
  lock.l_type = F_WRLCK;
  lock.l_whence = SEEK_SET;
  lock.l_len = 1;
  return ::fcntl(descriptor, F_OFD_SETLK, &lock) == 0;
}

// A new file of a name that nobody could foresee, claimed; the error number of a failure, else 0.
int create_claimed(const std::string& path, std::string& temporary, OwnedDescriptor& descriptor) {
  constexpr int kMostTries = 8;
  for (int i = 0; i < kMostTries; ++i) {
    temporary = path + std::string(kTemporary) + random_name();
    note_leftover(temporary, false);
    descriptor =
        OwnedDescriptor(::open(temporary.c_str(), O_RDWR | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC, 0666));
    if (!descriptor.is_open() && errno == EEXIST) continue;
    if (!descriptor.is_open()) return errno;
    claim(descriptor.number());
    // Before it was claimed it looked like one that was left behind.
    struct stat status {};
    if (::fstat(descriptor.number(), &status) == 0 && status.st_nlink > 0) return 0;
  }
  return EEXIST;
}

bool is_temporary_of(const std::string& name, const std::string& of) {
  return is_temporary(name) && name.compare(0, name.size() - kTemporary.size() - kRandomDigits, of) == 0;
}

// Removes what programs that were killed left of a file: temporary files that nobody claims.
void sweep(const std::string& path) {
  const std::string name = std::filesystem::path(path).filename().string();
  std::error_code error;
  for (const auto& entry : std::filesystem::directory_iterator(folder_of(path), error)) {
    if (!is_temporary_of(entry.path().filename().string(), name)) continue;
    const std::string left = entry.path().string();
    const OwnedDescriptor file(::open(left.c_str(), O_RDWR | O_NOFOLLOW | O_NONBLOCK | O_CLOEXEC));
    if (file.is_open() && claim(file.number())) ::unlink(left.c_str());
  }
}

// What a path is that is no file; empty for a file.
std::string kind_of(const struct stat& status) {
  if (S_ISLNK(status.st_mode)) return "a symbolic link";
  if (S_ISFIFO(status.st_mode)) return "a pipe";
  if (S_ISSOCK(status.st_mode)) return "a socket";
  if (S_ISCHR(status.st_mode) || S_ISBLK(status.st_mode)) return "a device";
  return {};
}

// Makes the names in a folder durable; where that cannot be asked for nothing is lost.
void sync_folder(const std::string& path) {
  const OwnedDescriptor folder(::open(path.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC));
  if (folder.is_open()) ::fsync(folder.number());
}

// Gives a file its name. Where one of the name stands, the two change names, so that this can be taken back.
bool take_name(const std::string& temporary, const std::string& path, bool& swapped) {
  swapped = ::renameat2(AT_FDCWD, temporary.c_str(), AT_FDCWD, path.c_str(), RENAME_EXCHANGE) == 0;
  return swapped || std::rename(temporary.c_str(), path.c_str()) == 0;
}

}  // namespace

OwnedDescriptor::~OwnedDescriptor() {
  if (number_ >= 0) ::close(number_);
}

OwnedDescriptor& OwnedDescriptor::operator=(OwnedDescriptor&& other) noexcept {
  std::swap(number_, other.number_);
  return *this;
}

int OwnedDescriptor::release() { return std::exchange(number_, -1); }

int write_all(int descriptor, std::string_view text) {
  while (!text.empty()) {
    const ssize_t written = ::write(descriptor, text.data(), text.size());
    if (written < 0 && errno == EINTR) continue;
    if (written < 0) return errno;
    text.remove_prefix(static_cast<std::size_t>(written));
  }
  return 0;
}

int read_all(int descriptor, std::uint64_t begin, char* to, std::size_t size) {
  while (size > 0) {
    const ssize_t got = ::pread(descriptor, to, size, static_cast<off_t>(begin));
    if (got < 0 && errno == EINTR) continue;
    if (got <= 0) return got == 0 ? EIO : errno;
    to += got;
    begin += static_cast<std::uint64_t>(got);
    size -= static_cast<std::size_t>(got);
  }
  return 0;
}

OwnedDescriptor open_unnamed(const std::string& path) {
  std::string name = path + ".XXXXXX";
  OwnedDescriptor opened(::mkostemp(name.data(), O_CLOEXEC));
  if (opened.is_open()) ::unlink(name.c_str());
  return opened;
}

int write_file(const std::string& path, std::string_view text) {
  const int descriptor = ::open(path.c_str(), O_WRONLY | O_TRUNC | O_NOFOLLOW | O_CLOEXEC);
  if (descriptor < 0) return errno;
  const int error = write_all(descriptor, text);
  const bool closed = ::close(descriptor) == 0;
  return error != 0 || closed ? error : errno;
}

OutputFiles::~OutputFiles() {
  // Without asking for memory, the want of which may be why.
  for (const Staged& staged : staged_) ::unlink(staged.temporary.c_str());
  // Folders made for files that never came; one that holds something stays.
  for (auto folder = created_.rbegin(); folder != created_.rend(); ++folder) ::rmdir(folder->c_str());
  forget_leftovers();
}

Result<void> OutputFiles::may_write(const std::string& path, Diagnostics& diagnostics) const {
  if (inputs_.find(path) != nullptr) {
    diagnostics.add(Code::would_overwrite_input, {path});
    return false;
  }
  struct stat status {};
  if (::lstat(path.c_str(), &status) != 0) return true;
  int error = 0;
  if (S_ISDIR(status.st_mode)) {
    error = EISDIR;
  } else if (!replace_) {
    diagnostics.add(Code::already_exists, {path, advice_});
    return false;
  } else if (const std::string kind = kind_of(status); !kind.empty()) {
    diagnostics.add(Code::not_a_file, {path, kind});
    return false;
  } else if ((status.st_mode & (S_IWUSR | S_IWGRP | S_IWOTH)) == 0 || ::access(path.c_str(), W_OK) != 0) {
    // A file that nobody may write is protected from whoever may do anything, too.
    error = EACCES;
  }
  if (error != 0) diagnostics.add(Code::cannot_write, {path, system_reason(error)});
  return error == 0;
}

Result<void> OutputFiles::make_folder(const std::string& path, Diagnostics& diagnostics) {
  std::vector<std::filesystem::path> missing;
  for (std::filesystem::path folder = std::filesystem::path(path).parent_path();
       !folder.empty() && !std::filesystem::exists(folder); folder = folder.parent_path()) {
    missing.push_back(folder);
  }
  for (auto folder = missing.rbegin(); folder != missing.rend(); ++folder) {
    // It is noted before it is there, as that takes memory.
    created_.push_back(folder->string());
    if (::mkdir(folder->c_str(), 0777) != 0 && errno != EEXIST) {
      const int error = errno;
      created_.pop_back();
      diagnostics.add(Code::cannot_write, {folder->string(), system_reason(error)});
      return false;
    }
    note_leftover(created_.back(), true);
  }
  return true;
}

Result<void> OutputFiles::lock_folder(const std::string& path, Diagnostics& diagnostics) {
  const bool known = std::any_of(folders_.begin(), folders_.end(),
                                 [&](const Folder& folder) { return folder.path == path; });
  if (known) return true;
  OwnedDescriptor folder(::open(path.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC));
  if (sharing_ == Sharing::alone && folder.is_open()) {
    // Another run is likely to end soon. A file system without locks has one user at a time.
    constexpr int kTries = 100;
    constexpr useconds_t kPause = 50'000;
    int error = 0;
    for (int i = 0; i < kTries; ++i) {
      error = ::flock(folder.number(), LOCK_EX | LOCK_NB) == 0 ? 0 : errno;
      if (error != EWOULDBLOCK) break;
      ::usleep(kPause);
    }
    if (error == EWOULDBLOCK) {
      diagnostics.add(Code::folder_in_use, {path});
      return false;
    }
  }
  folders_.push_back({path, std::move(folder)});
  return true;
}

std::string OutputFiles::stage(const std::string& path, Diagnostics& diagnostics) {
  std::string temporary = try_to_stage(path, diagnostics);
  complete_ = complete_ && !temporary.empty();
  return temporary;
}

std::string OutputFiles::try_to_stage(const std::string& path, Diagnostics& diagnostics) {
  if (!may_write(path, diagnostics)) return {};
  {
    const Making making;
    if (!make_folder(path, diagnostics)) return {};
  }
  if (!lock_folder(folder_of(path), diagnostics)) return {};
  sweep(path);
  const Making making;
  // It is among the staged before it is there, as that takes memory.
  Staged& staged = staged_.emplace_back();
  staged.path = path;
  if (const int error = create_claimed(path, staged.temporary, staged.claim)) {
    staged_.pop_back();
    diagnostics.add(Code::cannot_write, {path, system_reason(error)});
    return {};
  }
  return staged.temporary;
}

bool OutputFiles::write(const std::string& path, std::string_view content, Diagnostics& diagnostics) {
  return write(
      path, [&](int descriptor) { return write_all(descriptor, content); }, diagnostics);
}

bool OutputFiles::write(const std::string& path, const std::function<int(int)>& fill,
                        Diagnostics& diagnostics) {
  const std::string temporary = stage(path, diagnostics);
  if (temporary.empty()) return false;
  const int descriptor = ::open(temporary.c_str(), O_WRONLY | O_TRUNC | O_NOFOLLOW | O_CLOEXEC);
  int error = descriptor < 0 ? errno : fill(descriptor);
  if (descriptor >= 0 && ::close(descriptor) != 0 && error == 0) error = errno;
  if (error == 0) return true;
  complete_ = false;
  diagnostics.add(Code::cannot_write, {path, system_reason(error)});
  return false;
}

void OutputFiles::take_back() {
  for (auto staged = staged_.rbegin(); staged != staged_.rend(); ++staged) {
    if (!staged->renamed) continue;
    const unsigned how = staged->swapped ? RENAME_EXCHANGE : RENAME_NOREPLACE;
    staged->renamed =
        ::renameat2(AT_FDCWD, staged->path.c_str(), AT_FDCWD, staged->temporary.c_str(), how) != 0;
  }
}

bool OutputFiles::commit(Diagnostics& diagnostics) {
  if (!complete_) return false;
  const auto fail = [&](const Staged& staged, int error) {
    diagnostics.add(Code::cannot_write, {staged.path, system_reason(error)});
    return false;
  };
  for (const Staged& staged : staged_) {
    if (::fsync(staged.claim.number()) != 0 && errno != EINVAL) return fail(staged, errno);
  }
  for (const Folder& folder : folders_) sync_folder(folder.path);
  const Unstoppable all_at_once;
  for (Staged& staged : staged_) {
    staged.renamed = take_name(staged.temporary, staged.path, staged.swapped);
    if (staged.renamed) continue;
    fail(staged, errno);
    take_back();
    std::string fresh;
    std::string old;
    std::size_t count = 0;
    for (const Staged& one : staged_) {
      (one.renamed ? fresh : old) += (one.renamed ? fresh : old).empty() ? one.path : ", " + one.path;
      count += one.renamed ? 1 : 0;
    }
    if (count > 0) diagnostics.add(Code::partly_written, {fresh, old, count == 1 ? "is" : "are"});
    return false;
  }
  // What has the temporary names now are the files from before.
  for (const Staged& staged : staged_) {
    if (staged.swapped) ::unlink(staged.temporary.c_str());
  }
  for (const Folder& folder : folders_) sync_folder(folder.path);
  if (!staged_.empty()) note_written();
  staged_.clear();
  created_.clear();
  forget_leftovers();
  return true;
}

bool is_temporary(const std::string& path) {
  const std::size_t ending = kTemporary.size() + kRandomDigits;
  if (path.size() <= ending) return false;
  const std::string_view end = std::string_view(path).substr(path.size() - ending);
  return end.starts_with(kTemporary) &&
         end.find_first_not_of("0123456789abcdef", kTemporary.size()) == std::string_view::npos;
}

std::vector<OutputFiles::Digest> OutputFiles::digests(Diagnostics& diagnostics) const {
  std::vector<Digest> digests(staged_.size());
  std::vector<int> errors(staged_.size(), 0);
  for_each_part(staged_.size(), [&](std::size_t i) {
    if (staged_[i].digest) {
      digests[i] = *staged_[i].digest;
      return;
    }
    digests[i].path = staged_[i].path;
    digests[i].sha256 = sha256_of_file(staged_[i].temporary, digests[i].bytes);
    if (digests[i].sha256.empty()) errors[i] = errno;
  });
  for (std::size_t i = 0; i < errors.size(); ++i) {
    if (errors[i] != 0) diagnostics.add(Code::cannot_write, {staged_[i].path, system_reason(errors[i])});
  }
  return digests;
}

void OutputFiles::set_digest(const Digest& digest) {
  for (Staged& staged : staged_) {
    if (staged.path == digest.path) staged.digest = digest;
  }
}

std::vector<std::string> OutputFiles::paths() const {
  std::vector<std::string> paths;
  for (const Staged& staged : staged_) paths.push_back(staged.path);
  return paths;
}

}  // namespace opensum
