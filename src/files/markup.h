// Texts inside markup such as HTML, XML and that of Pango.
#pragma once

#include <string>
#include <string_view>

namespace opensum {

/// A text with the signs of markup escaped, appended to another.
void append_escaped(std::string& out, std::string_view text);
/// The same alone.
std::string escaped(std::string_view text);

}  // namespace opensum
