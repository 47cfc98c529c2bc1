// Colours as readers see them: contrast, three kinds of colour blindness, and steps of lightness.
#include "figure/palette.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "figure/shade.h"

namespace opensum {
namespace {

using Triple = std::array<double, 3>;

// IEC 61966-2-1.
Triple linear(Color color) {
  const auto part = [](std::uint8_t value) {
    const double share = value / 255.0;
    return share <= 0.04045 ? share / 12.92 : std::pow((share + 0.055) / 1.055, 2.4);
  };
  return {part(color.red), part(color.green), part(color.blue)};
}

// Relative luminance and contrast as in WCAG 2.1.
double luminance(Color color) {
  const Triple rgb = linear(color);
  return 0.2126 * rgb[0] + 0.7152 * rgb[1] + 0.0722 * rgb[2];
}
double contrast(Color a, Color b) {
  const auto [low, high] = std::minmax({luminance(a), luminance(b)});
  return (high + 0.05) / (low + 0.05);
}

// Oklab (Ottosson 2020).
Triple oklab(const Triple& rgb) {
  const double l = std::cbrt(0.4122214708 * rgb[0] + 0.5363325363 * rgb[1] + 0.0514459929 * rgb[2]);
  const double m = std::cbrt(0.2119034982 * rgb[0] + 0.6806995451 * rgb[1] + 0.1073969566 * rgb[2]);
  const double s = std::cbrt(0.0883024619 * rgb[0] + 0.2817188376 * rgb[1] + 0.6299787005 * rgb[2]);
  return {0.2104542553 * l + 0.7936177850 * m - 0.0040720468 * s,
          1.9779984951 * l - 2.4285922050 * m + 0.4505937099 * s,
          0.0259040371 * l + 0.7827717662 * m - 0.8086757660 * s};
}

double distance(const Triple& a, const Triple& b) {
  return std::hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
}

// Full colour vision, and protanopia, deuteranopia and tritanopia as in Machado, Oliveira and Fernandes 2009.
constexpr std::array<std::array<Triple, 3>, 4> kEyes = {{
    {{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}}},
    {{{0.152286, 1.052583, -0.204868}, {0.114503, 0.786281, 0.099216}, {-0.003882, -0.048116, 1.051998}}},
    {{{0.367322, 0.860646, -0.227968}, {0.280085, 0.672501, 0.047413}, {-0.011820, 0.042940, 0.968881}}},
    {{{1.255528, -0.076749, -0.178779}, {-0.078411, 0.930809, 0.147602}, {0.004733, 0.691367, 0.303900}}},
}};

Triple seen(Color color, const std::array<Triple, 3>& eye) {
  const Triple rgb = linear(color);
  Triple out{};
  for (std::size_t i = 0; i < 3; ++i)
    out.at(i) = std::clamp(eye.at(i)[0] * rgb[0] + eye.at(i)[1] * rgb[1] + eye.at(i)[2] * rgb[2], 0.0, 1.0);
  return oklab(out);
}

TEST(Palette, IsToldApartByEveryEyeOnWhiteAndInTheDark) {
  const std::vector<Color> colors = palette();
  ASSERT_GE(colors.size(), 7U);
  // Two colours of the least difference that is seen at a glance differ by 0.02.
  constexpr double kApart = 0.12;
  for (std::size_t i = 0; i < colors.size(); ++i) {
    EXPECT_GE(contrast(colors[i], {255, 255, 255}), 3.0) << i;
    EXPECT_GE(contrast(colors[i], {29, 35, 36}), 1.5) << i;
    for (std::size_t k = 0; k < i; ++k) {
      for (std::size_t eye = 0; eye < kEyes.size(); ++eye)
        EXPECT_GE(distance(seen(colors[i], kEyes.at(eye)), seen(colors[k], kEyes.at(eye))), kApart)
            << i << " and " << k << " to eye " << eye;
    }
  }
}

TEST(Palette, NamesEveryColourOfATurn) {
  for (const Color& color : palette()) {
    const std::vector<std::string> names = color_names();
    EXPECT_TRUE(std::any_of(names.begin(), names.end(),
                            [&](const std::string& n) { return color_named(n) == color; }));
  }
}

TEST(Shade, GrowsLighterInEvenStepsForEveryEye) {
  constexpr int kSteps = 100;
  for (const auto& eye : kEyes) {
    double before = seen(shade_color(0), eye)[0];
    for (int i = 1; i <= kSteps; ++i) {
      const double lightness = seen(shade_color(double(i) / kSteps), eye)[0];
      EXPECT_GT(lightness, before - 0.002);
      before = lightness;
    }
  }
  const double darkest = seen(shade_color(0), kEyes[0])[0];
  const double lightest = seen(shade_color(1), kEyes[0])[0];
  EXPECT_GT(lightest - darkest, 0.6);
  for (int i = 0; i <= kSteps; ++i) {
    const double share = double(i) / kSteps;
    // Bytes are as coarse as this, and what a screen cannot show is held to what it can.
    EXPECT_NEAR(seen(shade_color(share), kEyes[0])[0], darkest + share * (lightest - darkest), 0.015)
        << share;
  }
}

}  // namespace
}  // namespace opensum
