// Many points as a density.
#include "figure/density.h"

#include <algorithm>
#include <cmath>

namespace opensum {
namespace {

constexpr double kSpot = 5;  // the side of a spot, in units of the page
constexpr std::size_t kShades = 6;

}  // namespace

DensityMarks density_marks(const Series& series, const Frame& frame, std::size_t number) {
  DensityMarks density;
  const auto columns = std::max<std::size_t>(1, static_cast<std::size_t>(frame.box.width() / kSpot));
  const auto rows = std::max<std::size_t>(1, static_cast<std::size_t>(frame.box.height() / kSpot));
  std::vector<std::size_t> counts(columns * rows, 0);
  const auto place = [](double share, std::size_t parts) {
    return std::min(static_cast<std::size_t>(share * static_cast<double>(parts)), parts - 1);
  };
  const Scale& y_scale = series.right_axis ? frame.right : frame.y;
  for (std::size_t i = 0; i < series.x.size(); ++i) {
    if (!frame.holds(series.x[i], series.y[i], series.right_axis)) continue;
    density.points += series.count(i);
    counts[place(y_scale.place(series.y[i]), rows) * columns + place(frame.x.place(series.x[i]), columns)] +=
        series.count(i);
  }
  for (const std::size_t count : counts) density.most = std::max(density.most, count);
  const double width = frame.box.width() / static_cast<double>(columns);
  const double height = frame.box.height() / static_cast<double>(rows);
  const double whole = std::log1p(static_cast<double>(density.most));
  std::vector<Mark> shades(kShades);
  for (std::size_t shade = 0; shade < kShades; ++shade) {
    shades[shade] = area_mark(MarkKind::boxes, Role::density, {}, series.look.color);
    shades[shade].opacity = 0.15 + 0.85 * static_cast<double>(shade + 1) / kShades;
    shades[shade].series = number;
  }
  const auto shade_of = [&](std::size_t count) {
    return std::min(static_cast<std::size_t>(std::log1p(static_cast<double>(count)) / whole * kShades),
                    kShades - 1);
  };
  for (std::size_t row = 0; row < rows; ++row) {
    for (std::size_t column = 0; column < columns;) {
      const std::size_t count = counts[row * columns + column];
      if (count == 0) {
        ++column;
        continue;
      }
      // Neighbours of one shade are one box.
      const std::size_t shade = shade_of(count);
      std::size_t end = column + 1;
      while (end < columns && counts[row * columns + end] > 0 &&
             shade_of(counts[row * columns + end]) == shade)
        ++end;
      const double bottom = frame.box.bottom + static_cast<double>(row) * height;
      shades[shade].points.push_back({frame.box.left + static_cast<double>(column) * width, bottom});
      shades[shade].points.push_back({frame.box.left + static_cast<double>(end) * width, bottom + height});
      column = end;
    }
  }
  for (Mark& shade : shades) {
    if (!shade.points.empty()) density.marks.push_back(std::move(shade));
  }
  return density;
}

}  // namespace opensum
