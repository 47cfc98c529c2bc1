// A figure of points: derived against measured.
#include "figure/scatter.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "figure/scale.h"
#include "table/header.h"

namespace opensum {
namespace {

// The palette of Okabe and Ito (2008), which readers with any common colour blindness tell apart.
constexpr std::array kPalette = {Color{0, 114, 178},   Color{213, 94, 0},   Color{0, 158, 115},
                                 Color{204, 121, 167}, Color{86, 180, 233}, Color{230, 159, 0},
                                 Color{40, 40, 40}};
constexpr Color kInk{34, 34, 34};
constexpr Color kQuiet{110, 110, 110};
constexpr Color kGridColor{228, 228, 228};

constexpr double kTitleSize = 26;
constexpr double kLabelSize = 23;
constexpr double kTickSize = 20;
constexpr double kNoteSize = 17;
constexpr double kTickLength = 9;
constexpr double kCurveWidth = 2.2;
constexpr double kLargestRadius = 6.5;
constexpr double kSmallestRadius = 2.2;
// More points than this are drawn smaller, so that they hide one another less.
constexpr double kPointsAtFullSize = 200;
constexpr double kPi = 3.14159265358979323846;

struct Box {
  double left = 0;
  double right = 0;
  double bottom = 0;
  double top = 0;
};

// The outline of a series' marker around the origin: circle, square, triangle, diamond, triangle downward,
// each of about the same area.
std::vector<Point> marker_outline(int series, double radius) {
  const auto polygon = [&](int corners, double turn, double scale) {
    std::vector<Point> outline;
    for (int i = 0; i < corners; ++i) {
      const double angle = turn + 2 * kPi * i / corners;
      outline.push_back({radius * scale * std::cos(angle), radius * scale * std::sin(angle)});
    }
    return outline;
  };
  switch (series % 5) {
    case 0:
      return polygon(24, 0, 1);
    case 1:
      return polygon(4, kPi / 4, 1.25);
    case 2:
      return polygon(3, kPi / 2, 1.5);
    case 3:
      return polygon(4, 0, 1.3);
    default:
      return polygon(3, -kPi / 2, 1.5);
  }
}

class ScatterBuilder {
 public:
  explicit ScatterBuilder(const Scatter& scatter) : scatter_(scatter) {}

  Figure run() {
    make_scales();
    lay_out();
    add_axes();
    add_curves();
    add_points();
    add_legend();
    add_texts();
    return std::move(figure_);
  }

 private:
  void make_scales() {
    bool any = false;
    double x_least = 0;
    double x_greatest = 0;
    double y_least = 0;
    double y_greatest = 0;
    const auto include = [&](const std::vector<double>& x, const std::vector<double>& y) {
      for (std::size_t i = 0; i < x.size(); ++i) {
        x_least = any ? std::min(x_least, x[i]) : x[i];
        x_greatest = any ? std::max(x_greatest, x[i]) : x[i];
        y_least = any ? std::min(y_least, y[i]) : y[i];
        y_greatest = any ? std::max(y_greatest, y[i]) : y[i];
        any = true;
      }
    };
    for (const Series& series : scatter_.series) {
      include(series.x, series.y);
      include(series.curve_x, series.curve_y);
    }
    x_ = any ? make_scale(x_least, x_greatest, 8, scatter_.x_wish) : make_scale(0, 1, 5);
    y_ = any ? make_scale(y_least, y_greatest, 6, scatter_.y_wish) : make_scale(0, 1, 5);
    empty_ = !any;
    std::size_t points = 0;
    for (const Series& series : scatter_.series) points += series.x.size();
    const double crowding = std::max(1.0, static_cast<double>(points) / kPointsAtFullSize);
    radius_ = std::max(kSmallestRadius, kLargestRadius / std::sqrt(std::sqrt(crowding)));
  }

  void lay_out() {
    double widest = 0;
    for (const std::string& label : y_.labels) widest = std::max(widest, text_width(label) * kTickSize);
    box_.left = 34 + kLabelSize + 14 + widest + kTickLength + 8;
    box_.right = figure_.width - 40;
    box_.bottom = 24 + kNoteSize + 18 + kLabelSize + 16 + kTickSize + kTickLength + 8;
    box_.top = figure_.height - (scatter_.title.empty() ? 40 : 40 + kTitleSize + 20);
  }

  double page_x(double value) const { return box_.left + x_.place(value) * (box_.right - box_.left); }
  double page_y(double value) const { return box_.bottom + y_.place(value) * (box_.top - box_.bottom); }

  void line(Role role, Point from, Point to, Color color, double width) {
    Mark mark;
    mark.kind = MarkKind::line;
    mark.role = role;
    mark.points = {from, to};
    mark.color = color;
    mark.width = width;
    figure_.marks.push_back(std::move(mark));
  }

  void text(Role role, Point at, std::string words, double size, double align, Color color) {
    if (words.empty()) return;
    Mark mark;
    mark.kind = MarkKind::text;
    mark.role = role;
    mark.points = {at};
    mark.color = color;
    mark.text = std::move(words);
    mark.size = size;
    mark.align = align;
    figure_.marks.push_back(std::move(mark));
  }

  void add_axes() {
    for (const double tick : x_.ticks) {
      line(Role::grid, {page_x(tick), box_.bottom}, {page_x(tick), box_.top}, kGridColor, 1);
    }
    for (const double tick : y_.ticks) {
      line(Role::grid, {box_.left, page_y(tick)}, {box_.right, page_y(tick)}, kGridColor, 1);
    }
    line(Role::frame, {box_.left, box_.bottom}, {box_.right, box_.bottom}, kInk, 1.6);
    line(Role::frame, {box_.left, box_.bottom}, {box_.left, box_.top}, kInk, 1.6);
    for (std::size_t i = 0; i < x_.ticks.size(); ++i) {
      const double x = page_x(x_.ticks[i]);
      line(Role::tick, {x, box_.bottom}, {x, box_.bottom - kTickLength}, kInk, 1.6);
      text(Role::tick_label, {x, box_.bottom - kTickLength - 6 - kTickSize / 2}, x_.labels[i], kTickSize, 0.5,
           kInk);
    }
    for (std::size_t i = 0; i < y_.ticks.size(); ++i) {
      const double y = page_y(y_.ticks[i]);
      line(Role::tick, {box_.left, y}, {box_.left - kTickLength, y}, kInk, 1.6);
      text(Role::tick_label, {box_.left - kTickLength - 6, y}, y_.labels[i], kTickSize, 1, kInk);
    }
  }

  static Color color_of(int series) {
    return kPalette.at(static_cast<std::size_t>(series) % kPalette.size());
  }

  void marker(Role role, Point at, int series) {
    Mark mark;
    mark.kind = MarkKind::area;
    mark.role = role;
    mark.series = series;
    mark.color = color_of(series);
    for (const Point& corner : marker_outline(series, role == Role::legend ? kLargestRadius : radius_)) {
      mark.points.push_back({at.x + corner.x, at.y + corner.y});
    }
    figure_.marks.push_back(std::move(mark));
  }

  void add_points() {
    for (std::size_t s = 0; s < scatter_.series.size(); ++s) {
      const Series& series = scatter_.series[s];
      for (std::size_t i = 0; i < series.x.size(); ++i) {
        if (!inside(series.x[i], series.y[i])) {
          ++outside_;
          continue;
        }
        marker(Role::point, {page_x(series.x[i]), page_y(series.y[i])}, static_cast<int>(s));
      }
    }
  }

  bool inside(double x, double y) const { return x_.holds(x) && y_.holds(y); }

  // A line through points, in pieces where it leaves the axes or begins anew.
  void add_path(int series, const std::vector<double>& x, const std::vector<double>& y,
                const std::vector<std::size_t>& breaks) {
    Mark mark;
    mark.kind = MarkKind::line;
    mark.role = Role::curve;
    mark.series = series;
    mark.color = color_of(series);
    mark.width = kCurveWidth;
    const auto finish = [&] {
      if (mark.points.size() > 1) figure_.marks.push_back(mark);
      mark.points.clear();
    };
    std::size_t next_break = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
      if (next_break < breaks.size() && breaks[next_break] == i) {
        finish();
        ++next_break;
      }
      if (inside(x[i], y[i])) {
        mark.points.push_back({page_x(x[i]), page_y(y[i])});
      } else {
        finish();
      }
    }
    finish();
  }

  // Curves stand behind the points through which they go.
  void add_curves() {
    for (std::size_t s = 0; s < scatter_.series.size(); ++s) {
      const Series& series = scatter_.series[s];
      if (series.joined) add_path(static_cast<int>(s), series.x, series.y, series.breaks);
      add_path(static_cast<int>(s), series.curve_x, series.curve_y, {});
    }
  }

  // A line of the legend: a series with its marker, or its curve with a piece of line.
  struct LegendEntry {
    int series = 0;
    bool curve = false;
    std::string label;
  };

  std::vector<LegendEntry> legend_entries() const {
    std::vector<LegendEntry> entries;
    bool curves = false;
    for (std::size_t s = 0; s < scatter_.series.size(); ++s) {
      const Series& series = scatter_.series[s];
      entries.push_back({static_cast<int>(s), false, series.label});
      if (series.curve_label.empty()) continue;
      entries.push_back({static_cast<int>(s), true, series.curve_label});
      curves = true;
    }
    if (scatter_.series.size() < 2 && !curves) entries.clear();
    return entries;
  }

  // The corner of the plot with the fewest points takes the legend.
  void add_legend() {
    const std::vector<LegendEntry> entries = legend_entries();
    if (entries.empty()) return;
    double width = 0;
    for (const LegendEntry& entry : entries) width = std::max(width, text_width(entry.label) * kTickSize);
    width += 60;
    const double step = kTickSize + 12;
    const double height = step * static_cast<double>(entries.size());
    const auto covered = [&](const Box& box) {
      std::size_t count = 0;
      for (const Series& series : scatter_.series) {
        for (std::size_t i = 0; i < series.x.size(); ++i) {
          const double x = page_x(series.x[i]);
          const double y = page_y(series.y[i]);
          if (x > box.left - 10 && x < box.right + 10 && y > box.bottom - 10 && y < box.top + 10) ++count;
        }
        for (std::size_t i = 0; i < series.curve_x.size(); ++i) {
          const double x = page_x(series.curve_x[i]);
          const double y = page_y(series.curve_y[i]);
          if (x > box.left && x < box.right && y > box.bottom && y < box.top) ++count;
        }
      }
      return count;
    };
    Box best;
    std::size_t fewest = SIZE_MAX;
    for (const bool at_top : {true, false}) {
      for (const bool at_left : {true, false}) {
        Box box;
        box.left = at_left ? box_.left + 18 : box_.right - 18 - width;
        box.right = box.left + width;
        box.top = at_top ? box_.top - 6 : box_.bottom + 14 + height;
        box.bottom = box.top - height;
        const std::size_t count = covered(box);
        if (count < fewest) {
          fewest = count;
          best = box;
        }
      }
    }
    Mark ground;
    ground.kind = MarkKind::area;
    ground.role = Role::legend;
    ground.color = {255, 255, 255};
    ground.points = {
        {best.left, best.bottom}, {best.right, best.bottom}, {best.right, best.top}, {best.left, best.top}};
    figure_.marks.push_back(std::move(ground));
    for (std::size_t i = 0; i < entries.size(); ++i) {
      const double y = best.top - step * (static_cast<double>(i) + 0.5);
      if (entries[i].curve) {
        line(Role::legend, {best.left + 2, y}, {best.left + 26, y}, color_of(entries[i].series), kCurveWidth);
      } else {
        marker(Role::legend, {best.left + 14, y}, entries[i].series);
      }
      text(Role::legend, {best.left + 34, y}, entries[i].label, kTickSize, 0, kInk);
    }
  }

  static std::string with_power(const std::string& label, int power) {
    return power == 0 ? label : fmt::format("{} × 10#u{}#d", label, power);
  }

  void add_texts() {
    text(Role::title, {box_.left, figure_.height - 34 - kTitleSize / 2}, scatter_.title, kTitleSize, 0, kInk);
    text(Role::axis_label, {(box_.left + box_.right) / 2, 24 + kNoteSize + 18 + kLabelSize / 2},
         with_power(scatter_.x_label, x_.power), kLabelSize, 0.5, kInk);
    text(Role::axis_label, {30 + kLabelSize / 2, (box_.bottom + box_.top) / 2},
         with_power(scatter_.y_label, y_.power), kLabelSize, 0.5, kInk);
    if (!figure_.marks.empty() && figure_.marks.back().role == Role::axis_label)
      figure_.marks.back().upward = true;
    std::size_t rows = 0;
    std::size_t drawn = 0;
    std::size_t not_positive = 0;
    for (const Series& series : scatter_.series) {
      rows += series.rows;
      drawn += series.x.size();
      not_positive += series.not_positive;
    }
    if (empty_) {
      text(Role::note, {(box_.left + box_.right) / 2, (box_.bottom + box_.top) / 2}, "no row has both values",
           kLabelSize, 0.5, kQuiet);
    }
    std::vector<std::string> why;
    const std::size_t null = rows - std::min(rows, drawn + not_positive);
    if (null > 0) why.push_back(fmt::format("{} of {} points not drawn: a value is null", null, rows));
    if (not_positive > 0) why.push_back(fmt::format("{} not above 0 on a logarithmic axis", not_positive));
    if (outside_ > 0) why.push_back(fmt::format("{} outside the axes", outside_));
    text(Role::note, {box_.right, 18 + kNoteSize / 2}, fmt::format("{}", fmt::join(why, "; ")), kNoteSize, 1,
         kQuiet);
  }

  const Scatter& scatter_;
  Figure figure_;
  Scale x_;
  Scale y_;
  Box box_;
  double radius_ = kLargestRadius;
  bool empty_ = false;
  std::size_t outside_ = 0;
};

}  // namespace

double text_width(const std::string& text) {
  // The mean advance of a sans-serif letter.
  return 0.56 * static_cast<double>(display_width(text));
}

Figure build_scatter(const Scatter& scatter) { return ScatterBuilder(scatter).run(); }

}  // namespace opensum
