// Texts as Unicode sees them: letters, normal form, width.
#pragma once

#include <cstddef>
#include <string>
#include <string_view>

namespace opensum {

/// Every letter by itself in upper or lower case, as Unicode maps single characters. Valid UTF-8 in and out.
std::string upper_case(std::string_view text);
std::string lower_case(std::string_view text);

/// Normal form C.
std::string normalised(std::string_view text);

/// The columns a text takes up in a terminal.
std::size_t display_width(std::string_view text);

}  // namespace opensum
