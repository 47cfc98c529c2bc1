// The axes of a chart on the page, and the marks that everything is made of.
#pragma once

#include <string>
#include <vector>

#include "figure/marks.h"
#include "figure/scale.h"

namespace opensum {

constexpr double kTitleSize = 25;
constexpr double kLabelSize = 22;
constexpr double kTickSize = 20;
constexpr double kLegendSize = 19;
constexpr double kNoteSize = 16;

/// Where values stand on the page.
struct Frame {
  Box box;
  Scale x;
  Scale y;
  Scale right;
  Scale shade;  ///< of the quantity that is shown as colour
  double page_x(double value) const { return box.left + x.place(value) * box.width(); }
  double page_y(double value, bool on_right) const {
    return box.bottom + (on_right ? right : y).place(value) * box.height();
  }
  bool holds(double x_value, double y_value, bool on_right) const {
    return x.holds(x_value) && (on_right ? right : y).holds(y_value);
  }
  Point at(double x_value, double y_value, bool on_right) const {
    return {page_x(x_value), page_y(y_value, on_right)};
  }
};

inline Mark line_mark(Role role, std::vector<Point> points, Color color, double width) {
  Mark mark;
  mark.kind = MarkKind::line;
  mark.role = role;
  mark.points = std::move(points);
  mark.color = color;
  mark.width = width;
  return mark;
}

inline Mark area_mark(MarkKind kind, Role role, std::vector<Point> points, Color color) {
  Mark mark;
  mark.kind = kind;
  mark.role = role;
  mark.points = std::move(points);
  mark.color = color;
  return mark;
}

inline Mark text_mark(Role role, Point at, std::string words, double size, double align, Color color) {
  Mark mark;
  mark.kind = MarkKind::text;
  mark.role = role;
  mark.points = {at};
  mark.color = color;
  mark.text = std::move(words);
  mark.size = size;
  mark.align = align;
  return mark;
}

}  // namespace opensum
