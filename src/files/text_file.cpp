// Reading whole files.
#include "files/text_file.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/mman.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <cstdint>
#include <filesystem>
#include <limits>
#include <new>
#include <system_error>

#include "base/limits.h"
#include "base/mapped_file.h"
#include "files/descriptor.h"
#include "files/sha256.h"
#include "message/nearest.h"

namespace opensum {
namespace {

constexpr std::size_t kReadBlock = 1U << 20U;

// Files of at least this size are memory-mapped.
constexpr off_t kMapped = off_t{1} << 20;

// Reads to the end; the error number of a failure, else 0. What goes beyond `most` is a failure (EFBIG).
int read_all(int descriptor, std::size_t expected, std::size_t most, std::string& text) {
  text.resize(expected);
  std::size_t filled = 0;
  for (;;) {
    if (filled == text.size()) text.resize(text.size() + kReadBlock);
    const ssize_t got = ::read(descriptor, text.data() + filled, text.size() - filled);
    if (got < 0 && errno == EINTR) continue;
    if (got < 0) return errno;
    if (got == 0) break;
    filled += static_cast<std::size_t>(got);
    if (filled > most) return EFBIG;
  }
  text.resize(filled);
  return 0;
}

std::string digest_of(const InputFile& file) {
  constexpr std::size_t kStep = std::size_t{4} << 20U;
  Sha256 digest;
  for (std::size_t begin = 0; begin < file.text.size(); begin += kStep) {
    const std::string_view part = file.text.substr(begin, kStep);
    digest.add(part);
    file.forget(begin, begin + part.size());
  }
  return digest.hexadecimal();
}

std::string nearest_file(const std::string& path) {
  const std::filesystem::path wanted(path);
  const std::filesystem::path folder = wanted.has_parent_path() ? wanted.parent_path() : ".";
  std::vector<std::string> names;
  std::error_code error;
  for (const auto& entry : std::filesystem::directory_iterator(folder, error)) {
    names.push_back(entry.path().filename().string());
  }
  const std::string nearest = nearest_name(wanted.filename().string(), names);
  return nearest.empty() ? nearest : (wanted.has_parent_path() ? (folder / nearest).string() : nearest);
}

}  // namespace

std::string system_reason(int error) { return std::generic_category().message(error); }

std::shared_ptr<const InputFile> Inputs::read(const std::string& path, const Place& place,
                                              Diagnostics& diagnostics, Code code, bool may_stay) {
  for (const auto& file : files_) {
    if (file->path == path) return file;
  }
  const auto fail = [&](const std::string& reason, bool missing) -> std::shared_ptr<const InputFile> {
    diagnostics.add(code, place, {path, reason, missing ? nearest_file(path) : ""});
    return nullptr;
  };
  const bool standard = path == "-";
  const Descriptor descriptor(standard ? STDIN_FILENO : ::open(path.c_str(), O_RDONLY | O_CLOEXEC));
  if (descriptor.number() < 0) return fail(system_reason(errno), errno == ENOENT);
  struct stat status {};
  if (::fstat(descriptor.number(), &status) != 0) return fail(system_reason(errno), false);
  if (S_ISDIR(status.st_mode)) return fail(system_reason(EISDIR), false);
  // Such as /dev/zero, which has no end.
  const bool device =
      (S_ISCHR(status.st_mode) && !standard && ::isatty(descriptor.number()) == 0) || S_ISBLK(status.st_mode);
  if (device) return fail("it is a device, not a file", false);
  auto file = std::make_shared<InputFile>();
  file->path = standard ? kStandardInput : path;
  file->device = status.st_dev;
  file->inode = status.st_ino;
  file->modified = status.st_mtim;
  const std::size_t expected = S_ISREG(status.st_mode) ? static_cast<std::size_t>(status.st_size) : 0;
  if (may_stay && S_ISREG(status.st_mode) && status.st_size >= kMapped) {
    auto mapping = std::make_shared<const MappedFile>(descriptor.number(), expected);
    if (mapping->good()) {
      file->text = mapping->text();
      file->bytes = std::move(mapping);
      file->mapped = true;
    }
  }
  if (!file->mapped) {
    std::string content;
    const std::size_t most =
        S_ISREG(status.st_mode) ? std::numeric_limits<std::size_t>::max() : kMostPipedBytes;
    if (const int error = read_all(descriptor.number(), expected, most, content)) {
      if (error != EFBIG) return fail(system_reason(error), false);
      diagnostics.add(Code::pipe_too_long, place, {file->path, std::to_string(kMostPipedBytes >> 30U)});
      return nullptr;
    }
    file->hold(std::move(content));
  }
  files_.push_back(file);
  return file;
}

void InputFile::hold(std::string content) {
  auto held = std::make_shared<const std::string>(std::move(content));
  text = *held;
  bytes = std::move(held);
}

void InputFile::forget(std::size_t begin, std::size_t end) const {
  if (!mapped) return;
  const auto page = static_cast<std::size_t>(::sysconf(_SC_PAGESIZE));
  char* const bytes_begin = const_cast<char*>(text.data());
  // Of a text that does not begin with a page (after a byte order mark) pages are counted from the page
  // before.
  const std::size_t skew = reinterpret_cast<std::uintptr_t>(bytes_begin) % page;
  // Whoever looks at the first bytes after a place is given pages before it as well.
  constexpr std::size_t kAround = std::size_t{256} << 10U;
  const std::size_t first = (skew + begin - std::min(begin, kAround) + page - 1) / page * page - skew;
  const std::size_t last = (skew + end) / page * page - skew;
  // Only advice: where it is not taken nothing is lost.
  if (last > first && last <= text.size()) ::madvise(bytes_begin + first, last - first, MADV_DONTNEED);
}

std::shared_ptr<const InputFile> Inputs::added(const std::string& path) const {
  const auto found =
      std::find_if(files_.begin(), files_.end(), [&](const auto& file) { return file->path == path; });
  return found == files_.end() ? nullptr : *found;
}

const InputFile* Inputs::find(const std::string& path) const {
  struct stat status {};
  if (::stat(path.c_str(), &status) != 0) return nullptr;
  for (const auto& file : files_) {
    if (file->device == status.st_dev && file->inode == status.st_ino) return file.get();
  }
  return nullptr;
}

void Inputs::start_digests() {
  for (std::size_t i = digests_.size(); i < files_.size(); ++i) {
    digests_.push_back(
        std::async(std::launch::async, [file = files_[i]] { return digest_of(*file); }).share());
  }
}

std::string Inputs::digest(std::size_t file) const {
  return file < digests_.size() ? digests_[file].get() : "";
}

void Inputs::report_changed(Diagnostics& diagnostics) const {
  for (const auto& file : files_) {
    struct stat status {};
    if (!file->mapped || ::stat(file->path.c_str(), &status) != 0 || status.st_ino != file->inode) continue;
    const bool same = status.st_size == static_cast<off_t>(file->text.size()) &&
                      status.st_mtim.tv_sec == file->modified.tv_sec &&
                      status.st_mtim.tv_nsec == file->modified.tv_nsec;
    if (!same) diagnostics.add(Code::input_changed, {file->path});
  }
}

}  // namespace opensum
