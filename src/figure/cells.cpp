// A field of cells.
#include "figure/cells.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>

#include "figure/shade.h"

namespace opensum {
namespace {

// Where the cell of a value begins and ends along one axis, in units of the page.
std::map<double, std::pair<double, double>> pieces(const std::vector<double>& values, const Scale& scale,
                                                   double from, double length) {
  const std::vector<double> edges = cell_edges(values);
  std::vector<double> places = values;
  std::sort(places.begin(), places.end());
  places.erase(std::unique(places.begin(), places.end()), places.end());
  std::map<double, std::pair<double, double>> found;
  for (std::size_t i = 0; i < places.size(); ++i) {
    const auto at = [&](double edge) {
      return from + length * scale.place(std::clamp(edge, scale.low, scale.high));
    };
    found[places[i]] = std::minmax(at(edges[i]), at(edges[i + 1]));
  }
  return found;
}

}  // namespace

std::vector<double> cell_edges(std::vector<double> values) {
  std::sort(values.begin(), values.end());
  values.erase(std::unique(values.begin(), values.end()), values.end());
  if (values.empty()) return {};
  if (values.size() == 1) return {values[0] - 0.5, values[0] + 0.5};
  std::vector<double> edges = {values[0] - (values[1] - values[0]) / 2};
  for (std::size_t i = 1; i < values.size(); ++i) edges.push_back(values[i - 1] / 2 + values[i] / 2);
  edges.push_back(values.back() + (values.back() - values[values.size() - 2]) / 2);
  return edges;
}

std::size_t shade_step(const Scale& shade, double value) {
  const double share = std::clamp(shade.place(std::clamp(value, shade.low, shade.high)), 0.0, 1.0);
  return std::min(kShadeSteps - 1, static_cast<std::size_t>(share * kShadeSteps));
}

Color color_of_step(std::size_t step) {
  return shade_color((static_cast<double>(step) + 0.5) / static_cast<double>(kShadeSteps));
}

std::vector<Mark> cell_marks(const Chart& chart, const Frame& frame, std::vector<std::string>& remarks) {
  std::vector<double> x;
  std::vector<double> y;
  for (const Series& series : chart.series) {
    x.insert(x.end(), series.x.begin(), series.x.end());
    y.insert(y.end(), series.y.begin(), series.y.end());
  }
  const auto across = pieces(x, frame.x, frame.box.left, frame.box.width());
  const auto up = pieces(y, frame.y, frame.box.bottom, frame.box.height());
  std::map<std::pair<double, double>, std::size_t> steps;
  std::size_t hidden = 0;
  for (const Series& series : chart.series) {
    for (std::size_t i = 0; i < series.x.size(); ++i) {
      if (!frame.holds(series.x[i], series.y[i], false)) continue;
      const auto [cell, is_new] =
          steps.insert_or_assign({series.x[i], series.y[i]}, shade_step(frame.shade, series.shade[i]));
      hidden += is_new ? 0 : 1;
    }
  }
  if (hidden > 0)
    remarks.push_back(
        fmt::format("{} cell{} behind another at the same place", hidden, hidden == 1 ? "" : "s"));
  // Cells of one colour are one mark. They reach a little under their neighbours, so that no ground shines
  // through between them.
  constexpr double kUnder = 1;
  std::array<std::vector<Point>, kShadeSteps> by_step;
  for (const auto& [place, step] : steps) {
    const auto& [left, right] = across.at(place.first);
    const auto& [bottom, top] = up.at(place.second);
    by_step.at(step).push_back({left, bottom});
    by_step.at(step).push_back(
        {std::min(right + kUnder, frame.box.right), std::min(top + kUnder, frame.box.top)});
  }
  std::vector<Mark> marks;
  for (std::size_t step = 0; step < kShadeSteps; ++step) {
    if (!by_step.at(step).empty())
      marks.push_back(
          area_mark(MarkKind::boxes, Role::cell, std::move(by_step.at(step)), color_of_step(step)));
  }
  return marks;
}

}  // namespace opensum
