// The plots of a study.
#include "run/figures.h"

#include <fmt/format.h>

#include <algorithm>

#include "figure/scatter.h"
#include "message/nearest.h"

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

}  // namespace

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
