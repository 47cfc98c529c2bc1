// Charts laid out on a page: the room for texts, the axes, and the marks of what they show.
#include "figure/chart.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <set>

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
    if (axis.kind == AxisKind::names) return make_name_scale(axis.names);
    if (!range.any) {
      const double low = axis.wish.low.value_or(axis.wish.logarithmic ? 1 : 0);
      return make_scale(low, axis.wish.high.value_or(low + 1), wanted, axis.wish);
    }
    if (axis.kind == AxisKind::date) return make_date_scale(range.least, range.greatest, wanted, axis.wish);
    return make_scale(range.least, range.greatest, wanted, axis.wish);
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
    empty_ = !x.any;
    margins_ = {110, 30, 90, 40};
    place_box();
    for (int round = 0; round < 2; ++round) {
      const Box& box = frame_.box;
      if (!x_shared_) {
        int wanted = std::clamp(static_cast<int>(box.width() / 105), 2, 10);
        do {
          frame_.x = scale_of(chart_.x, x, wanted);
        } while (chart_.x.kind != AxisKind::names && labels_overlap() && --wanted > 1);
      }
      frame_.y = scale_up(chart_.y, y);
      if (chart_.right) frame_.right = scale_up(*chart_.right, right);
      measure_margins();
      place_box();
    }
  }

  // A scale whose labels stand apart.
  Scale scale_up(const AxisRequest& axis, const Range& range) const {
    const double height = frame_.box.height();
    int wanted = std::clamp(static_cast<int>(height / 62), 2, 8);
    Scale scale;
    const auto crowded = [&] {
      for (std::size_t i = 1; i < scale.ticks.size(); ++i) {
        const double apart = scale.place(scale.ticks[i]) - scale.place(scale.ticks[i - 1]);
        if (apart * height < kTickSize * kLine) return true;
      }
      return false;
    };
    do {
      scale = scale_of(standing(axis, range), range, wanted);
    } while (crowded() && --wanted > 0);
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
    double end = -std::numeric_limits<double>::infinity();
    for (std::size_t i = 0; i < frame_.x.ticks.size(); ++i) {
      const double half = text_width(frame_.x.labels[i], kTickSize) / 2;
      const double middle = frame_.page_x(frame_.x.ticks[i]);
      if (middle - half < end + 12) return true;
      end = middle + half;
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
      const double over =
          text_width(x_labels_.back(), kTickSize) / 2 - (1 - frame_.x.place(frame_.x.ticks.back())) * width;
      margins_.right = std::max(margins_.right, over + 4);
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
    if (!names) {
      for (const double tick : frame_.x.ticks)
        add(line_mark(Role::grid, {{frame_.page_x(tick), box.bottom}, {frame_.page_x(tick), box.top}},
                      kGridColor, 1));
    }
    for (const double tick : frame_.y.ticks) {
      const double y = frame_.page_y(tick, false);
      add(line_mark(Role::grid, {{box.left, y}, {box.right, y}}, kGridColor, 1));
    }
    if (chart_.zero_line && frame_.y.holds(0)) {
      const double y = frame_.page_y(0, false);
      add(line_mark(Role::grid, {{box.left, y}, {box.right, y}}, kQuiet, kFrameWidth));
    }
    add(line_mark(Role::frame, {{box.left, box.bottom}, {box.right, box.bottom}}, kInk, kFrameWidth));
    const Color left = axis_color(false);
    add(line_mark(Role::frame, {{box.left, box.bottom}, {box.left, box.top}}, left, kFrameWidth));
    for (std::size_t i = 0; i < frame_.x.ticks.size(); ++i) add_x_tick(i, names);
    for (std::size_t i = 0; i < frame_.y.ticks.size(); ++i) {
      const double y = frame_.page_y(frame_.y.ticks[i], false);
      add(line_mark(Role::tick, {{box.left, y}, {box.left - kTickLength, y}}, left, kFrameWidth));
      add(text_mark(Role::tick_label, {box.left - kTickLength - 5, y}, frame_.y.labels[i], kTickSize, 1,
                    left));
    }
    if (!chart_.right) return;
    const Color color = axis_color(true);
    add(line_mark(Role::frame, {{box.right, box.bottom}, {box.right, box.top}}, color, kFrameWidth));
    for (std::size_t i = 0; i < frame_.right.ticks.size(); ++i) {
      const double y = frame_.page_y(frame_.right.ticks[i], true);
      add(line_mark(Role::tick, {{box.right, y}, {box.right + kTickLength, y}}, color, kFrameWidth));
      add(text_mark(Role::tick_label, {box.right + kTickLength + 5, y}, frame_.right.labels[i], kTickSize, 0,
                    color));
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

  // Where there are two axes, that of a single series is in its colour.
  Color axis_color(bool right) const {
    Color color = kInk;
    std::size_t count = 0;
    for (const Series& series : chart_.series) {
      if (series.right_axis != right) continue;
      ++count;
      color = series.look.color;
    }
    return count == 1 && chart_.right ? color : kInk;
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
      Mark label =
          text_mark(Role::axis_label,
                    {region_.left + kLabelSize * kLine * (static_cast<double>(i) + 0.5), box.middle().y},
                    y_title_[i], kLabelSize, 0.5, axis_color(false));
      label.upward = true;
      add(std::move(label));
    }
    for (std::size_t i = 0; i < right_title_.size(); ++i) {
      const double across = box.right + kTickLength + kGap + widest(frame_.right.labels) +
                            kLabelSize * kLine * (static_cast<double>(i) + 0.5);
      Mark label = text_mark(Role::axis_label, {across, box.middle().y}, right_title_[i], kLabelSize, 0.5,
                             axis_color(true));
      label.upward = true;
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
      drawn += series.x.size();
      not_positive += series.not_positive;
    }
    std::vector<std::string> why = remarks_;
    if (!said_above_.empty()) why.push_back(said_above_);
    if (chart_.kind == ChartKind::box)
      why.emplace_back("boxes: quartiles; whiskers: values within 1.5 box lengths");
    const std::size_t null = rows - std::min(rows, drawn + not_positive);
    const char* what =
        chart_.kind == ChartKind::histogram || chart_.kind == ChartKind::box ? "values" : "points";
    if (null > 0) why.push_back(fmt::format("{} of {} {} not drawn: a value is null", null, rows, what));
    if (not_positive > 0) why.push_back(fmt::format("{} not above 0 on a logarithmic axis", not_positive));
    const std::size_t outside = points_outside(chart_, frame_);
    if (outside > 0) why.push_back(fmt::format("{} outside the axes", outside));
    return fmt::format("{}", fmt::join(why, "; "));
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
