// The legend of a chart.
#include "figure/legend.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>

#include "figure/series_marks.h"
#include "figure/text_size.h"

namespace opensum {
namespace {

constexpr double kStep = kLegendSize + 11;
constexpr double kSampleWidth = 42;
constexpr double kInset = 8;
constexpr double kFromFrame = 12;

LegendEntry entry_of(const Chart& chart, const Series& series) {
  LegendEntry entry;
  entry.label = series.label;
  entry.color = series.look.color;
  entry.look = series.look;
  const bool outlined = chart.kind == ChartKind::histogram && chart.series.size() > 1;
  entry.filled = chart.kind != ChartKind::points && !outlined;
  entry.curve = series.joined || outlined;
  // Where colour is a quantity, series are told apart by their markers.
  if (chart.shade) entry.color = entry.look.color = kInk;
  entry.marker = !entry.filled && !outlined && has_markers(series);
  entry.dash = outlined ? outline_dash(static_cast<std::size_t>(&series - chart.series.data())) : series.dash;
  return entry;
}

// How much of a place marks would shine through, by the places of their points and of pieces between them.
double covered(const Box& place, const std::vector<Mark>& marks) {
  constexpr double kApart = 6;
  constexpr double kPiece = 12;
  double sum = 0;
  const auto inside = [&](double x, double y) {
    return x > place.left - kApart && x < place.right + kApart && y > place.bottom - kApart &&
           y < place.top + kApart;
  };
  for (const Mark& mark : marks) {
    if (mark.role == Role::band) continue;
    if (mark.kind == MarkKind::boxes) {
      for (std::size_t i = 0; i + 1 < mark.points.size(); i += 2) {
        const Point& one = mark.points[i];
        const Point& two = mark.points[i + 1];
        if (std::min(one.x, two.x) < place.right && std::max(one.x, two.x) > place.left &&
            std::min(one.y, two.y) < place.top && std::max(one.y, two.y) > place.bottom)
          ++sum;
      }
      continue;
    }
    for (std::size_t i = 0; i < mark.points.size(); ++i) {
      const Point& point = mark.points[i];
      if (inside(point.x, point.y)) ++sum;
      if (mark.kind != MarkKind::line || i == 0) continue;
      const Point& before = mark.points[i - 1];
      const double length = std::hypot(point.x - before.x, point.y - before.y);
      const int pieces = static_cast<int>(length / kPiece);
      for (int piece = 1; piece < pieces; ++piece) {
        const double share = static_cast<double>(piece) / pieces;
        if (inside(before.x + share * (point.x - before.x), before.y + share * (point.y - before.y))) ++sum;
      }
    }
  }
  return sum;
}

// A place by the share of the free room that lies left of it and below it.
Box box_at(const Legend& legend, const Box& frame, double across, double up) {
  Box box;
  const double room_across = frame.width() - legend.width - 2 * kFromFrame;
  const double room_up = frame.height() - legend.height - 2 * kFromFrame;
  box.left = frame.left + kFromFrame + across * room_across;
  box.right = box.left + legend.width;
  box.bottom = frame.bottom + kFromFrame + up * room_up;
  box.top = box.bottom + legend.height;
  return box;
}

}  // namespace

Legend legend_of(const Chart& chart, double widest, double highest) {
  Legend legend;
  if (chart.legend == LegendPlace::none) return legend;
  bool curves = false;
  for (const Series& series : chart.series) {
    legend.entries.push_back(entry_of(chart, series));
    for (const CurveLine& curve : series.curves) {
      if (curve.label.empty()) continue;
      curves = true;
      LegendEntry entry;
      entry.label = curve.label;
      entry.color = curve_color(chart, series, curve);
      entry.curve = true;
      entry.dash = curve.dash;
      legend.entries.push_back(std::move(entry));
    }
  }
  if ((chart.series.size() < 2 && !curves) || chart.kind == ChartKind::cells) {
    legend.entries.clear();
    return legend;
  }
  const auto room = static_cast<std::size_t>(std::max(2.0, (highest - 2 * kInset) / kStep));
  if (legend.entries.size() > room) {
    LegendEntry rest;
    rest.label = fmt::format("and {} more", legend.entries.size() - (room - 1));
    legend.entries.resize(room - 1);
    legend.entries.push_back(std::move(rest));
  }
  for (LegendEntry& entry : legend.entries) {
    entry.label = cut_text(entry.label, kLegendSize, widest - kSampleWidth - 2 * kInset);
    legend.width = std::max(legend.width, text_width(entry.label, kLegendSize));
  }
  legend.width += kSampleWidth + 2 * kInset;
  legend.height = kStep * static_cast<double>(legend.entries.size()) + kInset;
  return legend;
}

bool place_legend(const Legend& legend, LegendPlace wish, const Frame& frame, const std::vector<Mark>& marks,
                  Box& place) {
  // Corners first, then the middles of the sides.
  struct Corner {
    LegendPlace name;
    double across;
    double up;
  };
  constexpr std::array kPlaces = {
      Corner{LegendPlace::top_left, 0, 1},    Corner{LegendPlace::top_right, 1, 1},
      Corner{LegendPlace::bottom_left, 0, 0}, Corner{LegendPlace::bottom_right, 1, 0},
      Corner{LegendPlace::best, 0.5, 1},      Corner{LegendPlace::best, 0.5, 0},
      Corner{LegendPlace::best, 0, 0.5},      Corner{LegendPlace::best, 1, 0.5}};
  const auto* const wished =
      std::find_if(kPlaces.begin(), kPlaces.end(), [&](const Corner& c) { return c.name == wish; });
  if (wish != LegendPlace::best && wished != kPlaces.end()) {
    place = box_at(legend, frame.box, wished->across, wished->up);
    return true;
  }
  if (legend.width + 2 * kFromFrame > frame.box.width() ||
      legend.height + 2 * kFromFrame > frame.box.height())
    return false;
  double least = std::numeric_limits<double>::infinity();
  for (const Corner& corner : kPlaces) {
    const Box box = box_at(legend, frame.box, corner.across, corner.up);
    const double cover = covered(box, marks);
    if (cover >= least) continue;
    least = cover;
    place = box;
  }
  return least == 0;
}

std::vector<Mark> legend_marks(const Legend& legend, const Box& place) {
  std::vector<Mark> marks;
  if (legend.empty()) return marks;
  Mark ground = area_mark(MarkKind::boxes, Role::legend,
                          {{place.left, place.bottom}, {place.right, place.top}}, {255, 255, 255});
  ground.opacity = 0.85;
  marks.push_back(std::move(ground));
  const double left = place.left + kInset;
  for (std::size_t i = 0; i < legend.entries.size(); ++i) {
    const LegendEntry& entry = legend.entries[i];
    const double y = place.top - kInset / 2 - kStep * (static_cast<double>(i) + 0.5);
    const double middle = left + (kSampleWidth - 12) / 2;
    if (entry.curve) {
      Mark sample = line_mark(Role::legend, {{left, y}, {left + kSampleWidth - 12, y}}, entry.color, 2.4);
      sample.dash = entry.dash;
      marks.push_back(std::move(sample));
    }
    if (entry.filled) {
      marks.push_back(
          area_mark(MarkKind::boxes, Role::legend, {{middle - 8, y - 8}, {middle + 8, y + 8}}, entry.color));
    } else if (entry.marker) {
      add_marker(marks, Role::legend, {middle, y}, entry.look, 6.5, i, false);
    }
    marks.push_back(text_mark(Role::legend, {left + kSampleWidth, y}, entry.label, kLegendSize, 0, kInk));
  }
  return marks;
}

}  // namespace opensum
