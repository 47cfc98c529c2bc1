// A figure of points: derived against measured.
#pragma once

#include <string>
#include <vector>

#include "figure/marks.h"
#include "figure/scale.h"

namespace opensum {

/// Points of one series, in the units of the axes. Rows without a value are left out by the caller, who says
/// how many there were.
struct Series {
  std::string label;
  std::vector<double> x;
  std::vector<double> y;
  std::size_t rows = 0;  ///< with those that are null
  /// A fitted curve through them, and what the legend says of it; empty for none.
  std::vector<double> curve_x = {};
  std::vector<double> curve_y = {};
  std::string curve_label = {};
  /// The points are joined by a line, which begins anew at each of these.
  bool joined = false;
  std::vector<std::size_t> breaks = {};
  /// Of the rows not drawn: those that a logarithmic axis has no place for.
  std::size_t not_positive = 0;
};

struct Scatter {
  std::string title;
  std::string x_label;
  std::string y_label;
  std::vector<Series> series;
  ScaleWish x_wish = {};
  ScaleWish y_wish = {};
};

/// The marks of such a figure: axes with ticks, points, a legend for more than one series, and a note of the
/// rows that are not drawn.
Figure build_scatter(const Scatter& scatter);

/// About how wide a text is, in units of its size.
double text_width(const std::string& text);

}  // namespace opensum
