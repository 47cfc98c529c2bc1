// Standard output that knows whether everything printed got through.
#include "cli/standard_output.h"

#include <unistd.h>

#include <cerrno>

#include "files/output.h"

namespace opensum {

StandardOutput::StandardOutput() { setp(buffer_.data(), buffer_.data() + buffer_.size()); }

int StandardOutput::overflow(int character) {
  if (sync() != 0) return traits_type::eof();
  if (traits_type::eq_int_type(character, traits_type::eof())) return traits_type::not_eof(character);
  return sputc(traits_type::to_char_type(character));
}

int StandardOutput::sync() {
  const std::string_view text(pbase(), static_cast<std::size_t>(pptr() - pbase()));
  setp(buffer_.data(), buffer_.data() + buffer_.size());
  if (error_ == 0) error_ = write_all(STDOUT_FILENO, text);
  return error_ == 0 ? 0 : -1;
}

}  // namespace opensum
