// Texts as a study and a shell read them.
#include "message/quoting.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>

namespace opensum {

std::string toml_quoted(std::string_view text) {
  std::string out = "\"";
  for (const char c : text) {
    if (c == '"' || c == '\\') {
      out += '\\';
      out += c;
    } else if (static_cast<unsigned char>(c) < 0x20U || c == 0x7F) {
      out += fmt::format("\\u{:04x}", static_cast<unsigned>(c));
    } else {
      out += c;
    }
  }
  return out + '"';
}

std::string shell_word(std::string_view text) {
  constexpr std::string_view kPlainSigns = "%+,-./:=@_";
  const auto plain = [&](char c) {
    const auto byte = static_cast<unsigned char>(c);
    return byte >= 0x80 || std::isalnum(byte) != 0 || kPlainSigns.find(c) != std::string_view::npos;
  };
  if (!text.empty() && std::all_of(text.begin(), text.end(), plain)) return std::string(text);
  std::string out = "'";
  for (const char c : text) {
    if (c == '\'') {
      out += "'\\''";
    } else {
      out += c;
    }
  }
  return out + "'";
}

}  // namespace opensum
