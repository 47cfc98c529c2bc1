// A figure as a plain list of marks on a page: what tests read and what the drawing draws.
#pragma once

#include <cstdint>
#include <optional>
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

/// A rectangle on the page.
struct Box {
  double left = 0;
  double right = 0;
  double bottom = 0;
  double top = 0;
  double width() const { return right - left; }
  double height() const { return top - bottom; }
  Point middle() const { return {(left + right) / 2, (bottom + top) / 2}; }
};

enum class MarkKind : std::uint8_t {
  line,   ///< through the points
  area,   ///< the polygon of the points
  boxes,  ///< rectangles, each by two opposite corners that follow one another
  dots,   ///< a disc at each point
  text,   ///< at its only point
};

/// What a mark stands for, so that tests can ask for the ticks or the points of a series.
enum class Role : std::uint8_t {
  frame,
  grid,
  tick,
  tick_label,
  axis_label,
  title,
  letter,  ///< that tells a panel from the others
  point,
  error_bar,
  curve,
  band,
  bar,
  box,
  density,
  cell,
  marking,  ///< a line or band that marks a value, and its label
  legend,
  note
};

enum class Dash : std::uint8_t { solid, dashed, dotted };

struct Mark {
  MarkKind kind{};
  Role role{};
  std::vector<Point> points;
  Color color;
  double opacity = 1;
  double width = 1;  ///< of a line, of the outline of a hollow area, across a dot
  Dash dash = Dash::solid;
  bool edged = false;   ///< an area with a thin white edge, to be told from those it covers
  bool hollow = false;  ///< an area of which only the outline is drawn
  /// `^{…}` stands raised and `_{…}` lowered.
  std::string text;
  double size = 0;      ///< of a text: of its letters
  double align = 0;     ///< 0: the point is the text's left end, 0.5: its middle, 1: its right end
  bool upward = false;  ///< turned by a quarter to the left
  bool strong = false;  ///< in bold letters
  std::optional<std::size_t> series;  ///< of what is drawn for one, its number
};

/// A page of marks. Letters of 20 units stand 7 points high in print.
struct Figure {
  double width = 1280;
  double height = 800;
  double pixels_per_unit = 1;     ///< of a PNG
  double points_per_unit = 0.35;  ///< of a PDF or SVG, in 1/72 inch
  std::string title;              ///< for readers that do not see it
  std::vector<Mark> marks;
};

}  // namespace opensum
