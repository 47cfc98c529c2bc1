// Reading whole files.
#include "files/text_file.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <openssl/evp.h>
#include <sys/stat.h>
#include <unistd.h>

#include <array>
#include <cerrno>
#include <filesystem>
#include <system_error>

#include "message/nearest.h"

namespace opensum {
namespace {

constexpr std::size_t kReadBlock = 1U << 20U;

// Closes a file when it goes out of sight.
class Descriptor {
 public:
  explicit Descriptor(int number) : number_(number) {}
  ~Descriptor() {
    if (number_ > STDERR_FILENO) ::close(number_);
  }
  Descriptor(const Descriptor&) = delete;
  Descriptor& operator=(const Descriptor&) = delete;
  int number() const { return number_; }

 private:
  int number_;
};

// Reads to the end; the error number of a failure, else 0.
int read_all(int descriptor, std::size_t expected, std::string& text) {
  text.resize(expected);
  std::size_t filled = 0;
  for (;;) {
    if (filled == text.size()) text.resize(text.size() + kReadBlock);
    const ssize_t got = ::read(descriptor, text.data() + filled, text.size() - filled);
    if (got < 0 && errno == EINTR) continue;
    if (got < 0) return errno;
    if (got == 0) break;
    filled += static_cast<std::size_t>(got);
  }
  text.resize(filled);
  return 0;
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
                                              Diagnostics& diagnostics, Code code) {
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
  auto file = std::make_shared<InputFile>();
  file->path = standard ? "standard input" : path;
  file->device = status.st_dev;
  file->inode = status.st_ino;
  const std::size_t expected = S_ISREG(status.st_mode) ? static_cast<std::size_t>(status.st_size) : 0;
  if (const int error = read_all(descriptor.number(), expected, file->text)) {
    return fail(system_reason(error), false);
  }
  files_.push_back(file);
  return file;
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
        std::async(std::launch::async, [file = files_[i]] { return sha256(file->text); }).share());
  }
}

std::string Inputs::digest(std::size_t file) const {
  return file < digests_.size() ? digests_[file].get() : "";
}

std::string sha256(const std::string& text) {
  std::array<unsigned char, EVP_MAX_MD_SIZE> digest{};
  unsigned length = 0;
  EVP_Digest(text.data(), text.size(), digest.data(), &length, EVP_sha256(), nullptr);
  std::string out;
  for (unsigned i = 0; i < length; ++i) out += fmt::format("{:02x}", digest.at(i));
  return out;
}

}  // namespace opensum
