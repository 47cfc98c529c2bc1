// The parts of a zip file, unpacked within limits.
#include "files/zip_parts.h"

#include <fmt/format.h>
#include <zip.h>

#include <utility>

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

namespace {

class UnpackedPart : public Unpacking {
 public:
  UnpackedPart(zip_file_t* part, std::size_t size, std::string name, ReadFault& fault)
      : part_(part), size_(size), name_(std::move(name)), fault_(fault) {}
  ~UnpackedPart() override {
    if (part_ != nullptr) zip_fclose(part_);
  }
  UnpackedPart(const UnpackedPart&) = delete;
  UnpackedPart& operator=(const UnpackedPart&) = delete;

  std::optional<std::string_view> next() override {
    if (got_ < 0 || total_ > size_) return std::nullopt;
    got_ = zip_fread(part_, piece_.data(), piece_.size());
    if (got_ <= 0) return std::nullopt;
    total_ += static_cast<std::size_t>(got_);
    // The size that is stated may be a lie; no more is read than was checked.
    if (total_ > size_) return std::nullopt;
    return std::string_view(piece_).substr(0, static_cast<std::size_t>(got_));
  }

  bool was_whole() override {
    const bool closed = zip_fclose(std::exchange(part_, nullptr)) == 0;
    const bool whole = closed && got_ == 0 && total_ == size_;
    if (!whole) fault_.words = fmt::format("{} is damaged", name_);
    return whole;
  }

 private:
  static constexpr std::size_t kPiece = std::size_t{64} << 10U;
  zip_file_t* part_;
  std::size_t size_;
  std::string name_;
  ReadFault& fault_;
  std::string piece_ = std::string(kPiece, '\0');
  std::size_t total_ = 0;
  zip_int64_t got_ = 0;
};

}  // namespace

std::unique_ptr<Unpacking> ZipParts::unpack(const std::string& name) {
  const auto size = checked_size(name);
  if (!size) return nullptr;
  zip_file_t* part = zip_fopen(archive_->zip, name.c_str(), 0);
  if (part == nullptr) {
    fault_.words = fmt::format("{}: {}", name, zip_strerror(archive_->zip));
    return nullptr;
  }
  return std::make_unique<UnpackedPart>(part, *size, name, fault_);
}

std::optional<std::string> ZipParts::read(const std::string& name) {
  const std::unique_ptr<Unpacking> part = unpack(name);
  if (!part) return std::nullopt;
  std::string text;
  while (const auto piece = part->next()) text += *piece;
  if (!part->was_whole()) return std::nullopt;
  return text;
}

}  // namespace opensum
