// Drawing a list of marks. No decisions are taken here.
#pragma once

#include <string>

#include "figure/marks.h"

namespace opensum {

/// Draws a figure as `png`, `svg` or `pdf` into a file. False when the file cannot be written.
bool draw_figure(const Figure& figure, const std::string& format, const std::string& path);

/// A figure as the SVG element of a page; its names begin with `prefix`, so that figures on one page do not
/// use each other's.
std::string svg_element(const Figure& figure, const std::string& prefix);

}  // namespace opensum
