// The plots of a study.
#include "plot/figures.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <map>

#include "base/limits.h"
#include "base/memory.h"
#include "base/parallel.h"
#include "compute/whole_column.h"
#include "figure/draw.h"
#include "figure/layout.h"
#include "figure/text_size.h"
#include "message/nearest.h"
#include "plot/plot_columns.h"
#include "plot/plot_series.h"
#include "table/number_text.h"

namespace opensum {
namespace {

// A unit of the page in print, in millimetres: letters of 20 units stand 7 points high.
constexpr double kMillimetresPerUnit = 0.35 * 25.4 / 72;
constexpr double kDotsPerInch = 600;
constexpr double kMillimetresPerInch = 25.4;
// What was never meant: a page that nobody could read, or that no memory holds.
constexpr double kLeastMillimetres = 25;
constexpr double kMostMillimetres = 1200;
constexpr double kLeastPixels = 200;
constexpr double kMostPixels = 10000;

std::string trimmed_text(std::string_view text) { return std::string(trimmed(text)); }

// Sets the size of a page from a text such as `85 x 60 mm` or `1280 x 800 px`; false where it is of another
// form.
bool set_size(const std::string& text, Page& page) {
  // The widths that journals print.
  if (text == "one column") return set_size("86 x 66 mm", page);
  if (text == "two columns") return set_size("178 x 105 mm", page);
  std::size_t cross = text.find('x');
  std::size_t length = 1;
  if (const std::size_t times = text.find("×"); times != std::string::npos) {
    cross = times;
    length = std::string("×").size();
  }
  if (cross == std::string::npos) return false;
  const std::string second = trimmed_text(text.substr(cross + length));
  const std::size_t blank = second.find_first_not_of("0123456789.");
  if (blank == std::string::npos) return false;
  const std::string unit = trimmed_text(second.substr(blank));
  std::string first = trimmed_text(text.substr(0, cross));
  // `85 mm x 60 mm` says the unit twice.
  if (first.ends_with(unit)) first = trimmed_text(first.substr(0, first.size() - unit.size()));
  const NumberReading width = read_number(first);
  const NumberReading height = read_number(second.substr(0, blank));
  if (width.fault != NumberFault::none || height.fault != NumberFault::none) return false;
  const double least = std::min(width.value, height.value);
  const double most = std::max(width.value, height.value);
  if (unit == "px") {
    if (least < kLeastPixels || most > kMostPixels) return false;
    // Letters shrink with the picture, but not so far that they cannot be read.
    constexpr double kSmallest = 0.6;
    const double scale =
        std::max(kSmallest, std::min(width.value / Page().width, height.value / Page().height));
    page.width = width.value / scale;
    page.height = height.value / scale;
    page.pixels_per_unit = scale;
    page.points_per_unit = 0.35 * scale;
    return true;
  }
  static const std::map<std::string, double> kMillimetres = {
      {"mm", 1}, {"cm", 10}, {"in", kMillimetresPerInch}};
  const auto found = kMillimetres.find(unit);
  if (found == kMillimetres.end() || least * found->second < kLeastMillimetres ||
      most * found->second > kMostMillimetres)
    return false;
  page.width = width.value * found->second / kMillimetresPerUnit;
  page.height = height.value * found->second / kMillimetresPerUnit;
  page.pixels_per_unit = kMillimetresPerUnit / kMillimetresPerInch * kDotsPerInch;
  return true;
}

const PlotModel* find_plot(const Study& study, const std::string& name) {
  const auto found = std::find_if(study.plots.begin(), study.plots.end(),
                                  [&](const PlotModel& plot) { return plot.name == name; });
  return found == study.plots.end() ? nullptr : &*found;
}

class PlotChecker {
 public:
  PlotChecker(PreparedStudy& prepared, const PlotModel& plot, Diagnostics& diagnostics)
      : prepared_(prepared), plot_(plot), diagnostics_(diagnostics) {}

  void run() {
    check_size();
    check_looks();
    check_kind();
    if (!plot_.panels.empty()) return check_panels();
    const std::vector<PlotPair> pairs = plot_pairs(prepared_, plot_, diagnostics_);
    if (pairs.empty()) return;
    const PlotAxes axes = plot_axes(plot_, pairs, prepared_.units, diagnostics_);
    check_axes(pairs);
    check_fits(pairs);
    if (plot_.curve && pairs.front().x != nullptr && pairs.front().y != nullptr) {
      const Column& x = *pairs.front().x;
      if (axes.x_kind == AxisKind::names) {
        diagnostics_.add(Code::plot_needs_number, pairs.front().x_text->place(),
                         {x.symbol, kind_name(x.kind)});
      } else {
        // What is wrong with it is reported here; the curve itself is made where it is drawn.
        static_cast<void>(plot_curve(prepared_, plot_, pairs.front(), diagnostics_));
      }
    }
  }

 private:
  void check_size() {
    Page page;
    if (plot_.size && !set_size(plot_.size->text(), page))
      diagnostics_.add(Code::plot_size, plot_.size->place(), {plot_.size->text()});
  }

  void check_looks() {
    for (const SeriesModel& series : plot_.series) {
      if (series.color && !color_named(series.color->text())) {
        diagnostics_.add(Code::unknown_color, series.color->place(),
                         {series.color->text(), nearest_name(series.color->text(), color_names()),
                          fmt::format("{}", fmt::join(color_names(), ", "))});
      }
      if (series.marker && !marker_named(series.marker->text())) {
        diagnostics_.add(Code::unknown_marker, series.marker->place(),
                         {series.marker->text(), nearest_name(series.marker->text(), marker_names()),
                          fmt::format("{}", fmt::join(marker_names(), ", "))});
      }
    }
  }

  // Curves go through points alone.
  void check_kind() {
    const bool counted = plot_.kind == PlotKind::histogram || plot_.kind == PlotKind::box;
    const bool through_points =
        plot_.kind == PlotKind::points || plot_.kind == PlotKind::line || plot_.kind == PlotKind::steps;
    const std::string kind = plot_kinds()[static_cast<std::size_t>(plot_.kind)];
    const auto refuse = [&](const char* key, const Place& place) {
      diagnostics_.add(Code::plot_kind_key, place, {kind, key});
    };
    if (!through_points && plot_.kind != PlotKind::residuals) {
      if (plot_.fit) refuse("fit", plot_.fit->place());
      for (const SeriesModel& series : plot_.series) {
        if (series.fit) refuse("fit", series.fit->place());
      }
    }
    if (plot_.curve && !through_points) refuse("curve", plot_.curve->place());
    if (plot_.kind == PlotKind::cells && !plot_.shade)
      diagnostics_.add(Code::key_missing, plot_.place, {"shade"});
    if (plot_.kind == PlotKind::cells && !plot_.y2.empty()) refuse("y2", plot_.y2.front().place());
    if (plot_.shade && plot_.kind != PlotKind::points && plot_.kind != PlotKind::cells)
      refuse("shade", plot_.shade->place());
    if (plot_.y_error && plot_.kind == PlotKind::cells) refuse("y_error", plot_.y_error->place());
    if (plot_.y_error && counted) refuse("y_error", plot_.y_error->place());
    const bool series_fit = std::any_of(plot_.series.begin(), plot_.series.end(),
                                        [](const SeriesModel& s) { return s.fit.has_value(); });
    const bool wants_fit = plot_.residuals || plot_.kind == PlotKind::residuals;
    if (wants_fit && !plot_.fit && !series_fit)
      diagnostics_.add(Code::residuals_without_fit, plot_.place, {});
  }

  void check_panels() {
    std::vector<std::string> names;
    for (const PlotModel& plot : prepared_.study.plots) names.push_back(plot.name);
    for (const Passage& name : plot_.panels) {
      const PlotModel* panel = find_plot(prepared_.study, name.text());
      if (panel == nullptr) {
        diagnostics_.add(Code::unknown_plot, name.place(), {name.text(), nearest_name(name.text(), names)});
      } else if (!panel->panels.empty()) {
        diagnostics_.add(Code::plot_panel_of_panels, name.place(), {name.text()});
      }
    }
  }

  void check_axes(const std::vector<PlotPair>& pairs) {
    const PlotPair* first_on[2] = {nullptr, nullptr};
    for (const PlotPair& pair : pairs) {
      const Column* x = pairs.front().x;
      if (pair.x != nullptr && x != nullptr) {
        if (pair.x->kind != x->kind) {
          diagnostics_.add(Code::plot_kinds_differ, pair.x_text->place(),
                           {pair.x->symbol, kind_name(pair.x->kind), x->symbol, kind_name(x->kind)});
        } else if (mismatch(pair.x->unit, x->unit)) {
          diagnostics_.add(Code::plot_units_differ, pair.x_text->place(),
                           {unit_of_column(*pair.x), unit_of_column(*x)});
        }
      }
      if (pair.y == nullptr) continue;
      const PlotPair*& first = first_on[pair.right_axis ? 1 : 0];
      if (first == nullptr) first = &pair;
      if (mismatch(pair.y->unit, first->y->unit))
        diagnostics_.add(Code::plot_units_differ, pair.y_text->place(),
                         {unit_of_column(*pair.y), unit_of_column(*first->y)});
      if (pair.y_error != nullptr &&
          mismatch(difference_unit(pair.y_error->unit), difference_unit(pair.y->unit)))
        diagnostics_.add(Code::plot_units_differ, pair.y_text->place(),
                         {unit_of_column(*pair.y_error), unit_of_column(*pair.y)});
    }
  }

  // A fit that the plot names must have been made of what it shows.
  void check_fits(const std::vector<PlotPair>& pairs) {
    for (const PlotPair& pair : pairs) {
      if (pair.fits.empty() || pair.x == nullptr || pair.y == nullptr) continue;
      const auto fit = std::find_if(prepared_.fits.begin(), prepared_.fits.end(), [&](const FitPlan& plan) {
        return plan.model->name == pair.fits.front();
      });
      if (fit == prepared_.fits.end() || !fit->known) continue;
      const Table& table = pair.sheet->table();
      const bool any = std::any_of(fit->sheets.begin(), fit->sheets.end(), [&](const FitSheetPlan& plan) {
        // A sheet that was not fitted has been reported.
        return !plan.good || (plan.sheet == pair.sheet_number && &table.columns[plan.x] == pair.x &&
                              &table.columns[plan.y] == pair.y);
      });
      if (any) continue;
      const std::string sheet = pair.sheet->model->name + ".";
      const Passage& named = pair.model != nullptr && pair.model->fit ? *pair.model->fit : *plot_.fit;
      diagnostics_.add(Code::plot_fit_other, named.place(),
                       {named.text(), sheet + pair.y->symbol, sheet + pair.x->symbol});
    }
  }

  PreparedStudy& prepared_;
  const PlotModel& plot_;
  Diagnostics& diagnostics_;
};

// Panels as square as can be, rather wide than high.
std::size_t columns_for(std::size_t panels) {
  return static_cast<std::size_t>(std::ceil(std::sqrt(static_cast<double>(panels))));
}

// What the axes and series of a chart are called.
void describe(const Chart& chart, BuiltFigure& built) {
  built.axes.push_back(chart.x.label);
  built.axes.push_back(chart.y.label);
  if (chart.right) built.axes.push_back(chart.right->label);
  if (chart.shade) built.axes.push_back(chart.shade->label);
  for (const Series& series : chart.series) {
    built.legend.push_back(series.label);
    built.series.push_back(series.label);
    for (const CurveLine& curve : series.curves) built.legend.push_back(curve.label);
  }
  if (chart.below) built.axes.push_back(chart.below->y.label);
}

std::string letters_in_no_font(const Figure& figure) {
  std::string all;
  for (const Mark& mark : figure.marks) all += mark.text;
  return letters_without_font(all);
}

// Values that divide a plot into series are a few; each takes up room in the figure and in memory.
void check_series(PreparedStudy& prepared, const PlotModel& plot, Diagnostics& diagnostics) {
  Diagnostics reported_before;
  const auto number = static_cast<std::size_t>(&plot - prepared.study.plots.data());
  const std::vector<PlotPair> pairs = plot_pairs(prepared, plot, reported_before);
  for (std::size_t i = 0; i < pairs.size(); ++i) {
    const auto [pair, rows, counts] = rows_of_pair(prepared, number, i, pairs[i]);
    if (pair.by == nullptr || group_rows({pair.by}, rows).groups <= kMostGroups) continue;
    diagnostics.add(Code::too_many_groups, plot.by ? plot.by->place() : plot.place,
                    {pair.by->symbol, std::to_string(kMostGroups), "tell the series of a plot apart"});
    return;
  }
}

}  // namespace

void check_plots(PreparedStudy& prepared, Diagnostics& diagnostics) {
  for (const PlotModel& plot : prepared.study.plots) PlotChecker(prepared, plot, diagnostics).run();
}

void draw_figures(std::vector<BuiltFigure>& figures) {
  if (figures.empty()) return;
  std::vector<std::pair<const Figure*, std::pair<const std::string, std::string>*>> drawings;
  for (BuiltFigure& built : figures) {
    for (const std::string& format : built.formats) built.drawings[format];
    built.drawings["svg"];
    for (auto& drawing : built.drawings) drawings.emplace_back(&built.figure, &drawing);
  }
  // The longest work first: pictures of many pixels.
  const auto pixels = [](const auto& one) {
    const Figure& figure = *one.first;
    return one.second->first == "png"
               ? figure.width * figure.height * figure.pixels_per_unit * figure.pixels_per_unit
               : 0;
  };
  std::stable_sort(drawings.begin(), drawings.end(),
                   [&](const auto& a, const auto& b) { return pixels(a) > pixels(b); });
  // Each thread has a page and what is made of it.
  const double most = drawings.empty() ? 0 : pixels(drawings.front());
  constexpr double kBytesPerPixel = 8;
  constexpr std::size_t kForDrawing = std::size_t{32} << 20U;
  require_memory(threads() * (kForDrawing + static_cast<std::size_t>(kBytesPerPixel * most)));
  for_each_part(drawings.size(), [&](std::size_t i) {
    const auto& [figure, drawing] = drawings[i];
    drawing->second = drawn_figure(*figure, drawing->first);
  });
}

std::vector<LastWishes> wishes_of_figures(PreparedStudy& prepared) {
  std::vector<LastWishes> wishes(prepared.sheets.size());
  for (std::size_t i = 0; i < wishes.size(); ++i)
    wishes[i].held.assign(prepared.sheets[i]->table().columns.size(), Held::nothing);
  Diagnostics reported_before;
  for (std::size_t number = 0; number < prepared.study.plots.size(); ++number) {
    const PlotModel& plot = prepared.study.plots[number];
    if (!plot.panels.empty()) continue;
    const std::vector<PlotPair> pairs = plot_pairs(prepared, plot, reported_before);
    for (std::size_t i = 0; i < pairs.size(); ++i) {
      const PlotPair& pair = pairs[i];
      if (prepared.thinned.contains({number, i})) continue;
      const Table& table = pair.sheet->table();
      std::vector<Held>& held = wishes[pair.sheet_number].held;
      const auto hold = [&](const Column* column, Held what) {
        for (std::size_t at = 0; at < held.size(); ++at) {
          if (&table.columns[at] == column) held[at] = std::max(held[at], what);
        }
      };
      for (const Column* column : {pair.x, pair.y, pair.y_error, pair.x_error, pair.shade}) {
        hold(column, Held::values);
        // Which of its values were filled is shown, too.
        if (column != nullptr) hold(measured_of(table, *column), Held::values);
      }
      // Names of groups are shown as they were read.
      hold(pair.by, Held::with_source);
    }
  }
  return wishes;
}

std::vector<BuiltFigure> build_figures(PreparedStudy& prepared, Diagnostics& diagnostics) {
  std::vector<BuiltFigure> figures;
  if (prepared.study.plots.empty()) return figures;
  // Fonts and what reads them.
  constexpr std::size_t kForFonts = std::size_t{64} << 20U;
  require_memory(kForFonts);
  for (const PlotModel& plot : prepared.study.plots) check_series(prepared, plot, diagnostics);
  if (diagnostics.has_errors()) return figures;
  for (const PlotModel& plot : prepared.study.plots) {
    BuiltFigure built;
    built.name = plot.name;
    built.title = plot.title;
    built.caption = plot.caption;
    built.formats = plot.formats;
    Page page;
    if (plot.size) set_size(plot.size->text(), page);
    if (plot.panels.empty()) {
      page.charts.push_back(chart_of(prepared, plot, built.notes));
    } else {
      page.title = plot.title;
      page.columns = plot.columns > 0 ? plot.columns : columns_for(plot.panels.size());
      // Rows of panels need their height.
      constexpr double kRowHeight = 560;
      const std::size_t rows = (plot.panels.size() + page.columns - 1) / page.columns;
      if (!plot.size) page.height = std::max(page.height, kRowHeight * static_cast<double>(rows));
      // The notes of a panel are said with its own figure.
      std::vector<std::string> said_there;
      for (const Passage& panel : plot.panels)
        page.charts.push_back(chart_of(prepared, *find_plot(prepared.study, panel.text()), said_there));
    }
    for (const Chart& chart : page.charts) describe(chart, built);
    PageFigure figure = build_page(page);
    std::size_t outside = 0;
    for (const std::size_t count : figure.outside) outside += count;
    if (outside > 0 && plot.panels.empty()) {
      built.notes.push_back(
          fmt::format("plot {}: {} points not drawn: outside the axes", plot.name, outside));
    }
    built.figure = std::move(figure.figure);
    if (const std::string letters = letters_in_no_font(built.figure); !letters.empty())
      diagnostics.add(Code::letters_missing, plot.place, {plot.name, letters});
    figures.push_back(std::move(built));
  }
  return figures;
}

}  // namespace opensum
