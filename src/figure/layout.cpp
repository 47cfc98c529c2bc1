// Charts laid out on a page: the room for texts, the axes, and the marks of what they show.
#include "figure/layout.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <set>

#include "figure/cells.h"
#include "figure/distribution.h"
#include "figure/frame.h"
#include "figure/legend.h"
#include "figure/series_marks.h"
#include "figure/text_size.h"

namespace opensum {
namespace {

constexpr double kPadding = 22;  // around a page
constexpr double kGap = 14;      // between texts
constexpr double kTickLength = 8;
constexpr double kFrameWidth = 1.5;
constexpr double kShadeWidth = 20;     // of the scale of colours
constexpr double kShadeApart = 22;     // from the axes
constexpr double kWidestName = 0.25;   // of the page, for a name beside the axis
constexpr double kWidestInside = 0.9;  // of the axes, for a legend among the marks
constexpr double kLine = 1.25;         // the height of a line of text, in sizes of its letters

// The least and the greatest of some values.
struct Range {
  double least = 0;
  double greatest = 0;
  bool any = false;
  void include(double value) {
    if (!std::isfinite(value)) return;
    least = any ? std::min(least, value) : value;
    greatest = any ? std::max(greatest, value) : value;
    any = true;
  }
  double width() const { return greatest - least; }
};

// The room around the axes.
struct Margins {
  double left = 0;
  double right = 0;
  double bottom = 0;
  double top = 0;
};

class ChartBuilder {
 public:
  ChartBuilder(const Chart& chart, Box region, std::string letter, bool without_x_labels)
      : chart_(chart), region_(region), letter_(std::move(letter)), without_x_labels_(without_x_labels) {
    make_bars();
    measure();
  }

  // Finds out whether the legend has a place among the marks, and makes room outside where it has none.
  void settle() {
    const std::vector<Mark> of_series = series_marks(chart_, frame_, bars_, remarks_);
    remarks_.clear();
    legend_ = legend_of(chart_, kWidestInside * frame_.box.width(), frame_.box.height() - 24);
    if (legend_.empty()) return;
    Box place;
    legend_outside_ = chart_.legend == LegendPlace::outside ||
                      !place_legend(legend_, chart_.legend, frame_, of_series, place);
    if (!legend_outside_) return;
    make_room_outside();
    measure();
  }

  const Scale& x_scale() const { return frame_.x; }
  void share_x(const Scale& scale) {
    frame_.x = scale;
    x_shared_ = true;
    measure();
  }

  // The note of the chart above, which has no room for it.
  void say(const std::string& note) {
    said_above_ = note;
    measure();
  }
  std::string note() const { return note_text(); }

  Margins margins() const { return margins_; }
  void widen(const Margins& least) {
    margins_.left = std::max(margins_.left, least.left);
    margins_.right = std::max(margins_.right, least.right);
    margins_.bottom = std::max(margins_.bottom, least.bottom);
    margins_.top = std::max(margins_.top, least.top);
    place_box();
  }

  std::size_t outside() const { return outside_; }

  std::vector<Mark> marks() {
    const std::vector<Mark> of_series = series_marks(chart_, frame_, bars_, remarks_);
    Box legend_place;
    if (legend_outside_) {
      legend_place = place_outside();
    } else if (!legend_.empty()) {
      legend_ = legend_of(chart_, kWidestInside * frame_.box.width(), frame_.box.height() - 24);
      place_legend(legend_, chart_.legend, frame_, of_series, legend_place);
    }
    outside_ = points_outside(chart_, frame_);
    add_axes();
    if (empty_) {
      add(text_mark(Role::note, frame_.box.middle(), "no row has both values", kLabelSize, 0.5, kQuiet));
    }
    marks_.insert(marks_.end(), of_series.begin(), of_series.end());
    const std::vector<Mark> of_legend = legend_marks(legend_, legend_place);
    marks_.insert(marks_.end(), of_legend.begin(), of_legend.end());
    add_texts();
    return std::move(marks_);
  }

 private:
  void add(Mark mark) { marks_.push_back(std::move(mark)); }

  // Bars of a histogram are counted; those of a chart of bars stand side by side at each x.
  void make_bars() {
    const double none = std::nan("");
    if (chart_.kind == ChartKind::histogram) {
      std::vector<double> all;
      for (const Series& series : chart_.series) all.insert(all.end(), series.x.begin(), series.x.end());
      const std::vector<double> borders = bin_borders(std::move(all), chart_.bins, chart_.x.wish.logarithmic);
      for (std::size_t s = 0; s < chart_.series.size(); ++s) {
        const std::vector<std::size_t> counts = bin_counts(chart_.series[s].x, borders);
        for (std::size_t i = 0; i < counts.size(); ++i) {
          if (counts[i] == 0) continue;
          bars_.push_back({s, borders[i], borders[i + 1], 0, static_cast<double>(counts[i]), none});
        }
      }
    } else if (chart_.kind == ChartKind::bars) {
      const double slot = 0.8 * narrowest_gap();
      const auto count = static_cast<double>(chart_.series.size());
      for (std::size_t s = 0; s < chart_.series.size(); ++s) {
        const Series& series = chart_.series[s];
        for (std::size_t i = 0; i < series.x.size(); ++i) {
          const double left = series.x[i] - slot / 2 + slot * static_cast<double>(s) / count;
          bars_.push_back({s, left, left + slot / count, 0, series.y[i],
                           series.y_error.empty() ? none : series.y_error[i]});
        }
      }
    }
  }

  double narrowest_gap() const {
    std::set<double> places;
    for (const Series& series : chart_.series) places.insert(series.x.begin(), series.x.end());
    double gap = std::numeric_limits<double>::infinity();
    for (auto at = places.begin(); at != places.end() && std::next(at) != places.end(); ++at) {
      gap = std::min(gap, *std::next(at) - *at);
    }
    if (std::isfinite(gap)) return gap;
    return chart_.x.kind == AxisKind::names || places.empty()
               ? 1
               : std::max(std::fabs(*places.begin()) * 0.1, 1.0);
  }

  void ranges(Range& x, Range& y, Range& right) const {
    for (const Series& series : chart_.series) {
      Range& up = series.right_axis ? right : y;
      if (chart_.kind != ChartKind::histogram) {
        for (std::size_t i = 0; i < series.x.size(); ++i) {
          x.include(series.x[i]);
          up.include(series.y[i]);
          if (!series.x_error.empty()) {
            for (const double end : {series.x[i] - series.x_error[i], series.x[i] + series.x_error[i]}) {
              if (end > 0 || !chart_.x.wish.logarithmic) x.include(end);
            }
          }
          if (series.y_error.empty()) continue;
          for (const double end : {series.y[i] - series.y_error[i], series.y[i] + series.y_error[i]}) {
            if (end > 0 || !chart_.y.wish.logarithmic) up.include(end);
          }
        }
      }
    }
    for (const Series& series : chart_.series) {
      Range& up = series.right_axis ? right : y;
      // A pole would leave the points no room.
      const bool measured = up.any && up.greatest > up.least;
      const double room = measured ? up.greatest - up.least : std::numeric_limits<double>::infinity();
      const double least = up.least - room;
      const double greatest = up.greatest + room;
      const auto include = [&](double height) {
        if (!measured || chart_.y.wish.logarithmic || (height >= least && height <= greatest))
          up.include(height);
      };
      for (const CurveLine& curve : series.curves) {
        for (std::size_t i = 0; i < curve.x.size(); ++i) {
          x.include(curve.x[i]);
          include(curve.y[i]);
          if (!curve.low.empty() && (curve.low[i] > 0 || !chart_.y.wish.logarithmic)) include(curve.low[i]);
          if (!curve.high.empty()) include(curve.high[i]);
        }
      }
    }
    for (const Marking& marking : chart_.markings) {
      Range& along = marking.of_x ? x : marking.right_axis ? right : y;
      const bool logarithmic = (marking.of_x         ? chart_.x
                                : marking.right_axis ? *chart_.right
                                                     : chart_.y)
                                   .wish.logarithmic;
      for (const double value : {marking.low, marking.high}) {
        if (!logarithmic || value > 0) along.include(value);
      }
    }
    for (const Bar& bar : bars_) {
      Range& up = chart_.series[bar.series].right_axis ? right : y;
      if (bar.left > 0 || !chart_.x.wish.logarithmic) x.include(bar.left);
      x.include(bar.right);
      up.include(bar.to);
      if (!chart_.y.wish.logarithmic) up.include(bar.from);
    }
    if (chart_.zero_line) y.include(0);
  }

  static Scale scale_of(const AxisRequest& axis, const Range& range, int wanted) {
    if (axis.kind == AxisKind::names) return make_name_scale(axis.names, axis.wish.reversed);
    if (!range.any) {
      const double low = axis.wish.low.value_or(axis.wish.logarithmic ? 1 : 0);
      return make_scale(low, axis.wish.high.value_or(low + 1), wanted, axis.wish);
    }
    if (axis.kind == AxisKind::date) return make_date_scale(range.least, range.greatest, wanted, axis.wish);
    return make_scale(range.least, range.greatest, wanted, axis.wish);
  }

  // The cells of a field fill the axes.
  AxisRequest filled(AxisRequest axis, bool along_x) const {
    if (chart_.kind != ChartKind::cells || axis.wish.logarithmic) return axis;
    std::vector<double> values;
    for (const Series& series : chart_.series) {
      const std::vector<double>& own = along_x ? series.x : series.y;
      values.insert(values.end(), own.begin(), own.end());
    }
    const std::vector<double> edges = cell_edges(std::move(values));
    if (edges.empty()) return axis;
    if (!axis.wish.low) axis.wish.low = edges.front();
    if (!axis.wish.high) axis.wish.high = edges.back();
    return axis;
  }

  // Colours go from the least to the greatest value.
  void measure_shade() {
    if (!chart_.shade) return;
    Range range;
    for (const Series& series : chart_.series) {
      for (const double value : series.shade) range.include(value);
    }
    ScaleWish wish = chart_.shade->wish;
    if (range.any && range.least < range.greatest) {
      if (!wish.low) wish.low = range.least;
      if (!wish.high) wish.high = range.greatest;
    }
    constexpr int kTicks = 6;
    AxisRequest axis{chart_.shade->label, AxisKind::number, wish};
    frame_.shade = scale_of(axis, range, kTicks);
  }

  // Bars stand on the axis.
  AxisRequest standing(AxisRequest axis, const Range& range) const {
    const bool bars = chart_.kind == ChartKind::bars || chart_.kind == ChartKind::histogram;
    if (bars && !axis.wish.logarithmic && !axis.wish.low && range.least >= 0) axis.wish.low = 0;
    return axis;
  }

  // The scales and the room for their texts, each of which needs the other: two rounds settle it.
  void measure() {
    Range x;
    Range y;
    Range right;
    ranges(x, y, right);
    empty_ = std::all_of(chart_.series.begin(), chart_.series.end(),
                         [](const Series& series) { return series.x.empty() && series.curves.empty(); });
    measure_shade();
    margins_ = {110, 30, 90, 40};
    place_box();
    settle_scales(x, y, right);
    if (chart_.right) keep_axes_apart(x, y, right);
  }

  void settle_scales(const Range& x, const Range& y, const Range& right) {
    double height_before = 0;
    for (int round = 0; round < 2; ++round) {
      const Box& box = frame_.box;
      height_before = box.height();
      if (!x_shared_) {
        int wanted = std::clamp(static_cast<int>(box.width() / 105), 2, 10);
        do {
          frame_.x = scale_of(filled(chart_.x, true), x, wanted);
        } while (chart_.x.kind != AxisKind::names && labels_overlap() && --wanted > 1);
        while (chart_.x.kind != AxisKind::names && labels_overlap()) leave_every_second(frame_.x);
      }
      frame_.y = scale_up(filled(chart_.y, false), y);
      if (chart_.right) frame_.right = scale_up(*chart_.right, right);
      measure_margins();
      place_box();
    }
    // Where texts take most of the page the axes may have become shorter than their ticks were meant for.
    if (frame_.box.height() >= height_before) return;
    frame_.y = scale_up(filled(chart_.y, false), y);
    if (chart_.right) frame_.right = scale_up(*chart_.right, right);
  }

  // How many points of the left axis lie on one of the right.
  std::size_t meetings() const {
    const double near = 1.6 * marker_radius(chart_);
    std::vector<Point> left;
    std::vector<Point> right;
    for (const Series& series : chart_.series) {
      for (std::size_t i = 0; i < series.x.size(); ++i) {
        if (frame_.holds(series.x[i], series.y[i], series.right_axis))
          (series.right_axis ? right : left)
              .push_back(frame_.at(series.x[i], series.y[i], series.right_axis));
      }
    }
    return static_cast<std::size_t>(std::count_if(left.begin(), left.end(), [&](const Point& one) {
      return std::any_of(right.begin(), right.end(), [&](const Point& other) {
        return std::hypot(one.x - other.x, one.y - other.y) < near;
      });
    }));
  }

  // Two axes that are both filled by their points put these on the same spots. The one whose points then stay
  // lower gets room above them, or the other one below, as little as will do.
  void keep_axes_apart(const Range& x, const Range& y, const Range& right) {
    std::size_t points = 0;
    for (const Series& series : chart_.series) points += series.points();
    if (chart_.kind != ChartKind::points || points > kMostMarkers || !y.any || !right.any) return;
    std::size_t fewest = meetings();
    if (fewest == 0) return;
    Range best_left = y;
    Range best_right = right;
    for (const double share : {0.3, 0.6, 1.0}) {
      for (const bool above_left : {true, false}) {
        for (const bool below : {false, true}) {
          Range left_range = y;
          Range right_range = right;
          (above_left ? left_range : right_range).greatest += share * (above_left ? y : right).width();
          if (below) {
            Range& lowered = above_left ? right_range : left_range;
            const double low = lowered.least - share * lowered.width();
            // An axis does not leave the positive numbers for this.
            lowered.least = lowered.least >= 0 ? std::max(low, 0.0) : low;
          }
          frame_.y = scale_up(chart_.y, left_range);
          frame_.right = scale_up(*chart_.right, right_range);
          const std::size_t met = meetings();
          if (met >= fewest) continue;
          fewest = met;
          best_left = left_range;
          best_right = right_range;
        }
      }
      if (fewest == 0) break;
    }
    settle_scales(x, best_left, best_right);
  }

  static void leave_every_second(Scale& scale) {
    std::vector<double> ticks;
    std::vector<std::string> labels;
    for (std::size_t i = 0; i < scale.ticks.size(); i += 2) {
      ticks.push_back(scale.ticks[i]);
      labels.push_back(scale.labels[i]);
    }
    scale.ticks = std::move(ticks);
    scale.labels = std::move(labels);
  }

  // A scale whose labels stand apart.
  Scale scale_up(const AxisRequest& axis, const Range& range) const {
    const double height = frame_.box.height();
    int wanted = std::clamp(static_cast<int>(height / 62), 2, 8);
    Scale scale;
    const auto crowded = [&] {
      for (std::size_t i = 1; i < scale.ticks.size(); ++i) {
        const double apart = std::fabs(scale.place(scale.ticks[i]) - scale.place(scale.ticks[i - 1]));
        if (apart * height < kTickSize * kLine) return true;
      }
      return false;
    };
    do {
      scale = scale_of(standing(axis, range), range, wanted);
    } while (axis.kind != AxisKind::names && crowded() && --wanted > 0);
    if (axis.kind == AxisKind::names) {
      // As many names as have room.
      const double slot = height / static_cast<double>(std::max<std::size_t>(1, scale.labels.size()));
      const auto every = static_cast<std::size_t>(std::max(1.0, std::ceil(kTickSize * kLine / slot)));
      for (std::size_t i = 0; i < scale.labels.size(); ++i) {
        scale.labels[i] =
            i % every == 0 ? cut_text(scale.labels[i], kTickSize, kWidestName * region_.width()) : "";
      }
      return scale;
    }
    // On an axis hardly higher than a label every second one is left.
    while (crowded()) leave_every_second(scale);
    // A single tick tells no lengths.
    for (int more = 1; more <= 3 && scale.ticks.size() < 2; ++more) {
      const Scale few = scale;
      scale = scale_of(standing(axis, range), range, wanted + more);
      if (!crowded()) continue;
      scale = few;
      break;
    }
    return scale;
  }

  bool labels_overlap() const {
    for (std::size_t i = 1; i < frame_.x.ticks.size(); ++i) {
      const double halves =
          (text_width(frame_.x.labels[i - 1], kTickSize) + text_width(frame_.x.labels[i], kTickSize)) / 2;
      const double apart = std::fabs(frame_.page_x(frame_.x.ticks[i]) - frame_.page_x(frame_.x.ticks[i - 1]));
      if (apart < halves + 12) return true;
    }
    return false;
  }

  static double widest(const std::vector<std::string>& labels) {
    double width = 0;
    for (const std::string& label : labels) width = std::max(width, text_width(label, kTickSize));
    return width;
  }

  // Names that do not fit beside one another are turned.
  void turn_names() {
    x_labels_ = frame_.x.labels;
    turned_ = false;
    if (chart_.x.kind != AxisKind::names || x_labels_.empty()) return;
    const double slot = frame_.box.width() / static_cast<double>(x_labels_.size());
    turned_ = widest(x_labels_) > slot - 10;
    if (!turned_) return;
    const double longest = 0.3 * region_.height();
    const auto every = static_cast<std::size_t>(std::ceil(kTickSize * kLine / slot));
    for (std::size_t i = 0; i < x_labels_.size(); ++i) {
      x_labels_[i] = i % every == 0 ? cut_text(x_labels_[i], kTickSize, longest) : "";
    }
  }

  void measure_margins() {
    turn_names();
    const double width = region_.width() - margins_.left - margins_.right;
    const double height = region_.height() - margins_.bottom - margins_.top;
    title_ = wrap_text(chart_.title, kTitleSize, region_.width() - letter_room(), 2);
    if (title_.empty() && !letter_.empty()) title_.emplace_back();
    x_title_ = without_x_labels_ ? std::vector<std::string>{}
                                 : wrap_text(axis_title(chart_.x, frame_.x), kLabelSize, width, 2);
    y_title_ = wrap_text(axis_title(chart_.y, frame_.y), kLabelSize, height, 2);
    if (chart_.right)
      right_title_ = wrap_text(axis_title(*chart_.right, frame_.right), kLabelSize, height, 2);
    note_ = without_x_labels_ ? std::vector<std::string>{}
                              : wrap_text(note_text(), kNoteSize, region_.width(), 2);
    // That points are drawn as a density is said once they are.
    if (is_dense(chart_) && !without_x_labels_) note_.resize(2);
    const auto lines = [](const std::vector<std::string>& texts, double size) {
      return texts.empty() ? 0 : size * kLine * static_cast<double>(texts.size()) + kGap / 2;
    };
    margins_.left = lines(y_title_, kLabelSize) + widest(frame_.y.labels) + kTickLength + kGap;
    margins_.right =
        chart_.right ? lines(right_title_, kLabelSize) + widest(frame_.right.labels) + kTickLength + kGap : 8;
    // The last label may stand out over the end of the axis.
    if (!frame_.x.labels.empty() && !turned_ && !without_x_labels_) {
      const double last = frame_.x.reversed ? frame_.x.ticks.front() : frame_.x.ticks.back();
      const std::string& label = frame_.x.reversed ? x_labels_.front() : x_labels_.back();
      const double over = text_width(label, kTickSize) / 2 - (1 - frame_.x.place(last)) * width;
      margins_.right = std::max(margins_.right, over + 4);
    }
    if (chart_.shade) {
      shade_title_ = wrap_text(axis_title({chart_.shade->label}, frame_.shade), kLabelSize, height, 2);
      shade_left_ = margins_.right + kShadeApart;
      margins_.right = shade_left_ + kShadeWidth + kTickLength + kGap + widest(frame_.shade.labels) +
                       lines(shade_title_, kLabelSize);
    }
    const double tick_room = without_x_labels_ ? 0 : turned_ ? widest(x_labels_) + 8 : kTickSize * kLine;
    margins_.bottom = kTickLength + tick_room + lines(x_title_, kLabelSize) + lines(note_, kNoteSize);
    margins_.top = (title_.empty() ? 12 : lines(title_, kTitleSize) + kGap / 2) + legend_room_.top;
    margins_.right += legend_room_.right;
  }

  double letter_room() const { return letter_.empty() ? 0 : text_width(letter_, kTitleSize, true) + 12; }

  void place_box() {
    frame_.box = {region_.left + margins_.left, region_.right - margins_.right,
                  region_.bottom + margins_.bottom, region_.top - margins_.top};
    // A page too small for its texts shows at least that there are axes.
    frame_.box.right = std::max(frame_.box.right, frame_.box.left + 20);
    frame_.box.top = std::max(frame_.box.top, frame_.box.bottom + 20);
  }

  // Beside the axes where there is room, else above them.
  void make_room_outside() {
    const double widest = 0.4 * region_.width();
    const double highest = 0.35 * region_.height();
    legend_ = legend_of(chart_, region_.width(), region_.height());
    legend_beside_ = legend_.width < widest || legend_.height > highest;
    if (legend_beside_) {
      legend_ = legend_of(chart_, widest, region_.height() - margins_.top);
      legend_room_.right = legend_.width + 10;
    } else {
      legend_room_.top = legend_.height + kGap / 2;
    }
  }

  Box place_outside() const {
    const Box& box = frame_.box;
    Box place;
    const double leftmost = region_.right - legend_.width;
    place.left = legend_beside_ ? leftmost : std::max(region_.left, std::min(box.left, leftmost));
    place.right = place.left + legend_.width;
    place.top = legend_beside_ ? box.top : box.top + legend_.height + kGap / 2;
    place.bottom = place.top - legend_.height;
    return place;
  }

  static std::string axis_title(const AxisRequest& axis, const Scale& scale) {
    std::string title = axis.label;
    if (scale.power != 0) {
      const std::string power =
          scale.power < 0 ? "−" + std::to_string(-scale.power) : std::to_string(scale.power);
      title += fmt::format("{}× 10^{{{}}}", title.empty() ? "" : " ", power);
    }
    if (!scale.shared_date.empty()) title += (title.empty() ? "" : ", ") + scale.shared_date;
    return title;
  }

  void add_axes() {
    const Box& box = frame_.box;
    const bool names = chart_.x.kind == AxisKind::names;
    // Between cells a grid would look like one of theirs.
    const bool grid = chart_.kind != ChartKind::cells;
    if (!names && grid) {
      for (const double tick : frame_.x.ticks)
        add(line_mark(Role::grid, {{frame_.page_x(tick), box.bottom}, {frame_.page_x(tick), box.top}},
                      kGridColor, 1));
    }
    for (std::size_t i = 0; i < frame_.y.ticks.size() && grid; ++i) {
      const double y = frame_.page_y(frame_.y.ticks[i], false);
      add(line_mark(Role::grid, {{box.left, y}, {box.right, y}}, kGridColor, 1));
    }
    if (chart_.zero_line && frame_.y.holds(0)) {
      const double y = frame_.page_y(0, false);
      add(line_mark(Role::grid, {{box.left, y}, {box.right, y}}, kQuiet, kFrameWidth));
    }
    add(line_mark(Role::frame, {{box.left, box.bottom}, {box.right, box.bottom}}, kInk, kFrameWidth));
    add(line_mark(Role::frame, {{box.left, box.bottom}, {box.left, box.top}}, kInk, kFrameWidth));
    for (std::size_t i = 0; i < frame_.x.ticks.size(); ++i) add_x_tick(i, names);
    for (std::size_t i = 0; i < frame_.y.ticks.size(); ++i) {
      const double y = frame_.page_y(frame_.y.ticks[i], false);
      if (frame_.y.labels[i].empty()) continue;
      add(line_mark(Role::tick, {{box.left, y}, {box.left - kTickLength, y}}, kInk, kFrameWidth));
      add(text_mark(Role::tick_label, {box.left - kTickLength - 5, y}, frame_.y.labels[i], kTickSize, 1,
                    kInk));
    }
    if (chart_.shade) add_shade_scale();
    if (!chart_.right) return;
    add(line_mark(Role::frame, {{box.right, box.bottom}, {box.right, box.top}}, kInk, kFrameWidth));
    for (std::size_t i = 0; i < frame_.right.ticks.size(); ++i) {
      const double y = frame_.page_y(frame_.right.ticks[i], true);
      add(line_mark(Role::tick, {{box.right, y}, {box.right + kTickLength, y}}, kInk, kFrameWidth));
      add(text_mark(Role::tick_label, {box.right + kTickLength + 5, y}, frame_.right.labels[i], kTickSize, 0,
                    kInk));
    }
  }

  // The colours beside the axes, with their values and what they are.
  void add_shade_scale() {
    const Box& box = frame_.box;
    const double left = box.right + shade_left_;
    const double right = left + kShadeWidth;
    const auto height = [&](double share) { return box.bottom + share * box.height(); };
    for (std::size_t step = 0; step < kShadeSteps; ++step) {
      const auto share = [&](std::size_t at) {
        return static_cast<double>(at) / static_cast<double>(kShadeSteps);
      };
      // A little under the next one, so that no ground shines through between them.
      const double top = std::min(height(share(step + 1)) + 0.5, box.top);
      add(area_mark(MarkKind::boxes, Role::cell, {{left, height(share(step))}, {right, top}},
                    color_of_step(step)));
    }
    Mark outline = area_mark(MarkKind::boxes, Role::frame, {{left, box.bottom}, {right, box.top}}, kInk);
    outline.hollow = true;
    outline.width = 1;
    add(std::move(outline));
    for (std::size_t i = 0; i < frame_.shade.ticks.size(); ++i) {
      const double y = height(frame_.shade.place(frame_.shade.ticks[i]));
      add(line_mark(Role::tick, {{right, y}, {right + kTickLength, y}}, kInk, kFrameWidth));
      add(text_mark(Role::tick_label, {right + kTickLength + 5, y}, frame_.shade.labels[i], kTickSize, 0,
                    kInk));
    }
    for (std::size_t i = 0; i < shade_title_.size(); ++i) {
      const double across = right + kTickLength + kGap + widest(frame_.shade.labels) +
                            kLabelSize * kLine * (static_cast<double>(i) + 0.5);
      Mark label =
          text_mark(Role::axis_label, {across, box.middle().y}, shade_title_[i], kLabelSize, 0.5, kInk);
      label.upward = true;
      add(std::move(label));
    }
  }

  void add_x_tick(std::size_t i, bool names) {
    const Box& box = frame_.box;
    const double x = frame_.page_x(frame_.x.ticks[i]);
    if (!names)
      add(line_mark(Role::tick, {{x, box.bottom}, {x, box.bottom - kTickLength}}, kInk, kFrameWidth));
    if (without_x_labels_ || x_labels_[i].empty()) return;
    if (turned_) {
      Mark label =
          text_mark(Role::tick_label, {x, box.bottom - kTickLength - 2}, x_labels_[i], kTickSize, 1, kInk);
      label.upward = true;
      add(std::move(label));
    } else {
      add(text_mark(Role::tick_label, {x, box.bottom - kTickLength - 4 - kTickSize / 2}, x_labels_[i],
                    kTickSize, 0.5, kInk));
    }
  }

  // Where there are two axes, the signs of the series that belong to one stand below its label.
  void add_signs(bool right, const std::string& title, double across) {
    constexpr std::size_t kMostSigns = 4;
    constexpr double kApart = 20;
    constexpr double kSignRadius = 6.5;
    std::vector<std::size_t> own;
    for (std::size_t s = 0; s < chart_.series.size(); ++s) {
      if (chart_.series[s].right_axis == right) own.push_back(s);
    }
    if (!chart_.right || chart_.kind != ChartKind::points || own.size() > kMostSigns) return;
    double y = frame_.box.middle().y - text_width(title, kLabelSize) / 2 - kApart;
    for (auto s = own.rbegin(); s != own.rend(); ++s, y -= kApart) {
      const Series& series = chart_.series[*s];
      if (series.joined) {
        Mark line = line_mark(Role::legend, {{across, y - kApart / 2 + 1}, {across, y + kApart / 2 - 1}},
                              series.look.color, 2.4);
        line.dash = series.dash;
        add(std::move(line));
      }
      if (has_markers(series))
        add_marker(marks_, Role::legend, {across, y}, series.look, kSignRadius, *s, false);
    }
  }

  void add_texts() {
    const Box& box = frame_.box;
    for (std::size_t i = 0; i < title_.size(); ++i) {
      const double y = region_.top - kTitleSize * kLine * (static_cast<double>(i) + 0.5);
      if (i == 0 && !letter_.empty()) {
        Mark letter = text_mark(Role::letter, {region_.left, y}, letter_, kTitleSize, 0, kInk);
        letter.strong = true;
        add(std::move(letter));
      }
      if (title_[i].empty()) continue;
      add(text_mark(Role::title, {region_.left + letter_room(), y}, title_[i], kTitleSize, 0, kInk));
    }
    if (!without_x_labels_) note_ = wrap_text(note_text(), kNoteSize, region_.width(), 2);
    for (std::size_t i = 0; i < note_.size(); ++i) {
      const double y = region_.bottom + kNoteSize * kLine * (static_cast<double>(note_.size() - i) - 0.5);
      add(text_mark(Role::note, {region_.right, y}, note_[i], kNoteSize, 1, kQuiet));
    }
    // The axes may have been made shorter for others since the titles were broken into lines.
    const auto again = [](std::vector<std::string>& lines, const std::string& title, double length) {
      if (!lines.empty()) lines = wrap_text(title, kLabelSize, length, lines.size());
    };
    again(x_title_, axis_title(chart_.x, frame_.x), box.width());
    again(y_title_, axis_title(chart_.y, frame_.y), box.height());
    if (chart_.right) again(right_title_, axis_title(*chart_.right, frame_.right), box.height());
    const double tick_room = turned_ ? widest(x_labels_) + 8 : kTickSize * kLine;
    for (std::size_t i = 0; i < x_title_.size(); ++i) {
      const double y = box.bottom - kTickLength - tick_room - kGap / 2 -
                       kLabelSize * kLine * (static_cast<double>(i) + 0.5);
      add(text_mark(Role::axis_label, {box.middle().x, y}, x_title_[i], kLabelSize, 0.5, kInk));
    }
    for (std::size_t i = 0; i < y_title_.size(); ++i) {
      const double across = region_.left + kLabelSize * kLine * (static_cast<double>(i) + 0.5);
      Mark label = text_mark(Role::axis_label, {across, box.middle().y}, y_title_[i], kLabelSize, 0.5, kInk);
      label.upward = true;
      if (i == 0) add_signs(false, y_title_[i], across);
      add(std::move(label));
    }
    for (std::size_t i = 0; i < right_title_.size(); ++i) {
      const double across = box.right + kTickLength + kGap + widest(frame_.right.labels) +
                            kLabelSize * kLine * (static_cast<double>(i) + 0.5);
      Mark label =
          text_mark(Role::axis_label, {across, box.middle().y}, right_title_[i], kLabelSize, 0.5, kInk);
      label.upward = true;
      if (i == 0) add_signs(true, right_title_[i], across);
      add(std::move(label));
    }
  }

  // What is not drawn and why, and how to read what is.
  std::string note_text() const {
    std::size_t rows = 0;
    std::size_t drawn = 0;
    std::size_t not_positive = 0;
    for (const Series& series : chart_.series) {
      rows += series.rows;
      drawn += series.points();
      not_positive += series.not_positive;
    }
    std::vector<std::string> why = remarks_;
    if (!said_above_.empty()) why.push_back(said_above_);
    if (chart_.kind == ChartKind::box)
      why.emplace_back("boxes: quartiles; whiskers: values within 1.5 box lengths");
    const std::size_t null = rows - std::min(rows, drawn + not_positive);
    const char* what = chart_.kind == ChartKind::histogram || chart_.kind == ChartKind::box ? "values"
                       : chart_.kind == ChartKind::cells                                    ? "cells"
                                                                                            : "points";
    if (null > 0) why.push_back(fmt::format("{} of {} {} not drawn: a value is null", null, rows, what));
    if (not_positive > 0) why.push_back(fmt::format("{} not above 0 on a logarithmic axis", not_positive));
    const bool any_filled = std::any_of(chart_.series.begin(), chart_.series.end(), [](const Series& series) {
      return std::find(series.filled.begin(), series.filled.end(), true) != series.filled.end();
    });
    if (any_filled && points_drawn_singly()) why.emplace_back("hollow: a value that was filled");
    const std::size_t outside = points_outside(chart_, frame_);
    if (outside > 0) why.push_back(fmt::format("{} outside the axes", outside));
    return fmt::format("{}", fmt::join(why, "; "));
  }

  // Whether each point has a marker of its own.
  bool points_drawn_singly() const {
    std::size_t points = 0;
    for (const Series& series : chart_.series) points += series.points();
    return chart_.kind == ChartKind::points && points <= kMostMarkers;
  }

  const Chart& chart_;
  Box region_;
  std::string letter_;
  std::string said_above_;
  bool without_x_labels_;
  bool x_shared_ = false;
  Frame frame_;
  Margins margins_;
  std::vector<Bar> bars_;
  std::vector<std::string> title_;
  std::vector<std::string> x_title_;
  std::vector<std::string> y_title_;
  std::vector<std::string> right_title_;
  std::vector<std::string> shade_title_;
  double shade_left_ = 0;  // of the scale of colours, from the axes
  std::vector<std::string> note_;
  std::vector<std::string> x_labels_;
  Legend legend_;
  Margins legend_room_;
  bool legend_outside_ = false;
  bool legend_beside_ = false;
  bool turned_ = false;
  bool empty_ = false;
  std::size_t outside_ = 0;
  std::vector<std::string> remarks_;
  std::vector<Mark> marks_;
};

// Charts side by side have their axes at one height, and charts one above another at one width.
void align(std::vector<ChartBuilder>& builders, std::size_t columns) {
  for (std::size_t i = 0; i < builders.size(); ++i) {
    Margins least;
    for (std::size_t k = 0; k < builders.size(); ++k) {
      const Margins own = builders[k].margins();
      if (k % columns == i % columns) {
        least.left = std::max(least.left, own.left);
        least.right = std::max(least.right, own.right);
      }
      if (k / columns == i / columns) {
        least.bottom = std::max(least.bottom, own.bottom);
        least.top = std::max(least.top, own.top);
      }
    }
    builders[i].widen(least);
  }
}

}  // namespace

PageFigure build_page(const Page& page) {
  PageFigure built;
  Figure& figure = built.figure;
  figure.width = page.width;
  figure.height = page.height;
  figure.pixels_per_unit = page.pixels_per_unit;
  figure.points_per_unit = page.points_per_unit;
  figure.title = page.title.empty() && !page.charts.empty() ? page.charts.front().title : page.title;
  Box room{kPadding, page.width - kPadding, kPadding - 6, page.height - kPadding};
  const std::vector<std::string> title = wrap_text(page.title, kTitleSize, room.width(), 2);
  for (const std::string& line : title) {
    room.top -= kTitleSize * kLine;
    figure.marks.push_back(
        text_mark(Role::title, {room.left, room.top + kTitleSize * kLine / 2}, line, kTitleSize, 0, kInk));
  }
  if (!title.empty()) room.top -= kGap;
  const std::size_t columns = std::max<std::size_t>(1, page.columns);
  const std::size_t rows = (page.charts.size() + columns - 1) / columns;
  constexpr double kBetween = 26;
  constexpr double kShareOfMain = 0.66;
  constexpr double kLeastBelow = 205;
  const double width =
      (room.width() - kBetween * static_cast<double>(columns - 1)) / static_cast<double>(columns);
  const double height = (room.height() - kBetween * static_cast<double>(rows - 1)) /
                        static_cast<double>(std::max<std::size_t>(rows, 1));
  std::vector<ChartBuilder> builders;
  const auto letter_of = [&](std::size_t chart) {
    constexpr std::size_t kLetters = 26;
    return page.charts.size() < 2 || chart >= kLetters ? ""
                                                       : fmt::format("({})", static_cast<char>('a' + chart));
  };
  bool any_below = false;
  for (std::size_t i = 0; i < page.charts.size(); ++i) {
    const Chart& chart = page.charts[i];
    Box region;
    region.left = room.left + static_cast<double>(i % columns) * (width + kBetween);
    region.right = region.left + width;
    const std::size_t row = i / columns;
    region.top = room.top - static_cast<double>(row) * (height + kBetween);
    region.bottom = region.top - height;
    if (!chart.below) {
      builders.emplace_back(chart, region, letter_of(i), false);
      builders.back().settle();
      continue;
    }
    any_below = true;
    // Low enough for the points, high enough for axes below.
    const double border = region.bottom + std::clamp((1 - kShareOfMain) * height, kLeastBelow, 0.5 * height);
    ChartBuilder main(chart, {region.left, region.right, border, region.top}, letter_of(i), true);
    ChartBuilder below(*chart.below, {region.left, region.right, region.bottom, border - 4}, "", false);
    main.settle();
    below.share_x(main.x_scale());
    below.say(main.note());
    const Margins least{std::max(main.margins().left, below.margins().left),
                        std::max(main.margins().right, below.margins().right), 0, 0};
    main.widen(least);
    below.widen(least);
    builders.push_back(std::move(main));
    builders.push_back(std::move(below));
  }
  if (!any_below) align(builders, columns);
  for (ChartBuilder& builder : builders) {
    const std::vector<Mark> marks = builder.marks();
    figure.marks.insert(figure.marks.end(), marks.begin(), marks.end());
    built.outside.push_back(builder.outside());
  }
  return built;
}

}  // namespace opensum
