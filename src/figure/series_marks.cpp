// The marks of the series of a chart.
#include "figure/series_marks.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <limits>
#include <map>

#include "figure/cells.h"
#include "figure/density.h"
#include "figure/distribution.h"
#include "figure/text_size.h"

namespace opensum {
namespace {

constexpr double kCurveWidth = 2.4;
constexpr double kErrorWidth = 1.5;
constexpr double kCapLength = 5;
constexpr double kLargestRadius = 6.5;
constexpr double kSmallestRadius = 2.4;
constexpr double kBandOpacity = 0.18;
constexpr double kMarkedOpacity = 0.13;
constexpr double kRim = 1.5;  // how much larger a marker is under another
constexpr double kRimWidth = 0.8;
// More points than this are drawn smaller, so that they hide one another less.
constexpr double kPointsAtFullSize = 150;
// A line through more points than this has no markers on them.
constexpr std::size_t kMarkersOnLine = 60;

std::size_t points_of(const Chart& chart) {
  std::size_t points = 0;
  for (const Series& series : chart.series) points += series.points();
  return points;
}

// The part of a piece of line that lies in a box; false where none does (Liang and Barsky 1984).
bool clip(const Box& box, Point& from, Point& to) {
  double begin = 0;
  double end = 1;
  const double dx = to.x - from.x;
  const double dy = to.y - from.y;
  const std::array<std::array<double, 2>, 4> borders = {{{-dx, from.x - box.left},
                                                         {dx, box.right - from.x},
                                                         {-dy, from.y - box.bottom},
                                                         {dy, box.top - from.y}}};
  for (const auto& [step, room] : borders) {
    if (step == 0) {
      if (room < 0) return false;
      continue;
    }
    const double at = room / step;
    if (step < 0) {
      begin = std::max(begin, at);
    } else {
      end = std::min(end, at);
    }
  }
  if (begin > end) return false;
  // Ends inside stay as they are, so that pieces of a line meet.
  if (end < 1) to = {from.x + end * dx, from.y + end * dy};
  if (begin > 0) from = {from.x + begin * dx, from.y + begin * dy};
  return true;
}

class SeriesMarks {
 public:
  SeriesMarks(const Chart& chart, const Frame& frame, const std::vector<Bar>& bars,
              std::vector<std::string>& remarks)
      : chart_(chart), frame_(frame), bars_(bars), remarks_(remarks), radius_(marker_radius(chart)) {}

  std::vector<Mark> run() {
    for (const Marking& marking : chart_.markings) add_band_of(marking);
    if (chart_.kind == ChartKind::cells) marks_ = cell_marks(chart_, frame_, remarks_);
    for (std::size_t s = 0; s < chart_.series.size(); ++s) add_bands(s);
    add_bars();
    if (chart_.kind == ChartKind::box) {
      add_boxes();
    } else if (chart_.kind == ChartKind::points) {
      for (std::size_t s = 0; s < chart_.series.size(); ++s) add_joined(s);
      add_points();
    }
    for (std::size_t s = 0; s < chart_.series.size(); ++s) add_curves(s);
    for (const Marking& marking : chart_.markings) add_marking(marking);
    return std::move(marks_);
  }

 private:
  const Series& series(std::size_t s) const { return chart_.series[s]; }

  const Scale& scale_of(const Marking& marking) const {
    return marking.of_x ? frame_.x : marking.right_axis ? frame_.right : frame_.y;
  }

  // The place on the page of a marked value, held to the axis.
  double place_of(const Marking& marking, double value) const {
    const Scale& scale = scale_of(marking);
    const double held = std::clamp(value, scale.low, scale.high);
    return marking.of_x ? frame_.page_x(held) : frame_.page_y(held, marking.right_axis);
  }

  void add_band_of(const Marking& marking) {
    if (marking.low == marking.high) return;
    const auto [from, to] = std::minmax({place_of(marking, marking.low), place_of(marking, marking.high)});
    const Box& box = frame_.box;
    Mark band = area_mark(MarkKind::boxes, Role::marking,
                          marking.of_x ? std::vector<Point>{{from, box.bottom}, {to, box.top}}
                                       : std::vector<Point>{{box.left, from}, {box.right, to}},
                          kQuiet);
    band.opacity = kMarkedOpacity;
    marks_.push_back(std::move(band));
  }

  // How many points of the series stand in a box or near it.
  std::size_t points_in(const Box& place) const {
    std::size_t count = 0;
    const double near = radius_ + 2;
    for (const Series& own : chart_.series) {
      for (std::size_t i = 0; i < own.x.size() && i < own.y.size(); ++i) {
        if (!frame_.holds(own.x[i], own.y[i], own.right_axis)) continue;
        const Point at = frame_.at(own.x[i], own.y[i], own.right_axis);
        if (at.x > place.left - near && at.x < place.right + near && at.y > place.bottom - near &&
            at.y < place.top + near)
          ++count;
      }
    }
    return count;
  }

  // The line of a marked value and the label of a value or a range, at the end that has fewer points.
  void add_marking(const Marking& marking) {
    const Box& box = frame_.box;
    const Scale& scale = scale_of(marking);
    if (marking.high < scale.low || marking.low > scale.high) return;
    const bool single = marking.low == marking.high;
    const double from = place_of(marking, marking.low);
    const double to = place_of(marking, marking.high);
    if (single) {
      Mark line = line_mark(Role::marking,
                            marking.of_x ? std::vector<Point>{{from, box.bottom}, {from, box.top}}
                                         : std::vector<Point>{{box.left, from}, {box.right, from}},
                            kInk, kErrorWidth);
      line.dash = Dash::dashed;
      marks_.push_back(std::move(line));
    }
    if (marking.label.empty()) return;
    constexpr double kApart = 6;
    constexpr double kHalf = 0.6 * kNoteSize;
    const double middle = (from + to) / 2;
    Mark label;
    if (marking.of_x) {
      const double x = single ? middle - kApart - kHalf / 2 : middle;
      const double length = text_width(marking.label, kNoteSize) + kApart;
      const Box at_top{x - kHalf, x + kHalf, box.top - length, box.top};
      const Box at_bottom{x - kHalf, x + kHalf, box.bottom, box.bottom + length};
      const bool above = points_in(at_top) <= points_in(at_bottom);
      label = text_mark(Role::marking, {x, above ? box.top - kApart : box.bottom + kApart}, marking.label,
                        kNoteSize, above ? 1 : 0, kInk);
      label.upward = true;
    } else {
      const bool room_above = middle + kApart + 2 * kHalf < box.top;
      const double y = single ? middle + (room_above ? 1 : -1) * (kApart + kHalf) : middle;
      const double length = text_width(marking.label, kNoteSize) + kApart;
      const Box at_right{box.right - length, box.right, y - kHalf, y + kHalf};
      const Box at_left{box.left, box.left + length, y - kHalf, y + kHalf};
      const bool right = points_in(at_right) <= points_in(at_left);
      label = text_mark(Role::marking, {right ? box.right - kApart : box.left + kApart, y}, marking.label,
                        kNoteSize, right ? 1 : 0, kInk);
    }
    marks_.push_back(std::move(label));
  }

  // A value held to the axis, so that what reaches beyond it ends there.
  double held_y(double value, bool right) const {
    const Scale& scale = right ? frame_.right : frame_.y;
    return frame_.page_y(std::clamp(value, scale.low, scale.high), right);
  }

  // A line that is drawn without its points has a band in place of error bars.
  bool has_band(const Series& own) const {
    return own.joined && !own.steps && !own.y_error.empty() &&
           (!has_markers(own) || points_of(chart_) > kMostMarkers);
  }

  void add_band_of_errors(std::size_t s) {
    const Series& own = series(s);
    const bool right = own.right_axis;
    std::vector<Point> high;
    std::vector<Point> low;
    const auto finish = [&] {
      if (high.size() > 1) {
        high.insert(high.end(), low.rbegin(), low.rend());
        Mark mark = area_mark(MarkKind::area, Role::band, high, own.look.color);
        mark.opacity = kBandOpacity;
        mark.series = s;
        marks_.push_back(std::move(mark));
      }
      high.clear();
      low.clear();
    };
    std::size_t next_break = 0;
    for (std::size_t i = 0; i < own.x.size(); ++i) {
      for (; next_break < own.breaks.size() && own.breaks[next_break] <= i; ++next_break) finish();
      if (!frame_.x.holds(own.x[i]) || std::isnan(own.y_error[i])) {
        finish();
        continue;
      }
      const double x = frame_.page_x(own.x[i]);
      const double top = held_y(own.y[i] + own.y_error[i], right);
      const double bottom = held_y(own.y[i] - own.y_error[i], right);
      // Of the points over one unit of width the outermost.
      if (!high.empty() && std::floor(high.back().x) == std::floor(x)) {
        high.back().y = std::max(high.back().y, top);
        low.back().y = std::min(low.back().y, bottom);
      } else {
        high.push_back({x, top});
        low.push_back({x, bottom});
      }
    }
    finish();
  }

  void add_bands(std::size_t s) {
    if (has_band(series(s))) add_band_of_errors(s);
    for (const CurveLine& curve : series(s).curves) {
      if (curve.low.empty()) continue;
      std::vector<Point> outline;
      const auto add = [&](std::size_t i, double value) {
        if (!frame_.x.holds(curve.x[i])) return;
        outline.push_back({frame_.page_x(curve.x[i]), held_y(value, series(s).right_axis)});
      };
      for (std::size_t i = 0; i < curve.x.size(); ++i) add(i, curve.high[i]);
      for (std::size_t i = curve.x.size(); i-- > 0;) add(i, curve.low[i]);
      if (outline.size() < 3) continue;
      Mark mark = area_mark(MarkKind::area, Role::band, std::move(outline), series(s).look.color);
      mark.opacity = kBandOpacity;
      mark.series = s;
      marks_.push_back(std::move(mark));
    }
  }

  void add_path(std::size_t s, const std::vector<Point>& path, Color color, Dash dash) {
    if (path.size() < 2) return;
    Mark mark = line_mark(Role::curve, path, color, kCurveWidth);
    mark.dash = dash;
    mark.series = s;
    marks_.push_back(std::move(mark));
  }

  // A line through points, in pieces where it leaves the axes or begins anew.
  void add_line(std::size_t s, const std::vector<double>& x, const std::vector<double>& y,
                const std::vector<std::size_t>& breaks, Color color, Dash dash) {
    const bool right = series(s).right_axis;
    std::vector<Point> path;
    const auto finish = [&] {
      add_path(s, thinned(path), color, dash);
      path.clear();
    };
    std::size_t next_break = 0;
    for (std::size_t i = 0; i < x.size(); ++i) {
      bool anew = i == 0;
      while (next_break < breaks.size() && breaks[next_break] <= i) {
        anew = true;
        ++next_break;
      }
      if (anew) {
        finish();
        continue;
      }
      Point from = frame_.at(x[i - 1], y[i - 1], right);
      Point to = frame_.at(x[i], y[i], right);
      const Point wanted = to;
      if (!clip(frame_.box, from, to)) {
        finish();
        continue;
      }
      if (path.empty() || path.back().x != from.x || path.back().y != from.y) {
        finish();
        path.push_back(from);
      }
      path.push_back(to);
      if (to.x != wanted.x || to.y != wanted.y) finish();
    }
    finish();
  }

  // Of the points over one unit of width a line shows the first, the last and the outermost.
  static std::vector<Point> thinned(const std::vector<Point>& path) {
    constexpr std::size_t kLongPath = 4000;
    if (path.size() < kLongPath) return path;
    std::vector<Point> out;
    for (std::size_t begin = 0; begin < path.size();) {
      std::size_t end = begin;
      std::size_t lowest = begin;
      std::size_t highest = begin;
      while (end < path.size() && std::floor(path[end].x) == std::floor(path[begin].x)) {
        if (path[end].y < path[lowest].y) lowest = end;
        if (path[end].y > path[highest].y) highest = end;
        ++end;
      }
      std::vector<std::size_t> kept = {begin, lowest, highest, end - 1};
      std::sort(kept.begin(), kept.end());
      kept.erase(std::unique(kept.begin(), kept.end()), kept.end());
      for (const std::size_t i : kept) out.push_back(path[i]);
      begin = end;
    }
    return out;
  }

  void add_joined(std::size_t s) {
    const Series& own = series(s);
    if (!own.joined) return;
    if (!own.steps) return add_line(s, own.x, own.y, own.breaks, own.look.color, own.dash);
    std::vector<double> x;
    std::vector<double> y;
    std::vector<std::size_t> breaks;
    std::size_t next_break = 0;
    for (std::size_t i = 0; i < own.x.size(); ++i) {
      bool anew = i == 0;
      while (next_break < own.breaks.size() && own.breaks[next_break] <= i) {
        anew = true;
        ++next_break;
      }
      if (anew) {
        breaks.push_back(x.size());
      } else {
        x.push_back(own.x[i]);
        y.push_back(own.y[i - 1]);
      }
      x.push_back(own.x[i]);
      y.push_back(own.y[i]);
    }
    add_line(s, x, y, breaks, own.look.color, own.dash);
  }

  void add_curves(std::size_t s) {
    for (const CurveLine& curve : series(s).curves) {
      add_line(s, curve.x, curve.y, curve.breaks, curve_color(chart_, series(s), curve), curve.dash);
    }
  }

  // Whether a bar hardly comes out behind its marker, so that it needs no caps.
  bool is_short(double length) const {
    constexpr double kSeen = 2;
    return chart_.kind == ChartKind::points && std::fabs(length) / 2 < radius_ + kSeen;
  }

  void add_error_bar(std::size_t s, double at, double low, double high, bool right, Color color) {
    const double bottom = held_y(low, right);
    const double top = held_y(high, right);
    const auto add = [&](Point from, Point to) {
      Mark mark = line_mark(Role::error_bar, {from, to}, color, kErrorWidth);
      mark.series = s;
      marks_.push_back(std::move(mark));
    };
    add({at, bottom}, {at, top});
    if (is_short(top - bottom)) return;
    const Scale& scale = right ? frame_.right : frame_.y;
    if (scale.holds(low)) add({at - kCapLength, bottom}, {at + kCapLength, bottom});
    if (scale.holds(high)) add({at - kCapLength, top}, {at + kCapLength, top});
  }

  void add_error_bar_along_x(std::size_t s, double low, double high, double y, bool right, Color color) {
    const auto held = [&](double x) { return frame_.page_x(std::clamp(x, frame_.x.low, frame_.x.high)); };
    const double at = frame_.page_y(y, right);
    const auto add = [&](Point from, Point to) {
      Mark mark = line_mark(Role::error_bar, {from, to}, color, kErrorWidth);
      mark.series = s;
      marks_.push_back(std::move(mark));
    };
    add({held(low), at}, {held(high), at});
    if (is_short(held(high) - held(low))) return;
    if (frame_.x.holds(low)) add({held(low), at - kCapLength}, {held(low), at + kCapLength});
    if (frame_.x.holds(high)) add({held(high), at - kCapLength}, {held(high), at + kCapLength});
  }

  void add_points() {
    const std::size_t all = points_of(chart_);
    for (std::size_t s = 0; s < chart_.series.size(); ++s) {
      const Series& own = series(s);
      if (!has_markers(own)) continue;
      if (!own.shade.empty()) {
        add_shaded(s, all <= kMostMarkers);
      } else if (all > kMostDots && !own.joined) {
        const DensityMarks density = density_marks(own, frame_, s);
        marks_.insert(marks_.end(), density.marks.begin(), density.marks.end());
        remarks_.push_back(
            fmt::format("{} points{} as a density: darker where there are more, up to {} on one spot",
                        density.points, chart_.series.size() > 1 ? " of " + own.label : "", density.most));
      } else if (all > kMostMarkers) {
        add_dots(s);
      } else {
        add_markers(s);
      }
    }
  }

  // Whether so long a bar stays behind its marker.
  bool is_hidden(double half_length) const { return std::fabs(half_length) < radius_; }

  void add_markers(std::size_t s) {
    const Series& own = series(s);
    for (std::size_t i = 0; i < own.x.size() && !own.x_error.empty(); ++i) {
      if (std::isnan(own.x_error[i]) || !frame_.holds(own.x[i], own.y[i], own.right_axis)) continue;
      if (is_hidden(frame_.page_x(own.x[i] + own.x_error[i]) - frame_.page_x(own.x[i]))) continue;
      add_error_bar_along_x(s, own.x[i] - own.x_error[i], own.x[i] + own.x_error[i], own.y[i], own.right_axis,
                            own.look.color);
    }
    for (std::size_t i = 0; i < own.x.size(); ++i) {
      if (own.y_error.empty() || std::isnan(own.y_error[i]) || !frame_.x.holds(own.x[i])) continue;
      if (frame_.holds(own.x[i], own.y[i], own.right_axis) &&
          is_hidden(held_y(own.y[i] + own.y_error[i], own.right_axis) - held_y(own.y[i], own.right_axis)))
        continue;
      add_error_bar(s, frame_.page_x(own.x[i]), own.y[i] - own.y_error[i], own.y[i] + own.y_error[i],
                    own.right_axis, own.look.color);
    }
    for (std::size_t i = 0; i < own.x.size(); ++i) {
      if (!frame_.holds(own.x[i], own.y[i], own.right_axis)) continue;
      Look look = own.look;
      look.hollow = look.hollow || (!own.filled.empty() && own.filled[i]);
      const Point at = frame_.at(own.x[i], own.y[i], own.right_axis);
      add_marker(marks_, Role::point, at, look, is_under_another(s, at) ? kRim * radius_ : radius_, s, true);
    }
  }

  // Whether a point of a later series lies on this one, which then is drawn larger, so that its rim is seen.
  bool is_under_another(std::size_t s, Point at) const {
    constexpr double kOn = 0.9;
    const double near = kOn * radius_;
    for (std::size_t later = s + 1; later < chart_.series.size(); ++later) {
      const Series& other = series(later);
      if (!has_markers(other)) continue;
      for (std::size_t i = 0; i < other.x.size(); ++i) {
        if (!frame_.holds(other.x[i], other.y[i], other.right_axis)) continue;
        const Point there = frame_.at(other.x[i], other.y[i], other.right_axis);
        if (std::hypot(at.x - there.x, at.y - there.y) < near) return true;
      }
    }
    return false;
  }

  // Points in the colours of a third quantity: as markers with a thin rim, which light ones need, or as dots.
  void add_shaded(std::size_t s, bool as_markers) {
    const Series& own = series(s);
    std::array<Mark, kShadeSteps> dots;
    for (std::size_t i = 0; i < own.x.size(); ++i) {
      if (!frame_.holds(own.x[i], own.y[i], own.right_axis)) continue;
      const Point at = frame_.at(own.x[i], own.y[i], own.right_axis);
      const std::size_t step = shade_step(frame_.shade, own.shade[i]);
      if (!as_markers) {
        dots.at(step).points.push_back(at);
        continue;
      }
      Look look = own.look;
      look.color = color_of_step(step);
      look.hollow = false;
      add_marker(marks_, Role::point, at, look, radius_, s, false);
      if (look.marker == Marker::cross) continue;
      look.color = kQuiet;
      look.hollow = true;
      add_marker(marks_, Role::point, at, look, radius_, s, false);
      marks_.back().role = Role::frame;
      marks_.back().width = kRimWidth;
    }
    for (std::size_t step = 0; step < kShadeSteps; ++step) {
      Mark& mark = dots.at(step);
      if (mark.points.empty()) continue;
      mark.kind = MarkKind::dots;
      mark.role = Role::point;
      mark.series = s;
      mark.color = color_of_step(step);
      mark.width = 2 * radius_;
      marks_.push_back(std::move(mark));
    }
  }

  void add_dots(std::size_t s) {
    const Series& own = series(s);
    Mark mark;
    mark.kind = MarkKind::dots;
    mark.role = Role::point;
    mark.series = s;
    mark.color = own.look.color;
    mark.width = 2 * radius_;
    mark.opacity = 0.6;
    for (std::size_t i = 0; i < own.x.size(); ++i) {
      if (frame_.holds(own.x[i], own.y[i], own.right_axis))
        mark.points.push_back(frame_.at(own.x[i], own.y[i], own.right_axis));
    }
    if (!mark.points.empty()) marks_.push_back(std::move(mark));
  }

  // The counts of several series as outlines, which can be told apart where they overlap.
  void add_outlines() {
    for (std::size_t s = 0; s < chart_.series.size(); ++s) {
      std::vector<Bar> own;
      std::copy_if(bars_.begin(), bars_.end(), std::back_inserter(own), [&](const Bar& bar) {
        return bar.series == s && bar.right > frame_.x.low && bar.left < frame_.x.high;
      });
      std::vector<Point> path;
      const auto add = [&](double x, double height) {
        path.push_back({frame_.page_x(std::clamp(x, frame_.x.low, frame_.x.high)),
                        held_y(height, series(s).right_axis)});
      };
      for (std::size_t i = 0; i < own.size(); ++i) {
        if (i == 0 || own[i].left > own[i - 1].right) add(own[i].left, own[i].from);
        add(own[i].left, own[i].to);
        add(own[i].right, own[i].to);
        if (i + 1 == own.size() || own[i + 1].left > own[i].right) add(own[i].right, own[i].from);
      }
      if (path.size() < 2) continue;
      Mark area = area_mark(MarkKind::area, Role::bar, path, series(s).look.color);
      area.opacity = kBandOpacity / 2;
      area.series = s;
      marks_.push_back(std::move(area));
      Mark line = line_mark(Role::bar, std::move(path), series(s).look.color, kCurveWidth);
      line.dash = outline_dash(s);
      line.series = s;
      marks_.push_back(std::move(line));
    }
  }

  void add_bars() {
    if (chart_.kind == ChartKind::histogram && chart_.series.size() > 1) return add_outlines();
    for (const Bar& bar : bars_) {
      const Series& own = series(bar.series);
      if (bar.right <= frame_.x.low || bar.left >= frame_.x.high) continue;
      const double left = frame_.page_x(std::max(bar.left, frame_.x.low));
      const double right = frame_.page_x(std::min(bar.right, frame_.x.high));
      Mark mark =
          area_mark(MarkKind::boxes, Role::bar,
                    {{left, held_y(bar.from, own.right_axis)}, {right, held_y(bar.to, own.right_axis)}},
                    own.look.color);
      mark.series = bar.series;
      mark.edged = true;
      marks_.push_back(std::move(mark));
    }
    for (const Bar& bar : bars_) {
      const Series& own = series(bar.series);
      const double middle = bar.left + (bar.right - bar.left) / 2;
      if (std::isnan(bar.error) || !frame_.x.holds(middle)) continue;
      add_error_bar(bar.series, frame_.page_x(middle), bar.to - bar.error, bar.to + bar.error, own.right_axis,
                    kInk);
    }
  }

  // One box for each series at each place, those of one place side by side.
  void add_boxes() {
    constexpr double kShare = 0.7;  // of the room between places
    const auto count = static_cast<double>(chart_.series.size());
    for (std::size_t s = 0; s < chart_.series.size(); ++s) {
      const Series& own = series(s);
      std::map<double, std::vector<double>> values;
      for (std::size_t i = 0; i < own.x.size(); ++i) values[own.x[i]].push_back(own.y[i]);
      for (const auto& [place, at_place] : values) {
        const double width = kShare / count;
        const double middle = place + (static_cast<double>(s) - (count - 1) / 2) * width;
        add_box(s, middle, width * (count > 1 ? 0.85 : 0.8), quartiles_of(at_place));
      }
    }
  }

  void add_box(std::size_t s, double middle, double width, const Quartiles& box) {
    const Color color = series(s).look.color;
    const double left = frame_.page_x(middle - width / 2);
    const double right = frame_.page_x(middle + width / 2);
    const double x = frame_.page_x(middle);
    const double cap = (right - left) / 4;
    const auto y = [&](double value) { return held_y(value, series(s).right_axis); };
    const auto add = [&](Mark mark) {
      mark.series = s;
      marks_.push_back(std::move(mark));
    };
    for (const auto& [from, to] : {std::pair(box.low_whisker, box.first), {box.high_whisker, box.third}}) {
      add(line_mark(Role::box, {{x, y(from)}, {x, y(to)}}, color, kErrorWidth));
      add(line_mark(Role::box, {{x - cap, y(from)}, {x + cap, y(from)}}, color, kErrorWidth));
    }
    Mark body = area_mark(MarkKind::boxes, Role::box, {{left, y(box.first)}, {right, y(box.third)}}, color);
    body.opacity = 0.3;
    add(body);
    body.opacity = 1;
    body.hollow = true;
    body.width = kErrorWidth;
    add(std::move(body));
    add(line_mark(Role::box, {{left, y(box.median)}, {right, y(box.median)}}, color, 3));
    for (const double value : box.beyond) {
      if (frame_.holds(middle, value, series(s).right_axis))
        add_marker(marks_, Role::point, {x, y(value)}, {color, Marker::circle, true}, 4.5, s, false);
    }
  }

  const Chart& chart_;
  const Frame& frame_;
  const std::vector<Bar>& bars_;
  std::vector<std::string>& remarks_;
  double radius_;
  std::vector<Mark> marks_;
};

}  // namespace

bool is_dense(const Chart& chart) {
  return chart.kind == ChartKind::points && points_of(chart) > kMostDots &&
         std::any_of(chart.series.begin(), chart.series.end(), [](const Series& s) { return !s.joined; });
}

Dash outline_dash(std::size_t series) {
  constexpr std::array kDashes = {Dash::solid, Dash::dashed, Dash::dotted};
  return kDashes.at(series % kDashes.size());
}

bool has_markers(const Series& series) {
  return series.look.marker != Marker::none && (!series.joined || series.x.size() <= kMarkersOnLine);
}

Color curve_color(const Chart& chart, const Series& series, const CurveLine& curve) {
  const bool covered = !series.joined && points_of(chart) > kMostMarkers;
  return curve.in_ink || covered ? kInk : series.look.color;
}

double marker_radius(const Chart& chart) {
  const double crowding = std::max(1.0, static_cast<double>(points_of(chart)) / kPointsAtFullSize);
  return std::max(kSmallestRadius, kLargestRadius / std::sqrt(std::sqrt(crowding)));
}

void add_marker(std::vector<Mark>& marks, Role role, Point at, const Look& look, double radius,
                std::optional<std::size_t> series, bool edged) {
  std::vector<Point> outline = marker_outline(look.marker, radius);
  for (Point& corner : outline) corner = {at.x + corner.x, at.y + corner.y};
  if (look.marker == Marker::cross) {
    for (std::size_t i = 0; i + 1 < outline.size(); i += 2) {
      marks.push_back(line_mark(role, {outline[i], outline[i + 1]}, look.color, 2));
      marks.back().series = series;
    }
    return;
  }
  Mark mark = area_mark(MarkKind::area, role, std::move(outline), look.color);
  mark.series = series;
  mark.hollow = look.hollow;
  mark.width = 1.8;
  mark.edged = edged;
  marks.push_back(std::move(mark));
}

std::vector<Mark> series_marks(const Chart& chart, const Frame& frame, const std::vector<Bar>& bars,
                               std::vector<std::string>& remarks) {
  return SeriesMarks(chart, frame, bars, remarks).run();
}

std::size_t points_outside(const Chart& chart, const Frame& frame) {
  std::size_t outside = 0;
  for (const Series& series : chart.series) {
    for (std::size_t i = 0; i < series.x.size(); ++i) {
      const bool held = chart.kind == ChartKind::histogram
                            ? frame.x.holds(series.x[i])
                            : frame.holds(series.x[i], series.y[i], series.right_axis);
      if (!held) outside += series.count(i);
    }
  }
  return outside;
}

}  // namespace opensum
