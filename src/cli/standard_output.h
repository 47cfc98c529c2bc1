// Standard output that knows whether everything printed got through.
#pragma once

#include <array>
#include <streambuf>

namespace opensum {

/// Writes to the descriptor of standard output, and keeps the error number of the first write that failed.
/// What goes to a terminal is made visible: it obeys no text out of a data file.
class StandardOutput : public std::streambuf {
 public:
  explicit StandardOutput(bool terminal);
  /// The error number of the first write that failed; 0 when all that was flushed got through.
  int error() const { return error_; }

 protected:
  int overflow(int character) override;
  int sync() override;

 private:
  std::array<char, 1 << 16> buffer_{};
  bool terminal_;
  int error_ = 0;
};

}  // namespace opensum
