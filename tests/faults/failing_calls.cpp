// A library put before the C library (LD_PRELOAD) in which the n-th call of one kind fails, as calls do on
// full disks and in want of memory. OPENSUM_FAULT says which: `write:7`, or with `size:N` how long files may
// be. Whether it came to that is told by a
// file at OPENSUM_FAULT_TOLD.
#include <dlfcn.h>
#include <fcntl.h>
#include <sys/resource.h>
#include <sys/stat.h>
#include <unistd.h>

#include <atomic>
#include <cerrno>
#include <cstdarg>
#include <cstddef>
#include <cstdio>
#include <cstdlib>
#include <cstring>

namespace {

template <typename Function>
Function next(const char* name) {
  return reinterpret_cast<Function>(::dlsym(RTLD_NEXT, name));
}

struct Plan {
  char kind[16] = "";
  long number = 0;
};

const Plan& plan() {
  static const Plan read = [] {
    Plan found;
    const char* text = ::getenv("OPENSUM_FAULT");
    const char* colon = text == nullptr ? nullptr : std::strchr(text, ':');
    if (colon != nullptr && colon - text < static_cast<std::ptrdiff_t>(sizeof found.kind)) {
      std::memcpy(found.kind, text, static_cast<std::size_t>(colon - text));
      found.number = std::atol(colon + 1);
    }
    return found;
  }();
  return read;
}

std::atomic<long> calls{0};

// What libraries ask for before the program itself begins cannot be helped: memory fails once it reads its
// study.
std::atomic<bool> begun{false};

void note(const char* path) {
  constexpr const char* kStudy = "study.toml";
  const std::size_t length = std::strlen(path);
  if (length >= std::strlen(kStudy) && std::strcmp(path + length - std::strlen(kStudy), kStudy) == 0)
    begun = true;
}

// `size:N`: no file may grow beyond N bytes, as on a disk that is full for all that comes.
const bool limited = [] {
  const char* text = ::getenv("OPENSUM_FAULT");
  if (text == nullptr || std::strncmp(text, "size:", 5) != 0) return false;
  const auto most = static_cast<rlim_t>(std::atol(text + 5));
  const rlimit limit{most, most};
  return ::setrlimit(RLIMIT_FSIZE, &limit) == 0;
}();

void tell() {
  const char* path = ::getenv("OPENSUM_FAULT_TOLD");
  if (path == nullptr) return;
  static const auto real_open = next<int (*)(const char*, int, ...)>("open");
  static const auto real_close = next<int (*)(int)>("close");
  const int file = real_open(path, O_WRONLY | O_CREAT, 0600);
  if (file >= 0) real_close(file);
}

// Whether this call of a kind is the one that fails.
bool fails(const char* kind) {
  if (std::strcmp(plan().kind, kind) != 0 || ++calls != plan().number) return false;
  tell();
  return true;
}

bool fails(const char* kind, int error) {
  if (!fails(kind)) return false;
  errno = error;
  return true;
}

}  // namespace

// The names are those of the C library.
extern "C" {

int open(const char* path, int flags, ...) {
  va_list more;
  va_start(more, flags);
  const mode_t mode = va_arg(more, mode_t);
  va_end(more);
  note(path);
  if (fails("open", EMFILE)) return -1;
  static const auto real = next<int (*)(const char*, int, ...)>("open");
  return real(path, flags, mode);
}

int open64(const char* path, int flags, ...) {
  va_list more;
  va_start(more, flags);
  const mode_t mode = va_arg(more, mode_t);
  va_end(more);
  note(path);
  if (fails("open", EMFILE)) return -1;
  static const auto real = next<int (*)(const char*, int, ...)>("open64");
  return real(path, flags, mode);
}

FILE* fopen(const char* path, const char* mode) {
  if (fails("open", EMFILE)) return nullptr;
  static const auto real = next<FILE* (*)(const char*, const char*)>("fopen");
  return real(path, mode);
}

ssize_t read(int file, void* to, size_t count) {
  if (fails("read", EIO)) return -1;
  static const auto real = next<ssize_t (*)(int, void*, size_t)>("read");
  return real(file, to, count);
}

ssize_t write(int file, const void* from, size_t count) {
  if (fails("write", ENOSPC)) return -1;
  static const auto real = next<ssize_t (*)(int, const void*, size_t)>("write");
  return real(file, from, count);
}

ssize_t pwrite64(int file, const void* from, size_t count, off64_t at) {
  if (fails("write", ENOSPC)) return -1;
  static const auto real = next<ssize_t (*)(int, const void*, size_t, off64_t)>("pwrite64");
  return real(file, from, count, at);
}

ssize_t pwrite(int file, const void* from, size_t count, off_t at) {
  if (fails("write", ENOSPC)) return -1;
  static const auto real = next<ssize_t (*)(int, const void*, size_t, off_t)>("pwrite");
  return real(file, from, count, at);
}

int fsync(int file) {
  if (fails("fsync", EIO)) return -1;
  static const auto real = next<int (*)(int)>("fsync");
  return real(file);
}

int close(int file) {
  static const auto real = next<int (*)(int)>("close");
  const int result = real(file);
  return fails("close", EIO) ? -1 : result;
}

int rename(const char* from, const char* to) {
  if (fails("rename", EIO)) return -1;
  static const auto real = next<int (*)(const char*, const char*)>("rename");
  return real(from, to);
}

int renameat2(int from_folder, const char* from, int to_folder, const char* to, unsigned flags) {
  if (fails("rename", EIO)) return -1;
  static const auto real = next<int (*)(int, const char*, int, const char*, unsigned)>("renameat2");
  return real(from_folder, from, to_folder, to, flags);
}

void* malloc(size_t size) {
  // Asking for the next one may itself ask for memory, which is then given.
  static thread_local bool asking = false;
  static void* (*real)(size_t) = nullptr;
  if (real == nullptr && !asking) {
    asking = true;
    real = next<void* (*)(size_t)>("malloc");
    asking = false;
  }
  if (real == nullptr) return nullptr;
  if (!asking && begun) {
    asking = true;
    const bool failing = fails("malloc", ENOMEM);
    asking = false;
    if (failing) return nullptr;
  }
  return real(size);
}

}  // extern "C"
