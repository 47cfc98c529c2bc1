// The colours and markers of series.
#include "figure/palette.h"

#include <array>
#include <cmath>
#include <string_view>
#include <utility>

namespace opensum {
namespace {

// The palette of Okabe and Ito (2008), which readers with any common colour blindness tell apart.
constexpr std::array kPalette = {Color{0, 114, 178},   Color{213, 94, 0},   Color{0, 158, 115},
                                 Color{204, 121, 167}, Color{86, 180, 233}, Color{230, 159, 0},
                                 Color{40, 40, 40}};
constexpr std::array kTurn = {Marker::circle, Marker::square, Marker::triangle, Marker::diamond,
                              Marker::wedge};

using NamedColor = std::pair<std::string_view, Color>;
constexpr std::array kColors = {NamedColor{"blue", {0, 114, 178}},  NamedColor{"vermilion", {213, 94, 0}},
                                NamedColor{"green", {0, 158, 115}}, NamedColor{"pink", {204, 121, 167}},
                                NamedColor{"sky", {86, 180, 233}},  NamedColor{"orange", {230, 159, 0}},
                                NamedColor{"black", {40, 40, 40}},  NamedColor{"grey", {120, 120, 120}},
                                NamedColor{"red", {190, 30, 45}},   NamedColor{"purple", {106, 61, 154}},
                                NamedColor{"brown", {140, 86, 60}}, NamedColor{"yellow", {225, 200, 30}}};

using NamedMarker = std::pair<std::string_view, Marker>;
constexpr std::array kMarkers = {
    NamedMarker{"circle", Marker::circle},     NamedMarker{"square", Marker::square},
    NamedMarker{"triangle", Marker::triangle}, NamedMarker{"diamond", Marker::diamond},
    NamedMarker{"wedge", Marker::wedge},       NamedMarker{"cross", Marker::cross},
    NamedMarker{"none", Marker::none}};

template <typename Table>
std::vector<std::string> names_in(const Table& table) {
  std::vector<std::string> names;
  names.reserve(table.size());
  for (const auto& entry : table) names.emplace_back(entry.first);
  return names;
}

std::optional<std::uint8_t> hex_pair(std::string_view digits) {
  int value = 0;
  for (const char c : digits) {
    const std::size_t digit =
        std::string_view("0123456789abcdef").find(c >= 'A' && c <= 'F' ? static_cast<char>(c + 32) : c);
    if (digit == std::string_view::npos) return std::nullopt;
    value = value * 16 + static_cast<int>(digit);
  }
  return static_cast<std::uint8_t>(value);
}

}  // namespace

Look look_of(std::size_t series) {
  const std::size_t colors = kPalette.size();
  const std::size_t markers = kTurn.size();
  Look look;
  look.color = kPalette.at(series % colors);
  // A colour that comes again does so with another marker.
  look.marker = kTurn.at((series + series / colors) % markers);
  look.hollow = series / (colors * markers) % 2 == 1;
  return look;
}

std::optional<Color> color_named(const std::string& name) {
  for (const NamedColor& color : kColors) {
    if (color.first == name) return color.second;
  }
  if (name.size() != 7 || name[0] != '#') return std::nullopt;
  const auto red = hex_pair(std::string_view(name).substr(1, 2));
  const auto green = hex_pair(std::string_view(name).substr(3, 2));
  const auto blue = hex_pair(std::string_view(name).substr(5, 2));
  if (!red || !green || !blue) return std::nullopt;
  return Color{*red, *green, *blue};
}

std::vector<std::string> color_names() { return names_in(kColors); }

std::optional<Marker> marker_named(const std::string& name) {
  for (const NamedMarker& marker : kMarkers) {
    if (marker.first == name) return marker.second;
  }
  return std::nullopt;
}

std::vector<std::string> marker_names() { return names_in(kMarkers); }

std::vector<Point> marker_outline(Marker marker, double radius) {
  constexpr double kPi = 3.14159265358979323846;
  const auto polygon = [&](int corners, double turn, double scale) {
    std::vector<Point> outline;
    for (int i = 0; i < corners; ++i) {
      const double angle = turn + 2 * kPi * i / corners;
      outline.push_back({radius * scale * std::cos(angle), radius * scale * std::sin(angle)});
    }
    return outline;
  };
  switch (marker) {
    case Marker::circle:
      return polygon(24, 0, 1);
    case Marker::square:
      return polygon(4, kPi / 4, 1.25);
    case Marker::triangle:
      return polygon(3, kPi / 2, 1.5);
    case Marker::diamond:
      return polygon(4, 0, 1.4);
    case Marker::wedge:
      return polygon(3, -kPi / 2, 1.5);
    case Marker::cross:
      return {{-radius, -radius}, {radius, radius}, {-radius, radius}, {radius, -radius}};
    case Marker::none:
      break;
  }
  return {};
}

}  // namespace opensum
