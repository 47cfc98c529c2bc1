// Texts as Unicode sees them: letters, normal form, width.
#pragma once

#include <cstddef>
#include <cstdint>
#include <string>
#include <string_view>

namespace opensum {

/// Every letter by itself in upper or lower case, as Unicode maps single characters. Valid UTF-8 in and out.
std::string upper_case(std::string_view text);
std::string lower_case(std::string_view text);

/// Appends the character of a code point as UTF-8.
void append_utf8(std::string& out, std::uint32_t code);

/// Normal form C.
std::string normalised(std::string_view text);

/// The text with what a terminal or a reader could not see, or would obey, written out: control characters of
/// ASCII as `\x1b`, other ones, marks that turn the direction of writing and separators of lines as
/// `\u{202e}`; bytes that are no UTF-8 become U+FFFD. Line ends and tabs stay. `cut` is given how many bytes
/// at the end may be the begin of a character that goes on elsewhere; they are left out.
std::string visible(std::string_view text, std::size_t* cut = nullptr);

/// Whether `visible` would change a text.
bool is_visible(std::string_view text);

/// Makes a text valid UTF-8 without NUL: each byte that is neither becomes U+FFFD. Whether any was.
bool make_valid_utf8(std::string& text);

/// Valid UTF-8 without the control characters that XML 1.0 forbids: each such byte or character becomes
/// U+FFFD.
std::string as_xml_text(std::string_view text);

/// The columns a text takes up in a terminal.
std::size_t display_width(std::string_view text);

}  // namespace opensum
