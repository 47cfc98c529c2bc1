// A file that a zip archive is written into.
#include "files/zip_target.h"

#include <fcntl.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>

namespace opensum {

ZipTarget::ZipTarget(const std::string& path)
    : file_(::open(path.c_str(), O_WRONLY | O_TRUNC | O_NOFOLLOW | O_CLOEXEC)) {
  if (!file_.is_open()) error_ = errno;
}

zip_t* ZipTarget::archive() {
  if (error_ != 0) return nullptr;
  zip_source_t* source = zip_source_function_create(answer, this, nullptr);
  if (source == nullptr) return nullptr;
  zip_t* zip = zip_open_from_source(source, ZIP_TRUNCATE, nullptr);
  if (zip == nullptr) zip_source_free(source);
  return zip;
}

zip_int64_t ZipTarget::answer(void* self, void* data, zip_uint64_t size, zip_source_cmd_t command) {
  ZipTarget& own = *static_cast<ZipTarget*>(self);
  switch (command) {
    case ZIP_SOURCE_SUPPORTS:
      return zip_source_make_command_bitmap(
          ZIP_SOURCE_OPEN, ZIP_SOURCE_READ, ZIP_SOURCE_CLOSE, ZIP_SOURCE_STAT, ZIP_SOURCE_ERROR,
          ZIP_SOURCE_FREE, ZIP_SOURCE_SEEK, ZIP_SOURCE_TELL, ZIP_SOURCE_BEGIN_WRITE, ZIP_SOURCE_COMMIT_WRITE,
          ZIP_SOURCE_ROLLBACK_WRITE, ZIP_SOURCE_WRITE, ZIP_SOURCE_SEEK_WRITE, ZIP_SOURCE_TELL_WRITE,
          ZIP_SOURCE_REMOVE, -1);
    case ZIP_SOURCE_STAT: {
      auto* const facts = static_cast<zip_stat_t*>(data);
      zip_stat_init(facts);
      facts->size = own.size_;
      facts->valid = ZIP_STAT_SIZE;
      return sizeof *facts;
    }
    case ZIP_SOURCE_WRITE:
      return own.write(data, size);
    case ZIP_SOURCE_SEEK_WRITE:
      return own.seek(data, size);
    case ZIP_SOURCE_TELL_WRITE:
      return static_cast<zip_int64_t>(own.at_);
    case ZIP_SOURCE_ERROR: {
      zip_error_t error;
      zip_error_init(&error);
      zip_error_set(&error, ZIP_ER_WRITE, own.error_);
      return zip_error_to_data(&error, data, size);
    }
    default:
      return 0;
  }
}

zip_int64_t ZipTarget::checked(int error) {
  if (error_ == 0) error_ = error;
  return error == 0 ? 0 : -1;
}

zip_int64_t ZipTarget::write(const void* data, zip_uint64_t size) {
  if (checked(write_all(file_.number(), {static_cast<const char*>(data), size})) != 0) return -1;
  at_ += size;
  size_ = std::max(size_, at_);
  return static_cast<zip_int64_t>(size);
}

zip_int64_t ZipTarget::seek(void* data, zip_uint64_t size) {
  zip_error_t error;
  zip_error_init(&error);
  const zip_int64_t to = zip_source_seek_compute_offset(at_, size_, data, size, &error);
  if (to < 0) return checked(EINVAL);
  at_ = static_cast<std::uint64_t>(to);
  return checked(::lseek(file_.number(), to, SEEK_SET) < 0 ? errno : 0);
}

}  // namespace opensum
