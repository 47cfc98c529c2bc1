// Text on lines that are not too wide for a terminal.
#pragma once

#include <string>

namespace opensum {

/// The width of what is printed for people.
constexpr std::size_t kLineWidth = 79;

/// A text with a line end: words on lines that are not too wide, those after the first with this indent.
/// Words are parted by single blanks only: more of them, which line up columns, stay.
std::string folded(const std::string& text, std::size_t indent);

}  // namespace opensum
