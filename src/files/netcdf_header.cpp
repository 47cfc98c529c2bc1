// The header of a classic netCDF file.
#include "files/netcdf_header.h"

#include <cstddef>
#include <cstdint>
#include <iterator>
#include <vector>

namespace opensum {
namespace {

constexpr std::uint64_t kAbsent = 0;
constexpr std::uint64_t kDimensions = 10;
constexpr std::uint64_t kVariables = 11;
constexpr std::uint64_t kAttributes = 12;

// Goes over a header from its begin; each step is false where the file ends before.
class HeaderWalk {
 public:
  explicit HeaderWalk(std::string_view bytes)
      : rest_(bytes.substr(4)), all_(bytes.size()), version_(bytes[3]), wide_(version_ == 5 ? 8 : 4) {}

  bool run() {
    return number(wide_, records_) && list(kDimensions, [&] { return dimension(); }) && attributes() &&
           list(kVariables, [&] { return variable(); });
  }

 private:
  bool number(std::size_t size, std::uint64_t& value) {
    if (rest_.size() < size) return false;
    value = 0;
    for (std::size_t i = 0; i < size; ++i) value = (value << 8U) | static_cast<unsigned char>(rest_[i]);
    rest_.remove_prefix(size);
    return true;
  }

  bool skip(std::uint64_t count) {
    if (rest_.size() < count) return false;
    rest_.remove_prefix(static_cast<std::size_t>(count));
    return true;
  }

  // Texts and values end at a multiple of four bytes.
  bool padded(std::uint64_t count, std::uint64_t size) {
    if (count > rest_.size() / size) return false;
    return skip((count * size + 3) / 4 * 4);
  }

  bool name() {
    std::uint64_t length = 0;
    return number(wide_, length) && padded(length, 1);
  }

  // What there is of one kind: nothing, or its mark and as many as it says.
  template <typename Item>
  bool list(std::uint64_t mark, const Item& item) {
    std::uint64_t found = 0;
    std::uint64_t count = 0;
    if (!number(4, found) || !number(wide_, count)) return false;
    if (found == kAbsent && count == 0) return true;
    // None is shorter than its name's length and two bytes more.
    if (found != mark || count > rest_.size() / 4) return false;
    for (std::uint64_t i = 0; i < count; ++i) {
      if (!item()) return false;
    }
    return true;
  }

  bool attributes() {
    return list(kAttributes, [&] {
      std::uint64_t type = 0;
      std::uint64_t count = 0;
      return name() && number(4, type) && number(wide_, count) && size_of(type) > 0 &&
             padded(count, size_of(type));
    });
  }

  bool variable() {
    std::uint64_t count = 0;
    if (!name() || !number(wide_, count) || count > rest_.size() / wide_) return false;
    std::vector<std::uint64_t> dimensions(static_cast<std::size_t>(count));
    for (std::uint64_t& place : dimensions) {
      if (!number(wide_, place)) return false;
    }
    std::uint64_t type = 0;
    return attributes() && number(4, type) && has_room(dimensions, type) && skip(wide_) &&
           skip(version_ == 1 ? 4 : 8);
  }

  bool dimension() {
    std::uint64_t length = 0;
    if (!name() || !number(wide_, length)) return false;
    lengths_.push_back(length);
    return true;
  }

  // Whether as many values as the dimensions say can be in the file. One of length 0 is that of records.
  bool has_room(const std::vector<std::uint64_t>& dimensions, std::uint64_t type) const {
    const std::uint64_t size = size_of(type);
    if (size == 0) return false;
    std::uint64_t most = all_ / size;
    for (const std::uint64_t place : dimensions) {
      if (place >= lengths_.size()) return false;
      // While records are added their number is not known.
      const bool open = lengths_[place] == 0 && records_ == (wide_ == 4 ? UINT32_MAX : UINT64_MAX);
      const std::uint64_t length = open ? 1 : lengths_[place] == 0 ? records_ : lengths_[place];
      if (length > most) return false;
      if (length > 0) most /= length;
    }
    return true;
  }

  // Bytes of a value of a type: byte, char, short, int, float, double, and the unsigned and long ones.
  static std::uint64_t size_of(std::uint64_t type) {
    constexpr std::uint64_t kSizes[] = {0, 1, 1, 2, 4, 4, 8, 1, 2, 4, 8, 8};
    return type < std::size(kSizes) ? kSizes[type] : 0;
  }

  std::string_view rest_;
  std::uint64_t all_;  // bytes of the file
  std::uint64_t records_ = 0;
  std::vector<std::uint64_t> lengths_;
  char version_;
  std::size_t wide_;  // of counts
};

}  // namespace

bool is_whole_netcdf_header(std::string_view bytes) {
  return bytes.size() >= 4 && bytes.starts_with("CDF") && HeaderWalk(bytes).run();
}

}  // namespace opensum
