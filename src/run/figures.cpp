// The plots of a study.
#include "run/figures.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "figure/scatter.h"
#include "files/csv_writer.h"
#include "message/nearest.h"
#include "study/quantity.h"
#include "table/number_text.h"

namespace opensum {
namespace {

// A pair of columns that makes a series.
struct Pair {
  const RunSheet* sheet = nullptr;
  const Column* x = nullptr;
  const Column* y = nullptr;
  const Passage* y_text = nullptr;
  const Column* split = nullptr;  ///< a series for each of its values; a null pointer for one series
};

// The axes of a plot: their units and what is asked of them.
struct Axes {
  Unit x_unit;
  Unit y_unit;
  ScaleWish x;
  ScaleWish y;
};

std::vector<RunSheet*> sheets_of(PreparedStudy& prepared, const PlotModel& plot, Diagnostics& diagnostics) {
  std::vector<RunSheet*> sheets;
  if (plot.sheets.empty()) {
    // With a single sheet there is nothing to choose.
    if (prepared.shown_sheets().size() == 1) {
      sheets.push_back(prepared.shown_sheets().front());
    } else {
      diagnostics.add(Code::key_missing, plot.place, {"sheet"});
    }
    return sheets;
  }
  std::vector<std::string> names;
  for (const RunSheet* sheet : prepared.shown_sheets()) names.push_back(sheet->model->name);
  for (const Passage& name : plot.sheets) {
    if (RunSheet* sheet = prepared.find_sheet(name.text())) {
      sheets.push_back(sheet);
    } else {
      diagnostics.add(Code::unknown_sheet, name.place(), {name.text(), nearest_name(name.text(), names)});
    }
  }
  return sheets;
}

// A column of any kind; null after a reported error or in silence where it has its own.
const Column* find_column(const RunSheet& sheet, const Passage& name, Diagnostics& diagnostics) {
  const int index = sheet.plan.scope.find_column(name.text(), false);
  if (index < 0) {
    diagnostics.add(Code::unknown_column, name.place(),
                    {name.text(), sheet.model->name, nearest_name(name.text(), sheet.plan.scope.names())});
    return nullptr;
  }
  if (sheet.plan.scope.columns[static_cast<std::size_t>(index)].broken) return nullptr;
  return &sheet.table().columns[sheet.plan.scope.meant_by(static_cast<std::size_t>(index))];
}

const Column* column_of(const RunSheet& sheet, const Passage& name, Diagnostics& diagnostics) {
  const Column* column = find_column(sheet, name, diagnostics);
  if (column == nullptr) return nullptr;
  if (column->kind != Kind::number) {
    diagnostics.add(Code::plot_needs_number, name.place(), {name.text(), kind_name(column->kind)});
    return nullptr;
  }
  return column;
}

std::vector<Pair> pairs_of(PreparedStudy& prepared, const PlotModel& plot, Diagnostics& diagnostics) {
  std::vector<Pair> pairs;
  for (RunSheet* sheet : sheets_of(prepared, plot, diagnostics)) {
    const Column* x = column_of(*sheet, plot.x, diagnostics);
    for (const Passage& name : plot.y) {
      const Column* y = column_of(*sheet, name, diagnostics);
      const Column* split = plot.split ? find_column(*sheet, *plot.split, diagnostics) : nullptr;
      if (x != nullptr && y != nullptr && (split != nullptr || !plot.split)) {
        pairs.push_back({sheet, x, y, &name, split});
      }
    }
  }
  return pairs;
}

// The unit of an axis: the one that is asked for, else that of the first column on it.
Unit axis_unit(const AxisModel& axis, const Column& first, const UnitSystem& units,
               Diagnostics& diagnostics) {
  if (!axis.unit) return first.unit;
  const UnitReading reading = units.read(axis.unit->text());
  if (!reading.unit) {
    report_unit_fault(reading, *axis.unit, {0, axis.unit->text().size()}, diagnostics);
    return first.unit;
  }
  if (mismatch(*reading.unit, first.unit) != Mismatch::none) {
    diagnostics.add(Code::plot_units_differ, axis.unit->place(),
                    {fmt::format("{} ({})", first.unit.text(), first.symbol), reading.unit->text()});
    return first.unit;
  }
  return *reading.unit;
}

// An end such as `0`, `5 kJ` or `auto`, in the unit of the axis.
std::optional<double> range_end(const Passage& end, const Unit& unit, const UnitSystem& units,
                                Diagnostics& diagnostics) {
  const std::string& text = end.text();
  if (text == "auto") return std::nullopt;
  const auto quantity = read_quantity(text, units);
  if (quantity && std::isfinite(quantity->value)) {
    if (!quantity->unit_stated) return quantity->value;
    if (mismatch(quantity->unit, unit) == Mismatch::none)
      return conversion(quantity->unit, unit)(quantity->value);
  }
  diagnostics.add(Code::plot_range, end.place(), {text, unit.is_one() ? "a plain number" : unit.text()});
  return std::nullopt;
}

ScaleWish wish_of(const AxisModel& axis, const Unit& unit, const UnitSystem& units,
                  Diagnostics& diagnostics) {
  ScaleWish wish;
  wish.logarithmic = axis.logarithmic;
  if (axis.range.empty()) return wish;
  wish.low = range_end(axis.range[0], unit, units, diagnostics);
  wish.high = range_end(axis.range[1], unit, units, diagnostics);
  if (wish.low && wish.high && *wish.low >= *wish.high) {
    diagnostics.add(Code::plot_range_order, axis.range[1].place(), {});
  }
  for (std::size_t i = 0; i < 2; ++i) {
    const auto& end = i == 0 ? wish.low : wish.high;
    if (axis.logarithmic && end && *end <= 0)
      diagnostics.add(Code::plot_range_log, axis.range[i].place(), {});
  }
  return wish;
}

Axes axes_of(const PlotModel& plot, const std::vector<Pair>& pairs, const UnitSystem& units,
             Diagnostics& diagnostics) {
  Axes axes;
  axes.x_unit = axis_unit(plot.x_axis, *pairs.front().x, units, diagnostics);
  axes.y_unit = axis_unit(plot.y_axis, *pairs.front().y, units, diagnostics);
  axes.x = wish_of(plot.x_axis, axes.x_unit, units, diagnostics);
  axes.y = wish_of(plot.y_axis, axes.y_unit, units, diagnostics);
  return axes;
}

std::string words(const Column& column) { return fmt::format("{} ({})", column.unit.text(), column.symbol); }

std::string axis_label(const Column& column, const Unit& unit) {
  return unit.parts.empty() ? column.label : column.label + " [" + unit.typeset() + "]";
}

std::string series_label(const Pair& pair, const PlotModel& plot) {
  if (plot.sheets.size() > 1 && plot.y.size() > 1) return pair.sheet->model->name + ", " + pair.y->label;
  return plot.sheets.size() > 1 ? pair.sheet->model->name : pair.y->label;
}

// The labels of the quantities that share the axis, or the unit alone where they are many: the legend names
// them.
std::string y_axis_label(const std::vector<Pair>& pairs, const Unit& unit) {
  constexpr std::size_t kMostLabels = 2;
  std::vector<std::string> labels;
  for (const Pair& pair : pairs) {
    if (std::find(labels.begin(), labels.end(), pair.y->label) == labels.end())
      labels.push_back(pair.y->label);
  }
  std::string in = unit.parts.empty() ? "" : "[" + unit.typeset() + "]";
  if (labels.size() > kMostLabels) return in;
  return fmt::format("{}{}{}", fmt::join(labels, ", "), in.empty() ? "" : " ", in);
}

// A number with its unit, as in the equation of a curve.
std::string with_unit(double value, const Unit& unit, bool bracket) {
  constexpr int kDigits = 4;
  const std::string number = number_text(value, kDigits);
  if (unit.is_one()) return number;
  const std::string text = number + " " + unit.text();
  return bracket ? "(" + text + ")" : text;
}

// The equation of a curve with its parameters, as the legend gives it.
std::string curve_text(const FitPlan& fit, const Curve& curve) {
  const auto value = [&](std::size_t i, bool bracket) {
    return with_unit(std::abs(curve.parameters[i]), fit.types[i].unit, bracket);
  };
  const auto sign = [&](std::size_t i) { return curve.parameters[i] < 0 ? "−" : ""; };
  const auto term = [&](std::size_t i) {
    return fmt::format("{} {}", curve.parameters[i] < 0 ? "−" : "+", value(i, true));
  };
  const std::string first = "y = " + std::string(sign(0));
  switch (fit.curve.kind) {
    case CurveKind::line:
      return first + value(0, false) + " " + term(1) + " x";
    case CurveKind::proportional:
      return first + value(0, true) + " x";
    case CurveKind::power:
      return fmt::format("{}{} x#u{}{}#d", first, value(0, false), sign(1), value(1, false));
    case CurveKind::exponential:
      return fmt::format("{}{} exp({}{} x)", first, value(0, false), sign(1), value(1, false));
    case CurveKind::logarithm:
      return first + value(0, false) + " " + term(1) + " ln x";
    default:
      break;
  }
  std::string text = fit.model->model.text();
  for (std::size_t i = 0; i < fit.curve.names.size(); ++i) {
    text += fmt::format("{} {} = {}{}", i == 0 ? ":" : ",", fit.curve.names[i], sign(i), value(i, false));
  }
  return text;
}

// Puts the curve of a fit into the series of the points to which it was fitted, if it was.
void add_curve(const PreparedStudy& prepared, const PlotModel& plot, const Pair& pair, const Axes& axes,
               Series& series) {
  constexpr int kPieces = 200;
  for (std::size_t i = 0; i < prepared.fits.size(); ++i) {
    const FitPlan& fit = prepared.fits[i];
    if (fit.model->name != plot.fit->text() && fit.model->name != implied_fit(plot, *pair.y_text)) continue;
    for (std::size_t k = 0; k < fit.sheets.size(); ++k) {
      const FitSheetPlan& plan = fit.sheets[k];
      const RunSheet& sheet = *prepared.sheets[plan.sheet];
      const bool same = &sheet == pair.sheet && &sheet.table().columns[plan.x] == pair.x &&
                        &sheet.table().columns[plan.y] == pair.y;
      const FitResult& result = prepared.fit_results[i][k];
      if (!same || result.groups.size() != 1 || result.groups.front().curve.state != CurveState::fitted)
        continue;
      const Curve& curve = result.groups.front().curve;
      const Conversion to_x = conversion(fit.x.unit, axes.x_unit);
      const Conversion to_y = conversion(fit.y.unit, axes.y_unit);
      for (int piece = 0; piece <= kPieces; ++piece) {
        const double x = curve.x_least + (curve.x_greatest - curve.x_least) * piece / kPieces;
        const double y = curve_at(fit.curve, curve.parameters, x);
        if (!std::isfinite(y)) continue;
        if ((axes.x.logarithmic && to_x(x) <= 0) || (axes.y.logarithmic && to_y(y) <= 0)) continue;
        series.curve_x.push_back(to_x(x));
        series.curve_y.push_back(to_y(y));
      }
      series.curve_label = curve_text(fit, curve);
    }
  }
}

}  // namespace

std::string implied_fit(const PlotModel& plot, const Passage& y) { return plot.name + "_" + y.text(); }

void check_plots(PreparedStudy& prepared, Diagnostics& diagnostics) {
  for (const PlotModel& plot : prepared.study.plots) {
    const std::vector<Pair> pairs = pairs_of(prepared, plot, diagnostics);
    if (!pairs.empty()) axes_of(plot, pairs, prepared.units, diagnostics);
    for (const Pair& pair : pairs) {
      if (mismatch(pair.x->unit, pairs.front().x->unit) != Mismatch::none) {
        diagnostics.add(Code::plot_units_differ, plot.x.place(), {words(*pair.x), words(*pairs.front().x)});
      }
      if (mismatch(pair.y->unit, pairs.front().y->unit) != Mismatch::none) {
        diagnostics.add(Code::plot_units_differ, pair.y_text->place(),
                        {words(*pair.y), words(*pairs.front().y)});
      }
    }
  }
}

namespace {

// The points of a pair as series: one, or one for each value of the column that splits them.
std::vector<Series> series_of(const Pair& pair, const PlotModel& plot, const Axes& axes) {
  const Conversion to_x = conversion(pair.x->unit, axes.x_unit);
  const Conversion to_y = conversion(pair.y->unit, axes.y_unit);
  const std::size_t rows = pair.sheet->table().rows;
  std::vector<const Column*> keys;
  if (pair.split != nullptr) keys.push_back(pair.split);
  const Grouping grouping = group_rows(keys, rows);
  std::vector<Series> all(grouping.groups);
  std::vector<bool> broken(grouping.groups, false);
  for (std::size_t row = 0; row < rows; ++row) {
    const std::size_t group = grouping.group_of_row[row];
    Series& series = all[group];
    ++series.rows;
    if (series.label.empty()) {
      series.label = series_label(pair, plot);
      if (pair.split != nullptr) {
        const std::string value = pair.split->null(row) ? "null" : cell_text(*pair.split, row);
        const bool alone = plot.sheets.size() < 2 && plot.y.size() < 2;
        series.label = alone ? value : series.label + ", " + value;
      }
    }
    if (pair.x->null(row) || pair.y->null(row)) {
      broken[group] = true;
      continue;
    }
    const double x = to_x(pair.x->number(row));
    const double y = to_y(pair.y->number(row));
    if ((axes.x.logarithmic && x <= 0) || (axes.y.logarithmic && y <= 0)) {
      ++series.not_positive;
      broken[group] = true;
      continue;
    }
    if (broken[group]) series.breaks.push_back(series.x.size());
    broken[group] = false;
    series.x.push_back(x);
    series.y.push_back(y);
  }
  for (Series& series : all) {
    series.joined = plot.joined;
    if (series.label.empty()) series.label = series_label(pair, plot);
  }
  return all;
}

void add_notes(const std::string& plot, const Series& series, std::vector<std::string>& notes) {
  const std::size_t null = series.rows - series.x.size() - series.not_positive;
  if (null > 0) {
    notes.push_back(fmt::format("plot {}: {} of {} points of {} not drawn: a value is null", plot, null,
                                series.rows, series.label));
  }
  if (series.not_positive > 0) {
    notes.push_back(fmt::format("plot {}: {} of {} points of {} not drawn: not above 0 on a logarithmic axis",
                                plot, series.not_positive, series.rows, series.label));
  }
}

}  // namespace

std::vector<BuiltFigure> build_figures(PreparedStudy& prepared) {
  std::vector<BuiltFigure> figures;
  Diagnostics none;
  for (const PlotModel& plot : prepared.study.plots) {
    const std::vector<Pair> pairs = pairs_of(prepared, plot, none);
    if (pairs.empty()) continue;
    const Axes axes = axes_of(plot, pairs, prepared.units, none);
    Scatter scatter;
    scatter.title = plot.title;
    scatter.x_label = axis_label(*pairs.front().x, axes.x_unit);
    scatter.y_label = y_axis_label(pairs, axes.y_unit);
    scatter.x_wish = axes.x;
    scatter.y_wish = axes.y;
    BuiltFigure built;
    for (const Pair& pair : pairs) {
      std::vector<Series> all = series_of(pair, plot, axes);
      if (plot.fit && pair.split == nullptr) add_curve(prepared, plot, pair, axes, all.front());
      for (Series& series : all) {
        add_notes(plot.name, series, built.notes);
        scatter.series.push_back(std::move(series));
      }
    }
    built.name = plot.name;
    built.formats = plot.formats;
    built.figure = build_scatter(scatter);
    figures.push_back(std::move(built));
  }
  return figures;
}

}  // namespace opensum
