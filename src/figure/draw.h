// Drawing a list of marks. No decisions are taken here.
#pragma once

#include <string>

#include "figure/marks.h"

namespace opensum {

/// A figure as the bytes of a `png`, `svg` or `pdf`; empty where drawing fails. Several threads may draw.
std::string drawn_figure(const Figure& figure, const std::string& format);

/// A figure that was drawn as `svg` as an element of a page; its names begin with `prefix`, so that figures
/// on one page do not use each other's.
std::string svg_element(const std::string& svg, const std::string& prefix);

}  // namespace opensum
