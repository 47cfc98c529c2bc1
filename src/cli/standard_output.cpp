// Standard output that knows whether everything printed got through.
#include "cli/standard_output.h"

#include <unistd.h>

#include <algorithm>
#include <cerrno>

#include "base/unicode.h"
#include "files/output.h"

namespace opensum {

StandardOutput::StandardOutput(bool terminal) : terminal_(terminal) {
  setp(buffer_.data(), buffer_.data() + buffer_.size());
}

int StandardOutput::overflow(int character) {
  if (sync() != 0) return traits_type::eof();
  if (traits_type::eq_int_type(character, traits_type::eof())) return traits_type::not_eof(character);
  return sputc(traits_type::to_char_type(character));
}

int StandardOutput::sync() {
  const std::string_view text(pbase(), static_cast<std::size_t>(pptr() - pbase()));
  std::size_t cut = 0;
  if (error_ == 0) error_ = write_all(STDOUT_FILENO, terminal_ ? visible(text, &cut) : std::string(text));
  // The begin of a character waits for its end.
  std::copy(text.end() - static_cast<std::ptrdiff_t>(cut), text.end(), buffer_.begin());
  setp(buffer_.data(), buffer_.data() + buffer_.size());
  pbump(static_cast<int>(cut));
  return error_ == 0 ? 0 : -1;
}

}  // namespace opensum
