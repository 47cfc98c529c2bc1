// A figure as a plain list of marks on a page: what tests read and what the drawing draws.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

namespace opensum {

/// A point on the page, in units of the page, from its lower left corner.
struct Point {
  double x = 0;
  double y = 0;
};

struct Color {
  std::uint8_t red = 0;
  std::uint8_t green = 0;
  std::uint8_t blue = 0;
  friend bool operator==(const Color&, const Color&) = default;
};

enum class MarkKind : std::uint8_t { line, area, text };

/// What a mark stands for, so that tests can ask for the ticks or the points of a series.
enum class Role : std::uint8_t {
  frame,
  grid,
  tick,
  tick_label,
  axis_label,
  title,
  point,
  curve,
  legend,
  note
};

struct Mark {
  MarkKind kind{};
  Role role{};
  std::vector<Point> points;  ///< of a line or an area; one for a text
  Color color;
  double width = 1;  ///< of a line
  std::string text;
  double size = 0;      ///< of a text: the height of its letters' box
  double align = 0;     ///< 0: the point is the text's left end, 0.5: its middle, 1: its right end
  bool upward = false;  ///< turned by a quarter to the left
  int series = -1;
};

struct Figure {
  double width = 1280;
  double height = 800;
  std::vector<Mark> marks;
};

}  // namespace opensum
