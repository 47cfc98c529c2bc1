// The parts of a zip file, unpacked within limits.
#include "files/zip_parts.h"

#include <fmt/format.h>
#include <zip.h>

#include "base/limits.h"

namespace opensum {

struct ZipParts::Archive {
  zip_t* zip = nullptr;
  ~Archive() {
    if (zip != nullptr) zip_discard(zip);
  }
};

ZipParts::ZipParts(std::shared_ptr<const InputFile> file)
    : file_(std::move(file)), archive_(std::make_unique<Archive>()) {
  zip_error_t error;
  zip_error_init(&error);
  zip_source_t* source = zip_source_buffer_create(file_->text.data(), file_->text.size(), 0, &error);
  if (source != nullptr) archive_->zip = zip_open_from_source(source, ZIP_RDONLY, &error);
  if (archive_->zip == nullptr) {
    fault_.words = zip_error_strerror(&error);
    if (source != nullptr) zip_source_free(source);
  }
  zip_error_fini(&error);
}

ZipParts::~ZipParts() = default;

bool ZipParts::has(const std::string& name) const {
  return archive_->zip != nullptr && zip_name_locate(archive_->zip, name.c_str(), 0) >= 0;
}

std::optional<std::size_t> ZipParts::checked_size(const std::string& name) {
  if (archive_->zip == nullptr) return std::nullopt;
  zip_stat_t status;
  zip_stat_init(&status);
  if (zip_stat(archive_->zip, name.c_str(), 0, &status) != 0) {
    fault_.words = fmt::format("it has no part {}", name);
    return std::nullopt;
  }
  const bool swollen = status.size > kFreeBytes && status.size / kMostRatio > status.comp_size;
  if (status.size > kMostPartBytes || swollen) {
    fault_.code = Code::workbook_too_large;
    fault_.words = fmt::format(
        "{} would unpack from {} to {} bytes, and the limits are {} bytes and {} times the "
        "packed size",
        name, status.comp_size, status.size, kMostPartBytes, kMostRatio);
    return std::nullopt;
  }
  return status.size;
}

bool ZipParts::read(const std::string& name, const std::function<bool(std::string_view)>& take) {
  constexpr std::size_t kPiece = std::size_t{64} << 10U;
  const auto size = checked_size(name);
  if (!size) return false;
  zip_file_t* part = zip_fopen(archive_->zip, name.c_str(), 0);
  if (part == nullptr) {
    fault_.words = fmt::format("{}: {}", name, zip_strerror(archive_->zip));
    return false;
  }
  std::string piece(kPiece, '\0');
  std::size_t total = 0;
  bool wanted = true;
  zip_int64_t got = 0;
  // The size that is stated may be a lie; no more is read than was checked.
  while (wanted && total <= *size && (got = zip_fread(part, piece.data(), piece.size())) > 0) {
    total += static_cast<std::size_t>(got);
    if (total <= *size) wanted = take({piece.data(), static_cast<std::size_t>(got)});
  }
  const bool whole = zip_fclose(part) == 0 && got == 0 && total == *size;
  if (wanted && !whole) fault_.words = fmt::format("{} is damaged", name);
  return wanted && whole;
}

std::optional<std::string> ZipParts::read(const std::string& name) {
  std::string text;
  const auto take = [&](std::string_view piece) {
    text += piece;
    return true;
  };
  if (!read(name, take)) return std::nullopt;
  return text;
}

}  // namespace opensum
