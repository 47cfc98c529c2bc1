// The parts of a zip file, unpacked within limits.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "files/text_file.h"
#include "message/code.h"

namespace opensum {

/// Why a workbook cannot be read: damaged, locked or too large, with words for the first and the last.
struct ReadFault {
  Code code = Code::workbook_damaged;
  std::string words;
};

/// A part of a zip file that is unpacked a piece at a time.
class Unpacking {
 public:
  virtual ~Unpacking() = default;
  /// The next piece, which stands until the one after it; nothing at the end of the part or of what of it
  /// could be unpacked.
  virtual std::optional<std::string_view> next() = 0;
  /// At the end: whether this was the whole part. Else it is a fault of the file.
  virtual bool was_whole() = 0;
};

class ZipParts {
 public:
  /// Opens a zip file in memory; `fault()` says what is wrong with it, if anything is.
  explicit ZipParts(std::shared_ptr<const InputFile> file);
  ~ZipParts();
  ZipParts(const ZipParts&) = delete;
  ZipParts& operator=(const ZipParts&) = delete;

  bool has(const std::string& name) const;
  /// The bytes of a part; nothing where it is not there, is damaged or goes beyond the limits, which then is
  /// the fault.
  std::optional<std::string> read(const std::string& name);
  /// Begins to unpack a part that no memory needs to hold; a null pointer after a fault.
  std::unique_ptr<Unpacking> unpack(const std::string& name);
  const ReadFault& fault() const { return fault_; }

 private:
  struct Archive;
  /// The size of a part within the limits; nothing after a fault.
  std::optional<std::size_t> checked_size(const std::string& name);
  std::shared_ptr<const InputFile> file_;
  std::unique_ptr<Archive> archive_;
  ReadFault fault_;
};

}  // namespace opensum
