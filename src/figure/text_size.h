// How large a text stands on the page, and how it is broken into lines.
#pragma once

#include <string>
#include <vector>

namespace opensum {

/// The fonts of figures: the first that has a letter draws it.
constexpr const char* kFigureFonts = "Liberation Sans, DejaVu Sans";

/// A text of a mark in the markup of Pango, with letters of a size: `^{…}` and letters such as ² raised,
/// `_{…}` lowered, everything else as it is.
std::string text_markup(const std::string& text, double size);

/// The letters of a text, each once, that no font here has: they would be drawn as boxes.
std::string letters_without_font(const std::string& text);

/// The width of a text in units of the page, with letters of a size.
double text_width(const std::string& text, double size, bool strong = false);

/// A text that is no wider than `width`: cut at its end, with an ellipsis, where it would be.
std::string cut_text(const std::string& text, double size, double width);

/// A text in lines no wider than `width`, broken between words; what does not fit into the last is cut.
std::vector<std::string> wrap_text(const std::string& text, double size, double width, std::size_t lines);

}  // namespace opensum
