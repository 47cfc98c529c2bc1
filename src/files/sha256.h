// SHA-256 digests.
#pragma once

#include <cstddef>
#include <memory>
#include <string>
#include <string_view>

namespace opensum {

/// A digest of bytes that come one part after the other.
class Sha256 {
 public:
  Sha256();
  void add(std::string_view bytes);
  /// How many bytes there were.
  std::size_t bytes() const { return bytes_; }
  /// The digest in hexadecimal digits; the last thing that is asked for.
  std::string hexadecimal();

 private:
  std::shared_ptr<void> context_;
  std::size_t bytes_ = 0;
};

/// The SHA-256 of a text in hexadecimal digits.
std::string sha256(std::string_view text);
/// That of a file, with its size; empty, with errno, for one that cannot be read.
std::string sha256_of_file(const std::string& path, std::size_t& bytes);

}  // namespace opensum
