// Texts as Unicode sees them.
#include "base/unicode.h"

#include <utf8proc.h>

#include <algorithm>
#include <array>
#include <cstdlib>
#include <memory>

namespace opensum {
namespace {

std::string mapped(std::string_view text, utf8proc_int32_t (*map)(utf8proc_int32_t)) {
  constexpr std::size_t kLongestCharacter = 4;
  std::string out;
  for (std::size_t at = 0; at < text.size();) {
    utf8proc_int32_t code = 0;
    const auto length = utf8proc_iterate(reinterpret_cast<const utf8proc_uint8_t*>(text.data()) + at,
                                         static_cast<utf8proc_ssize_t>(text.size() - at), &code);
    if (length <= 0) {
      out += text[at++];
      continue;
    }
    std::array<utf8proc_uint8_t, kLongestCharacter> bytes{};
    const auto written = utf8proc_encode_char(map(code), bytes.data());
    out.append(reinterpret_cast<const char*>(bytes.data()), static_cast<std::size_t>(written));
    at += static_cast<std::size_t>(length);
  }
  return out;
}

}  // namespace

std::string upper_case(std::string_view text) { return mapped(text, utf8proc_toupper); }
std::string lower_case(std::string_view text) { return mapped(text, utf8proc_tolower); }

std::string normalised(std::string_view text) {
  std::string whole(text);
  utf8proc_uint8_t* raw = utf8proc_NFC(reinterpret_cast<const utf8proc_uint8_t*>(whole.c_str()));
  if (raw == nullptr) return whole;
  const std::unique_ptr<utf8proc_uint8_t, decltype(&std::free)> owner(raw, &std::free);
  return reinterpret_cast<const char*>(owner.get());
}

std::size_t display_width(std::string_view text) {
  std::size_t width = 0;
  for (std::size_t at = 0; at < text.size();) {
    std::int32_t code = 0;
    const auto length = utf8proc_iterate(reinterpret_cast<const utf8proc_uint8_t*>(text.data()) + at,
                                         static_cast<utf8proc_ssize_t>(text.size() - at), &code);
    if (length <= 0) {
      ++width;
      ++at;
      continue;
    }
    width += static_cast<std::size_t>(std::max(utf8proc_charwidth(code), 0));
    at += static_cast<std::size_t>(length);
  }
  return width;
}

}  // namespace opensum
