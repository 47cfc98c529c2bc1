// Drawing a list of marks into a file. No decisions are taken here.
#pragma once

#include <string>

#include "figure/marks.h"

namespace opensum {

/// Draws a figure as `png`, `svg` or `pdf` into a file. False when the file cannot be written.
bool draw_figure(const Figure& figure, const std::string& format, const std::string& path);

}  // namespace opensum
