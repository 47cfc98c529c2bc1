// Asking the marks of a figure.
#pragma once

#include <algorithm>
#include <iterator>
#include <string>
#include <vector>

#include "figure/marks.h"

namespace opensum {

inline std::vector<Mark> of_role(const Figure& figure, Role role) {
  std::vector<Mark> found;
  std::copy_if(figure.marks.begin(), figure.marks.end(), std::back_inserter(found),
               [&](const Mark& m) { return m.role == role; });
  return found;
}

inline std::vector<std::string> texts_of(const Figure& figure, Role role) {
  std::vector<std::string> texts;
  for (const Mark& mark : of_role(figure, role)) {
    if (mark.kind == MarkKind::text) texts.push_back(mark.text);
  }
  return texts;
}

/// The mean of a mark's points.
inline Point middle_of(const Mark& mark) {
  Point sum;
  for (const Point& p : mark.points)
    sum = {sum.x + p.x / double(mark.points.size()), sum.y + p.y / double(mark.points.size())};
  return sum;
}

}  // namespace opensum
