// The plots of a study.
#include "run/figures.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "figure/scatter.h"
#include "message/nearest.h"
#include "table/number_text.h"

namespace opensum {
namespace {

// A pair of columns that makes a series.
struct Pair {
  const RunSheet* sheet = nullptr;
  const Column* x = nullptr;
  const Column* y = nullptr;
  const Passage* y_text = nullptr;
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

const Column* column_of(const RunSheet& sheet, const Passage& name, Diagnostics& diagnostics) {
  const int index = sheet.plan.scope.find_column(name.text(), false);
  if (index < 0) {
    diagnostics.add(Code::unknown_column, name.place(),
                    {name.text(), sheet.model->name, nearest_name(name.text(), sheet.plan.scope.names())});
    return nullptr;
  }
  if (sheet.plan.scope.columns[static_cast<std::size_t>(index)].broken) return nullptr;
  const Column* column = &sheet.table().columns[sheet.plan.scope.meant_by(static_cast<std::size_t>(index))];
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
      if (x != nullptr && y != nullptr) pairs.push_back({sheet, x, y, &name});
    }
  }
  return pairs;
}

std::string words(const Column& column) { return fmt::format("{} ({})", column.unit.text(), column.symbol); }

std::string axis_label(const Column& column) {
  if (column.unit.parts.empty()) return column.label;
  return column.label + " [" + column.unit.typeset() + "]";
}

std::string series_label(const Pair& pair, const PlotModel& plot) {
  if (plot.sheets.size() > 1 && plot.y.size() > 1) return pair.sheet->model->name + ", " + pair.y->label;
  return plot.sheets.size() > 1 ? pair.sheet->model->name : pair.y->label;
}

// The labels of the quantities that share the axis, or the unit alone where they are many: the legend names
// them.
std::string y_axis_label(const std::vector<Pair>& pairs) {
  constexpr std::size_t kMostLabels = 2;
  std::vector<std::string> labels;
  for (const Pair& pair : pairs) {
    if (std::find(labels.begin(), labels.end(), pair.y->label) == labels.end())
      labels.push_back(pair.y->label);
  }
  const Unit& unit = pairs.front().y->unit;
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
void add_curve(const PreparedStudy& prepared, const PlotModel& plot, const Pair& pair, const Conversion& to_x,
               const Conversion& to_y, Series& series) {
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
      const Conversion from_x = conversion(fit.x.unit, pair.x->unit);
      const Conversion from_y = conversion(fit.y.unit, pair.y->unit);
      for (int piece = 0; piece <= kPieces; ++piece) {
        const double x = curve.x_least + (curve.x_greatest - curve.x_least) * piece / kPieces;
        const double y = curve_at(fit.curve, curve.parameters, x);
        if (!std::isfinite(y)) continue;
        series.curve_x.push_back(to_x(from_x(x)));
        series.curve_y.push_back(to_y(from_y(y)));
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

std::vector<BuiltFigure> build_figures(PreparedStudy& prepared) {
  std::vector<BuiltFigure> figures;
  Diagnostics none;
  for (const PlotModel& plot : prepared.study.plots) {
    const std::vector<Pair> pairs = pairs_of(prepared, plot, none);
    if (pairs.empty()) continue;
    Scatter scatter;
    scatter.title = plot.title;
    scatter.x_label = axis_label(*pairs.front().x);
    scatter.y_label = y_axis_label(pairs);
    BuiltFigure built;
    for (const Pair& pair : pairs) {
      const Conversion to_x = conversion(pair.x->unit, pairs.front().x->unit);
      const Conversion to_y = conversion(pair.y->unit, pairs.front().y->unit);
      Series series;
      series.label = series_label(pair, plot);
      series.rows = pair.sheet->table().rows;
      for (std::size_t row = 0; row < series.rows; ++row) {
        if (pair.x->null(row) || pair.y->null(row)) continue;
        series.x.push_back(to_x(pair.x->number(row)));
        series.y.push_back(to_y(pair.y->number(row)));
      }
      if (series.x.size() < series.rows) {
        built.notes.push_back(fmt::format("plot {}: {} of {} points of {} not drawn: a value is null",
                                          plot.name, series.rows - series.x.size(), series.rows,
                                          series.label));
      }
      if (plot.fit) add_curve(prepared, plot, pair, to_x, to_y, series);
      scatter.series.push_back(std::move(series));
    }
    built.name = plot.name;
    built.formats = plot.formats;
    built.figure = build_scatter(scatter);
    figures.push_back(std::move(built));
  }
  return figures;
}

}  // namespace opensum
