// Colours for a quantity.
#include "figure/shade.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace opensum {
namespace {

std::uint8_t encoded(double linear) {
  const double held = std::clamp(linear, 0.0, 1.0);
  // The transfer function of sRGB, IEC 61966-2-1.
  const double value = held <= 0.0031308 ? 12.92 * held : 1.055 * std::pow(held, 1 / 2.4) - 0.055;
  return static_cast<std::uint8_t>(std::lround(255 * value));
}

// From lightness, chroma and hue in degrees; the matrices are those of the space's author.
Color from_oklch(double lightness, double chroma, double hue) {
  const double a = chroma * std::cos(hue * std::numbers::pi / 180);
  const double b = chroma * std::sin(hue * std::numbers::pi / 180);
  const double l = std::pow(lightness + 0.3963377774 * a + 0.2158037573 * b, 3);
  const double m = std::pow(lightness - 0.1055613458 * a - 0.0638541728 * b, 3);
  const double s = std::pow(lightness - 0.0894841775 * a - 1.2914855480 * b, 3);
  return {encoded(4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s),
          encoded(-1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s),
          encoded(-0.0041960863 * l - 0.7034186147 * m + 1.7076147010 * s)};
}

}  // namespace

Color shade_color(double share) {
  constexpr double kDarkest = 0.27;
  constexpr double kLightest = 0.93;
  constexpr double kMostChroma = 0.095;
  const double at = std::clamp(share, 0.0, 1.0);
  const double lightness = kDarkest + (kLightest - kDarkest) * at;
  // Neither the darkest nor the lightest can be colourful on a screen.
  const double chroma = 0.03 + kMostChroma * std::sin(std::numbers::pi * at) * 0.7;
  const double hue = 235 - 70 * at;
  return from_oklch(lightness, chroma, hue);
}

}  // namespace opensum
