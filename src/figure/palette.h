// The colours and markers of series: those given by turns, and those that a study names.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "figure/marks.h"

namespace opensum {

constexpr Color kInk{34, 34, 34};
constexpr Color kQuiet{104, 104, 104};
constexpr Color kGridColor{228, 228, 228};

enum class Marker : std::uint8_t { circle, square, triangle, diamond, wedge, cross, none };

/// How a series looks.
struct Look {
  Color color;
  Marker marker = Marker::circle;
  bool hollow = false;
};

/// The look of the series with a number, from 0. The first 70 differ in colour, marker or filling.
Look look_of(std::size_t series);

/// The colours that series have in turn.
std::vector<Color> palette();

/// A colour by its name or as `#rrggbb`; the names that are known.
std::optional<Color> color_named(const std::string& name);
std::vector<std::string> color_names();

/// A marker by its name; the names that are known.
std::optional<Marker> marker_named(const std::string& name);
std::vector<std::string> marker_names();

/// The outline of a marker around the origin; each covers about the same area. A cross is two lines.
std::vector<Point> marker_outline(Marker marker, double radius);

}  // namespace opensum
