// The columns of a plot as a chart.
#include "plot/plot_series.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <numeric>

#include "base/result.h"
#include "compute/quantiles.h"
#include "compute/whole_column.h"
#include "compute/whole_columns.h"
#include "equation/operation.h"
#include "figure/sampling.h"
#include "plan/fit_plan.h"
#include "plot/curve_text.h"
#include "table/cell_text.h"

namespace opensum {
namespace {

constexpr double kNone = std::numeric_limits<double>::quiet_NaN();

// A fit that was computed for the columns of a pair.
struct FoundFit {
  const FitPlan* fit = nullptr;
  const FitSheetPlan* plan = nullptr;
  const FitResult* result = nullptr;
};

class ChartMaker {
 public:
  ChartMaker(PreparedStudy& prepared, const PlotModel& plot, std::size_t number,
             std::vector<std::string>& notes)
      : prepared_(prepared), plot_(plot), number_(number), notes_(notes) {}

  Chart run() {
    Diagnostics reported_before;
    pairs_ = plot_pairs(prepared_, plot_, reported_before);
    chart_.title = plot_.title;
    if (pairs_.empty()) return std::move(chart_);
    axes_ = plot_axes(plot_, pairs_, prepared_.units, reported_before);
    set_kind();
    set_axes();
    if (axes_.x_kind == AxisKind::names) name_places(true);
    if (axes_.y_kind == AxisKind::names) name_places(false);
    for (std::size_t i = 0; i < pairs_.size(); ++i) add_pair(i);
    add_given_curve();
    for (const Series& series : chart_.series) note_what_is_left_out(series);
    note_squashed();
    note_repeated_bars();
    note_many();
    if (plot_.residuals) chart_.below = std::make_shared<const Chart>(residuals_below());
    return std::move(chart_);
  }

 private:
  void set_kind() {
    switch (plot_.kind) {
      case PlotKind::bars:
        chart_.kind = ChartKind::bars;
        break;
      case PlotKind::histogram:
        chart_.kind = ChartKind::histogram;
        break;
      case PlotKind::box:
        chart_.kind = ChartKind::box;
        break;
      case PlotKind::residuals:
        chart_.zero_line = true;
        break;
      case PlotKind::cells:
        chart_.kind = ChartKind::cells;
        break;
      case PlotKind::points:
      case PlotKind::line:
      case PlotKind::steps:
        break;
    }
    chart_.legend = static_cast<LegendPlace>(plot_.legend);
    chart_.bins = plot_.bins;
  }

  void set_axes() {
    const PlotPair& first = pairs_.front();
    chart_.x.kind = axes_.x_kind;
    chart_.x.wish = axes_.x;
    if (first.x != nullptr) {
      const bool dated = first.x->kind == Kind::date;
      chart_.x.label = axis_label(labels_along(), dated ? Unit() : axes_.x_unit);
    }
    chart_.y.wish = axes_.y;
    if (plot_.kind == PlotKind::histogram) {
      chart_.y.label = "Count";
      chart_.y.wish.whole = true;
      return;
    }
    chart_.y.kind = axes_.y_kind;
    chart_.y.label = label_up(false, axes_.y_kind == AxisKind::number ? axes_.y_unit : Unit());
    if (first.shade != nullptr)
      chart_.shade = ShadeRequest{axis_label(first.shade->label, axes_.shade_unit), axes_.shade};
    chart_.markings = axes_.markings;
    if (std::any_of(pairs_.begin(), pairs_.end(), [](const PlotPair& p) { return p.right_axis; })) {
      chart_.right = AxisRequest{label_up(true, axes_.right_unit), AxisKind::number, axes_.right};
    }
  }

  // The labels of the columns that share an axis; none where they are many, for the legend names them.
  static std::string joined_labels(const std::vector<std::string>& all) {
    constexpr std::size_t kMostLabels = 2;
    std::vector<std::string> labels;
    for (const std::string& label : all) {
      if (std::find(labels.begin(), labels.end(), label) == labels.end()) labels.push_back(label);
    }
    return labels.size() > kMostLabels ? "" : fmt::format("{}", fmt::join(labels, ", "));
  }

  std::string labels_along() const {
    std::vector<std::string> labels;
    for (const PlotPair& pair : pairs_) labels.push_back(pair.x->label);
    return joined_labels(labels);
  }

  std::string label_up(bool right, const Unit& unit) const {
    std::vector<std::string> labels;
    for (const PlotPair& pair : pairs_) {
      if (pair.right_axis == right) labels.push_back(pair.y->label);
    }
    std::string label = joined_labels(labels);
    if (plot_.kind == PlotKind::residuals) label = label.empty() ? "Residual" : "Residual of " + label;
    return axis_label(label, plot_.kind == PlotKind::residuals ? difference_unit(unit) : unit);
  }

  // Places for the values of x: as they come, or ascending where they are numbers or dates.
  void name_places(bool along_x) {
    std::vector<std::pair<double, std::string>> values;
    std::map<std::string, bool> seen;
    for (const PlotPair& pair : pairs_) {
      const Column* column = along_x ? pair.x : pair.y;
      if (column == nullptr) continue;
      const std::vector<bool>* kept = kept_rows_of(pair);
      const bool ordered = column->kind == Kind::number || column->kind == Kind::date;
      const Conversion to_x =
          column->kind == Kind::number ? conversion(column->unit, axes_.x_unit) : Conversion();
      for (std::size_t row = 0; row < column->rows; ++row) {
        if (column->null(row) || (kept != nullptr && !(*kept)[row])) continue;
        std::string name = place_name(*column, row);
        if (seen.emplace(name, true).second)
          values.emplace_back(ordered ? to_x(column->number(row)) : 0, std::move(name));
      }
    }
    std::stable_sort(values.begin(), values.end(),
                     [](const auto& a, const auto& b) { return a.first < b.first; });
    AxisRequest& axis = along_x ? chart_.x : chart_.y;
    // The first name stands at the top, as the first row of a plate or a table.
    if (!along_x) axis.wish.reversed = !axis.wish.reversed;
    for (const auto& value : values) {
      (along_x ? places_ : places_up_)[value.second] = static_cast<double>(axis.names.size());
      axis.names.push_back(value.second);
    }
    // Boxes without x stand side by side under the names of their series.
    one_place_each_ = pairs_.front().x == nullptr;
  }

  // A value as the name of its place: numbers in the unit of the axis, 4 and 4.0 as the same.
  std::string place_name(const Column& column, std::size_t row) const {
    if (column.kind != Kind::number) return cell_text(column, row);
    return number_text(conversion(column.unit, axes_.x_unit)(column.number(row)));
  }

  const std::vector<bool>* kept_rows_of(const PlotPair& pair) const {
    const auto& rows = prepared_.plot_rows[number_];
    const auto found = rows.find(pair.sheet_number);
    return found == rows.end() ? nullptr : &found->second;
  }

  bool several_sheets() const {
    return std::any_of(pairs_.begin(), pairs_.end(),
                       [&](const PlotPair& pair) { return pair.sheet != pairs_.front().sheet; });
  }
  bool several_columns() const {
    return std::any_of(pairs_.begin(), pairs_.end(), [&](const PlotPair& pair) {
      return pair.drawn() != pairs_.front().drawn() && same_sheet(pair);
    });
  }
  bool same_sheet(const PlotPair& pair) const { return pair.sheet == pairs_.front().sheet; }

  std::string series_label(const PlotPair& pair) const {
    if (pair.model != nullptr && !pair.model->label.empty()) return pair.model->label;
    const Column& named = *pair.drawn();
    if (several_sheets() && several_columns()) return pair.sheet->model->name + ", " + named.label;
    return several_sheets() ? pair.sheet->model->name : named.label;
  }

  // The points of a pair as series: one, or one for each value of the column that splits them.
  void add_pair(std::size_t number) {
    const PlotPair& pair = pairs_[number];
    const PairRows pair_rows = rows_of_pair(prepared_, number_, number, pair);
    const PlotPair& points = pair_rows.pair;
    const std::size_t rows = pair_rows.rows;
    std::vector<const Column*> keys;
    if (points.by != nullptr) keys.push_back(points.by);
    const Grouping grouping = keys.empty() ? Grouping() : group_rows(keys, rows);
    std::vector<Series> all(grouping.groups);
    // Where one series has all rows no list of them grows: very many would take twice their memory.
    for (std::vector<double>* values : {&all.front().x, &all.front().y}) {
      if (keys.empty()) values->reserve(rows);
    }
    std::vector<bool> broken(grouping.groups, false);
    const std::vector<bool>* kept = kept_rows_of(pair);
    const FoundFit fit = find_fit(pair);
    const ToAxes to = to_axes(pair, fit);
    const std::string label = series_label(pair);
    for (std::size_t row = 0; row < rows; ++row) {
      if (kept != nullptr && !(*kept)[row]) continue;
      const std::size_t group = keys.empty() ? 0 : grouping.group_of_row[row];
      Series& series = all[group];
      const std::size_t count = pair_rows.counts != nullptr ? (*pair_rows.counts)[row] : 1;
      series.rows += count;
      if (series.label.empty()) series.label = pair.by == nullptr ? label : split_label(points, row, label);
      if (!add_point(points, row, fit, to, count, series)) {
        broken[group] = true;
        continue;
      }
      if (pair_rows.counts != nullptr) series.counts.push_back(count);
      if (broken[group]) series.breaks.push_back(series.x.size() - 1);
      broken[group] = false;
    }
    if (pair_rows.counts != nullptr) note_thinned(label, *pair_rows.counts);
    for (std::size_t group = 0; group < all.size(); ++group) {
      Series& series = all[group];
      if (series.rows == 0 && all.size() > 1) continue;
      if (series.label.empty()) series.label = label;
      series.right_axis = pair.right_axis;
      style(pair, series);
      if (plot_.kind != PlotKind::residuals) add_curves(pair, fit, group, series);
      if (one_place_each_) {
        series.x.assign(series.y.size(), static_cast<double>(chart_.x.names.size()));
        chart_.x.names.push_back(series.label);
      }
      chart_.series.push_back(std::move(series));
    }
  }

  std::string split_label(const PlotPair& pair, std::size_t row, const std::string& label) const {
    std::string value = pair.by->null(row) ? "null" : cell_text(*pair.by, row);
    if (!pair.by->null(row) && pair.by->kind == Kind::number && !pair.by->unit.is_one())
      value += " " + pair.by->unit.typeset();
    return pairs_.size() < 2 ? value : label + ", " + value;
  }

  // What brings the columns of a pair to the units of the axes.
  struct ToAxes {
    Conversion x;
    Conversion y;
    Conversion error;
    Conversion x_error;
    Conversion residual;
    Conversion shade;
    /// The measured columns of which x and y are filled; null pointers for others.
    const Column* measured_x = nullptr;
    const Column* measured_y = nullptr;
  };

  ToAxes to_axes(const PlotPair& pair, const FoundFit& fit) const {
    ToAxes to;
    const Unit& up = unit_up(pair);
    if (pair.x != nullptr && pair.x->kind == Kind::number && axes_.x_kind == AxisKind::number)
      to.x = conversion(pair.x->unit, axes_.x_unit);
    if (pair.y != nullptr && pair.y->kind == Kind::number) to.y = conversion(pair.y->unit, up);
    if (pair.shade != nullptr) to.shade = conversion(pair.shade->unit, axes_.shade_unit);
    const Table& table = pair.sheet->table();
    if (pair.x != nullptr) to.measured_x = measured_of(table, *pair.x);
    if (pair.y != nullptr) to.measured_y = measured_of(table, *pair.y);
    if (pair.x_error != nullptr)
      to.x_error = conversion(step_unit(pair.x_error->unit), step_unit(axes_.x_unit));
    if (pair.y_error != nullptr) to.error = conversion(step_unit(pair.y_error->unit), step_unit(up));
    if (fit.fit != nullptr) to.residual = conversion(step_unit(fit.fit->y.unit), difference_unit(up));
    return to;
  }

  // A value in the unit of its axis, or NaN for a null.
  static double value_at(const Column& column, std::size_t row, const Conversion& to_axis) {
    return column.null(row) ? kNone : to_axis(column.number(row));
  }

  const Unit& unit_up(const PlotPair& pair) const {
    return pair.right_axis ? axes_.right_unit : axes_.y_unit;
  }
  const ScaleWish& wish_up(const PlotPair& pair) const { return pair.right_axis ? axes_.right : axes_.y; }

  // Adds the point of a row, which may stand for several; false where it has none.
  bool add_point(const PlotPair& pair, std::size_t row, const FoundFit& fit, const ToAxes& to,
                 std::size_t count, Series& series) const {
    double x = 0;
    if (pair.x != nullptr && axes_.x_kind == AxisKind::names) {
      if (pair.x->null(row)) return false;
      x = places_.at(place_name(*pair.x, row));
    } else if (pair.x != nullptr) {
      x = value_at(*pair.x, row, to.x);
    }
    double y = 0;
    if (axes_.y_kind == AxisKind::names) {
      if (pair.y->null(row)) return false;
      y = places_up_.at(place_name(*pair.y, row));
    } else if (pair.y != nullptr) {
      y = value_at(*pair.y, row, to.y);
    }
    const double shade = pair.shade == nullptr ? 0 : value_at(*pair.shade, row, to.shade);
    if (plot_.kind == PlotKind::residuals) y = to.residual(residual(pair, row, fit));
    if (std::isnan(x) || std::isnan(y) || std::isnan(shade)) return false;
    if ((axes_.x.logarithmic && x <= 0) || (pair.y != nullptr && wish_up(pair).logarithmic && y <= 0)) {
      series.not_positive += count;
      return false;
    }
    if (axes_.shade.logarithmic && shade <= 0) {
      series.not_positive += count;
      return false;
    }
    if (pair.shade != nullptr) series.shade.push_back(shade);
    if (to.measured_x != nullptr || to.measured_y != nullptr)
      series.filled.push_back((to.measured_x != nullptr && to.measured_x->null(row)) ||
                              (to.measured_y != nullptr && to.measured_y->null(row)));
    series.x.push_back(x);
    if (pair.y == nullptr) return true;
    series.y.push_back(y);
    if (pair.y_error != nullptr) series.y_error.push_back(value_at(*pair.y_error, row, to.error));
    if (pair.x_error != nullptr) series.x_error.push_back(value_at(*pair.x_error, row, to.x_error));
    return true;
  }

  void style(const PlotPair& pair, Series& series) const {
    series.look = look_of(chart_.series.size());
    series.joined = plot_.kind == PlotKind::line || plot_.kind == PlotKind::steps;
    series.steps = plot_.kind == PlotKind::steps;
    if (pair.model == nullptr) return;
    if (pair.model->color)
      series.look.color = color_named(pair.model->color->text()).value_or(series.look.color);
    if (pair.model->marker) {
      series.look.marker = marker_named(pair.model->marker->text()).value_or(series.look.marker);
      series.look.hollow = false;
    }
    if (!pair.model->line) return;
    series.joined = *pair.model->line != LineStyle::none;
    if (*pair.model->line == LineStyle::dashed) series.dash = Dash::dashed;
    if (*pair.model->line == LineStyle::dotted) series.dash = Dash::dotted;
  }

  FoundFit find_fit(const PlotPair& pair) const {
    for (std::size_t i = 0; i < prepared_.fits.size(); ++i) {
      const FitPlan& fit = prepared_.fits[i];
      if (std::find(pair.fits.begin(), pair.fits.end(), fit.model->name) == pair.fits.end()) continue;
      for (std::size_t k = 0; k < fit.sheets.size(); ++k) {
        const FitSheetPlan& plan = fit.sheets[k];
        const Table& table = pair.sheet->table();
        if (plan.sheet == pair.sheet_number && plan.good && &table.columns[plan.x] == pair.x &&
            &table.columns[plan.y] == pair.y)
          return {&fit, &plan, &prepared_.fit_results[i][k]};
      }
    }
    return {};
  }

  // What is left of y above the curve, in the unit of the fit.
  static double residual(const PlotPair& pair, std::size_t row, const FoundFit& found) {
    if (found.fit == nullptr || pair.x->null(row) || pair.y->null(row)) return kNone;
    const FitGroup& group = found.result->groups[found.result->group_of_row[row]];
    if (group.curve.state != CurveState::fitted) return kNone;
    const double x = pair.x->kind == Kind::date ? seconds_between(group.origin, pair.x->instant(row))
                                                : found.plan->to_x(pair.x->number(row));
    return found.plan->to_y(pair.y->number(row)) - curve_at(found.fit->curve, group.curve, x);
  }

  // The curve of the group of this series, or of all groups where it is not split by them.
  void add_curves(const PlotPair& pair, const FoundFit& found, std::size_t group, Series& series) const {
    if (found.fit == nullptr) return;
    const auto& fitted = found.result->groups;
    const Column* by = found.plan->by ? &pair.sheet->table().columns[*found.plan->by] : nullptr;
    const bool same_groups = by == pair.by;
    for (std::size_t g = 0; g < fitted.size(); ++g) {
      if (same_groups ? g != group : group != 0) continue;
      if (fitted[g].curve.state != CurveState::fitted) continue;
      CurveLine line = curve_line(pair, found, fitted[g]);
      if (!same_groups) {
        line.in_ink = true;
        if (!fitted[g].group.empty()) line.label = fitted[g].group + ": " + line.label;
      }
      series.curves.push_back(std::move(line));
    }
  }

  // A curve, and its band if it has one, at as many places as it takes to draw it; its x are shares of the
  // way along the axis.
  CurveLine drawn_curve(const PlotPair& pair, const CurveHeights& heights) const {
    const ScaleWish& wish = wish_up(pair);
    const auto [low, high] = shown_heights(pair);
    const auto share_up = [&, from = low, to = high](double y) {
      if (wish.logarithmic && y <= 0) return std::isnan(y) ? y : kNone;
      const double share =
          wish.logarithmic ? std::log(y / from) / std::log(to / from) : (y - from) / (to - from);
      // What is far outside need not be drawn well.
      return std::clamp(share, -1.0, 2.0);
    };
    const std::vector<double> places = places_to_join([&](const std::vector<double>& at) {
      std::vector<std::vector<double>> all = heights(at);
      for (std::vector<double>& curve : all) {
        for (double& y : curve) y = share_up(y);
      }
      return all;
    });
    const std::vector<std::vector<double>> all = heights(places);
    CurveLine line;
    bool broken = false;
    for (std::size_t i = 0; i < places.size(); ++i) {
      const double y = all[0][i];
      if (!std::isfinite(y) || (wish.logarithmic && y <= 0)) {
        broken = true;
        continue;
      }
      if (broken && !line.x.empty()) line.breaks.push_back(line.x.size());
      broken = false;
      line.x.push_back(places[i]);
      line.y.push_back(y);
      if (all.size() < 3) continue;
      // On a logarithmic axis a band that reaches 0 ends far down.
      line.low.push_back(wish.logarithmic && all[1][i] <= 0 ? y * 1e-3 : all[1][i]);
      line.high.push_back(all[2][i]);
    }
    return line;
  }

  // The heights between which a curve is looked at: what the axis is asked to show, or else those of the
  // points.
  std::pair<double, double> shown_heights(const PlotPair& pair) const {
    const ScaleWish& wish = wish_up(pair);
    const Conversion to_axis = pair.y == nullptr ? Conversion() : conversion(pair.y->unit, unit_up(pair));
    double low = std::numeric_limits<double>::infinity();
    double high = -low;
    for (std::size_t row = 0; pair.y != nullptr && row < pair.y->rows; ++row) {
      const double y = value_at(*pair.y, row, to_axis);
      if (std::isnan(y) || (wish.logarithmic && y <= 0)) continue;
      low = std::min(low, y);
      high = std::max(high, y);
    }
    if (!(low < high)) {
      const double size = std::isfinite(low) && low != 0 ? std::fabs(low) : 1;
      low = wish.logarithmic ? size / 10 : -size;
      high = wish.logarithmic ? size * 10 : size;
    }
    return {wish.low.value_or(low), wish.high.value_or(high)};
  }

  CurveLine curve_line(const PlotPair& pair, const FoundFit& found, const FitGroup& group) const {
    const FitPlan& fit = *found.fit;
    const Curve& curve = group.curve;
    const bool dated = pair.x->kind == Kind::date;
    const Conversion to_x = conversion(fit.x.unit, axes_.x_unit);
    const Conversion to_y = conversion(fit.y.unit, unit_up(pair));
    const bool log_x = axes_.x.logarithmic && curve.x_least > 0;
    double reach = 0;
    if (plot_.confidence && curve.degrees_of_freedom > 0) {
      const double upper = (1 + *plot_.confidence) / 2;
      // Where the standard errors follow from a stated u(y), nothing was estimated from the residuals.
      reach = quantile(found.plan->from_uncertainty ? Op::normal_quantile : Op::t_quantile, upper,
                       static_cast<double>(curve.degrees_of_freedom));
    }
    const auto place = [&](double share) {
      return log_x ? curve.x_least * std::pow(curve.x_greatest / curve.x_least, share)
                   : curve.x_least + (curve.x_greatest - curve.x_least) * share;
    };
    // The curve and the borders of its band, in the unit of the axis.
    const auto heights = [&](const std::vector<double>& shares) {
      std::vector<std::vector<double>> all(reach == 0 ? 1 : 3);
      for (const double share : shares) {
        const double x = place(share);
        const double y = curve_at(fit.curve, curve, x);
        all[0].push_back(to_y(y));
        if (reach == 0) continue;
        const double error = reach * curve_error_at(fit.curve, curve, x);
        all[1].push_back(to_y(y - error));
        all[2].push_back(to_y(y + error));
      }
      return all;
    };
    CurveLine line = drawn_curve(pair, heights);
    for (double& x : line.x) x = dated ? place(x) + group.origin.seconds : to_x(place(x));
    line.label = curve_text(fit, curve, axes_.x_unit, unit_up(pair));
    return line;
  }

  // The curve that the plot itself gives, over the range of its points.
  void add_given_curve() {
    if (!plot_.curve || chart_.series.empty()) return;
    Diagnostics reported_before;
    const auto function = plot_curve(prepared_, plot_, pairs_.front(), reported_before);
    if (!function) return;
    double least = std::numeric_limits<double>::infinity();
    double greatest = -least;
    for (const Series& series : chart_.series) {
      for (const double x : series.x) {
        least = std::min(least, x);
        greatest = std::max(greatest, x);
      }
    }
    const double first = least;
    least = axes_.x.low.value_or(least);
    greatest = axes_.x.high.value_or(greatest);
    if (!(least < greatest)) return;
    const PlotPair& pair = pairs_.front();
    const Conversion to_own = conversion(axes_.x_unit, pair.x->unit);
    const Conversion to_y = conversion(pair.y->unit, unit_up(pair));
    const auto place = [&](double share) {
      return axes_.x.logarithmic ? least * std::pow(greatest / least, share)
                                 : least + (greatest - least) * share;
    };
    const auto heights = [&](const std::vector<double>& shares) {
      std::vector<double> x;
      x.reserve(shares.size());
      // A dated x counts from the first point, as in a fit.
      for (const double share : shares)
        x.push_back(to_own(axes_.x_kind == AxisKind::date ? place(share) - first : place(share)));
      std::vector<double> y = (*function)({}, x).values;
      for (double& value : y) value = to_y(value);
      return std::vector<std::vector<double>>{std::move(y)};
    };
    CurveLine line = drawn_curve(pair, heights);
    for (double& x : line.x) x = place(x);
    line.in_ink = true;
    line.dash = Dash::dashed;
    line.label = plot_.curve->text();
    chart_.series.front().curves.push_back(std::move(line));
  }

  void note_thinned(const std::string& label, const std::vector<std::size_t>& counts) {
    const std::size_t rows = std::accumulate(counts.begin(), counts.end(), std::size_t{0});
    notes_.push_back(fmt::format(
        "plot {}: {} points of {} stand for its {} rows in the database: others would fall on the same "
        "spots of a page",
        plot_.name, counts.size(), label, rows));
  }

  void note_what_is_left_out(const Series& series) {
    const std::size_t drawn = series.points();
    const std::size_t null = series.rows - drawn - series.not_positive;
    const char* what = plot_.kind == PlotKind::histogram || plot_.kind == PlotKind::box ? "values"
                       : plot_.kind == PlotKind::cells                                  ? "cells"
                                                                                        : "points";
    if (null > 0) {
      notes_.push_back(fmt::format("plot {}: {} of {} {} of {} not drawn: a value is null", plot_.name, null,
                                   series.rows, what, series.label));
    }
    if (series.not_positive > 0) {
      notes_.push_back(fmt::format("plot {}: {} of {} {} of {} not drawn: not above 0 on a logarithmic axis",
                                   plot_.name, series.not_positive, series.rows, what, series.label));
    }
  }

  // A series whose values are many times smaller than another's on the same axis shows as a line at its foot.
  void note_squashed() {
    constexpr double kManyTimes = 50;
    if (plot_.kind == PlotKind::histogram || plot_.kind == PlotKind::cells) return;
    for (const bool right : {false, true}) {
      if ((right ? axes_.right : axes_.y).logarithmic) continue;
      const Series* small = nullptr;
      const Series* large = nullptr;
      double least = 0;
      double greatest = 0;
      for (const Series& series : chart_.series) {
        if (series.right_axis != right || series.y.empty()) continue;
        double size = 0;
        for (const double y : series.y) size = std::max(size, std::fabs(y));
        if (size == 0) continue;
        if (small == nullptr || size < least) {
          small = &series;
          least = size;
        }
        if (large == nullptr || size > greatest) {
          large = &series;
          greatest = size;
        }
      }
      if (small == nullptr || greatest <= kManyTimes * least) continue;
      const bool free_right = !chart_.right && several_columns();
      notes_.push_back(
          fmt::format("plot {}: {} is over {:.0f} times larger than {}, which shows next to nothing; try "
                      "{}y_scale = \"log\"",
                      plot_.name, large->label, std::floor(greatest / least), small->label,
                      free_right ? "y2 for one of them, or " : ""));
    }
  }

  void note_many() {
    constexpr std::size_t kToldApart = 20;
    if (chart_.series.size() <= kToldApart) return;
    notes_.push_back(
        fmt::format("plot {}: {} series are more than readers tell apart; keep some of them, or show "
                    "them in panels",
                    plot_.name, chart_.series.size()));
  }

  void note_repeated_bars() {
    if (plot_.kind != PlotKind::bars) return;
    for (const Series& series : chart_.series) {
      std::map<double, std::size_t> at;
      for (const double x : series.x) ++at[x];
      const auto hidden = static_cast<std::size_t>(series.x.size() - at.size());
      if (hidden == 0) continue;
      notes_.push_back(
          fmt::format("plot {}: {} of {} bars of {} stand behind another at the same x; a sheet with "
                      "one_row_per makes one row of them",
                      plot_.name, hidden, series.x.size(), series.label));
    }
  }

  // The residuals of the curves as a chart under the points, which says what is null.
  Chart residuals_below() const {
    PlotModel model = plot_;
    model.kind = PlotKind::residuals;
    model.title.clear();
    model.residuals = false;
    model.curve.reset();
    model.y_axis = {};
    model.y_axis.unit = plot_.y_axis.unit;
    model.marks.clear();
    model.shade.reset();
    std::vector<std::string> said_above;
    Chart below = ChartMaker(prepared_, model, number_, said_above).run();
    below.legend = LegendPlace::none;
    below.y.label = axis_label("Residual", difference_unit(axes_.y_unit));
    for (Series& series : below.series) {
      series.rows = series.x.size();
      series.not_positive = 0;
    }
    return below;
  }

  PreparedStudy& prepared_;
  const PlotModel& plot_;
  std::size_t number_;  ///< of the plot in the study
  std::vector<std::string>& notes_;
  std::vector<PlotPair> pairs_;
  PlotAxes axes_;
  Chart chart_;
  std::map<std::string, double> places_;
  std::map<std::string, double> places_up_;  // of a field of cells with names beside it
  bool one_place_each_ = false;
};

}  // namespace

std::string axis_label(const std::string& label, const Unit& unit) {
  if (unit.parts.empty()) return label;
  return fmt::format("{}{}[{}]", label, label.empty() ? "" : " ", unit.typeset());
}

Result<CurveFunction> plot_curve(const PreparedStudy& prepared, const PlotModel& plot, const PlotPair& pair,
                                 Diagnostics& diagnostics) {
  Type x;
  x.kind = pair.x->kind;
  x.unit = pair.x->unit;
  const CheckContext context{pair.sheet->plan.scope, prepared.units, prepared.study.policy};
  return function_of_x(*plot.curve, x, pair.y->unit, context, diagnostics);
}

Chart chart_of(PreparedStudy& prepared, const PlotModel& plot, std::vector<std::string>& notes) {
  const auto number = static_cast<std::size_t>(&plot - prepared.study.plots.data());
  return ChartMaker(prepared, plot, number, notes).run();
}

}  // namespace opensum
