// Texts as Unicode sees them.
#include "base/unicode.h"

#include <fmt/format.h>
#include <utf8proc.h>

#include <algorithm>
#include <array>
#include <cstdlib>
#include <memory>
#include <new>

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

void append_utf8(std::string& out, std::uint32_t code) {
  std::array<utf8proc_uint8_t, 4> bytes{};
  const auto length = utf8proc_encode_char(static_cast<utf8proc_int32_t>(code), bytes.data());
  out.append(reinterpret_cast<const char*>(bytes.data()), static_cast<std::size_t>(length));
}

std::string normalised(std::string_view text) {
  utf8proc_uint8_t* raw = nullptr;
  const utf8proc_ssize_t size = utf8proc_map(
      reinterpret_cast<const utf8proc_uint8_t*>(text.data()), static_cast<utf8proc_ssize_t>(text.size()),
      &raw, static_cast<utf8proc_option_t>(UTF8PROC_STABLE | UTF8PROC_COMPOSE));
  const std::unique_ptr<utf8proc_uint8_t, decltype(&std::free)> owner(raw, &std::free);
  // Two spellings that stay two for want of memory would be two groups.
  if (size == UTF8PROC_ERROR_NOMEM) throw std::bad_alloc();
  return size < 0 ? std::string(text)
                  : std::string(reinterpret_cast<const char*>(raw), static_cast<std::size_t>(size));
}

namespace {

constexpr std::string_view kReplacement = "\xEF\xBF\xBD";

bool is_control(std::int32_t code) {
  return (code < 0x20 && code != '\n' && code != '\t') || (code >= 0x7F && code < 0xA0);
}

// Marks that turn the direction of what stands around them, and separators of lines and paragraphs.
bool is_turning(std::int32_t code) {
  return code == 0x061C || code == 0x200E || code == 0x200F || (code >= 0x2028 && code <= 0x202E) ||
         (code >= 0x2066 && code <= 0x2069);
}

// Every character of a text with its code, -1 for a byte that is no UTF-8.
template <typename Take>
void for_each_character(std::string_view text, Take take) {
  for (std::size_t at = 0; at < text.size();) {
    std::int32_t code = static_cast<unsigned char>(text[at]);
    std::size_t length = 1;
    if (code >= 0x80) {
      const auto read = utf8proc_iterate(reinterpret_cast<const utf8proc_uint8_t*>(text.data()) + at,
                                         static_cast<utf8proc_ssize_t>(text.size() - at), &code);
      if (read <= 0) code = -1;
      length = read > 0 ? static_cast<std::size_t>(read) : 1;
    }
    take(code, text.substr(at, length));
    at += length;
  }
}

// How many bytes at the end begin a character that is longer.
std::size_t unfinished(std::string_view text) {
  for (std::size_t back = 1; back <= std::min<std::size_t>(3, text.size()); ++back) {
    const auto byte = static_cast<unsigned char>(text[text.size() - back]);
    if ((byte & 0xC0U) == 0x80U) continue;
    const std::size_t length = byte >= 0xF0U ? 4 : byte >= 0xE0U ? 3 : byte >= 0xC0U ? 2 : 1;
    return length > back ? back : 0;
  }
  return 0;
}

}  // namespace

std::string visible(std::string_view text, std::size_t* cut) {
  if (cut != nullptr) {
    *cut = unfinished(text);
    text.remove_suffix(*cut);
  }
  std::string out;
  out.reserve(text.size());
  for_each_character(text, [&](std::int32_t code, std::string_view bytes) {
    if (code < 0) {
      out += kReplacement;
    } else if (is_control(code) && code < 0x80) {
      out += fmt::format("\\x{:02x}", code);
    } else if (is_control(code) || is_turning(code)) {
      out += fmt::format("\\u{{{:x}}}", code);
    } else {
      out += bytes;
    }
  });
  return out;
}

bool is_visible(std::string_view text) {
  bool all = true;
  for_each_character(text, [&](std::int32_t code, std::string_view) {
    all = all && code >= 0 && !is_control(code) && !is_turning(code);
  });
  return all;
}

bool make_valid_utf8(std::string& text) {
  const bool ascii = std::all_of(text.begin(), text.end(), [](char c) { return c > 0; });
  if (ascii) return false;
  std::string out;
  bool replaced = false;
  for_each_character(text, [&](std::int32_t code, std::string_view bytes) {
    replaced = replaced || code <= 0;
    out += code <= 0 ? kReplacement : bytes;
  });
  if (replaced) text = std::move(out);
  return replaced;
}

std::string as_xml_text(std::string_view text) {
  std::string out;
  out.reserve(text.size());
  for_each_character(text, [&](std::int32_t code, std::string_view bytes) {
    const bool forbidden =
        (code < 0x20 && code != '\n' && code != '\t' && code != '\r') || code == 0xFFFE || code == 0xFFFF;
    out += forbidden ? kReplacement : bytes;
  });
  return out;
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
