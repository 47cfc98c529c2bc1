// The colours and markers of series.
#include "figure/palette.h"

#include <array>
#include <cmath>
#include <string_view>
#include <utility>

namespace opensum {
namespace {

// Searched for in the perceptual space Oklab: of all sets of seven with a contrast of 3 on white the one
// whose nearest two are farthest apart, to readers with full colour vision and with each of the three kinds
// of colour blindness; each is as far as can be from those before it.
constexpr std::array kPalette = {Color{74, 156, 153},  Color{87, 40, 143},  Color{178, 59, 25},
                                 Color{170, 113, 252}, Color{225, 113, 45}, Color{81, 104, 151},
                                 Color{120, 36, 69}};
constexpr std::array kTurn = {Marker::circle, Marker::square, Marker::triangle, Marker::diamond,
                              Marker::wedge};

using NamedColor = std::pair<std::string_view, Color>;
constexpr std::array kColors = {NamedColor{"teal", kPalette[0]},     NamedColor{"violet", kPalette[1]},
                                NamedColor{"rust", kPalette[2]},     NamedColor{"lilac", kPalette[3]},
                                NamedColor{"orange", kPalette[4]},   NamedColor{"slate", kPalette[5]},
                                NamedColor{"wine", kPalette[6]},     NamedColor{"black", {34, 34, 34}},
                                NamedColor{"grey", {120, 120, 120}}, NamedColor{"red", {196, 32, 48}},
                                NamedColor{"green", {44, 128, 62}},  NamedColor{"blue", {36, 92, 176}},
                                NamedColor{"brown", {134, 84, 52}},  NamedColor{"pink", {214, 96, 150}},
                                NamedColor{"yellow", {196, 160, 16}}};

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

std::vector<Color> palette() { return {kPalette.begin(), kPalette.end()}; }

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
