// The columns of a plot.
#include "plot/plot_columns.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/result.h"
#include "equation/checker.h"
#include "message/nearest.h"
#include "plan/quantity.h"
#include "table/date_text.h"
#include "table/number_text.h"

namespace opensum {
namespace {

std::string implied_name(const PlotModel& plot, std::size_t number) {
  return number == 0 ? "plot." + plot.name : fmt::format("plot.{}.{}", plot.name, number + 1);
}

// Gathers the pairs of a plot.
class PairFinder {
 public:
  PairFinder(PreparedStudy& prepared, const PlotModel& plot, Diagnostics& diagnostics)
      : prepared_(prepared), plot_(plot), diagnostics_(diagnostics) {}

  std::vector<PlotPair> run() {
    if (!plot_.series.empty()) {
      for (std::size_t i = 0; i < plot_.series.size(); ++i) add_series(i);
    } else {
      for (RunSheet* sheet : sheets_of(plot_.sheets)) {
        std::size_t number = 0;
        if (plot_.kind == PlotKind::histogram) add(pair_in(sheet), *sheet, nullptr, number);
        for (const Passage& y : plot_.y) add(pair_in(sheet), *sheet, &y, number++);
        for (const Passage& y : plot_.y2) {
          PlotPair pair = pair_in(sheet);
          pair.right_axis = true;
          add(std::move(pair), *sheet, &y, number++);
        }
      }
    }
    // Without anything on the left there is no second axis.
    if (std::all_of(pairs_.begin(), pairs_.end(), [](const PlotPair& pair) { return pair.right_axis; })) {
      for (PlotPair& pair : pairs_) pair.right_axis = false;
    }
    return std::move(pairs_);
  }

 private:
  static PlotPair pair_in(RunSheet* sheet) {
    PlotPair pair;
    pair.sheet = sheet;
    return pair;
  }

  std::vector<RunSheet*> sheets_of(const std::vector<Passage>& wanted) {
    std::vector<RunSheet*> sheets;
    const std::vector<RunSheet*> shown = prepared_.shown_sheets();
    if (wanted.empty()) {
      // With a single sheet there is nothing to choose.
      if (shown.size() == 1) {
        sheets.push_back(shown.front());
      } else {
        diagnostics_.add(Code::key_missing, plot_.place, {"sheet"});
      }
      return sheets;
    }
    std::vector<std::string> names;
    for (const RunSheet* sheet : shown) names.push_back(sheet->model->name);
    for (const Passage& name : wanted) {
      if (RunSheet* sheet = prepared_.find_sheet(name.text())) {
        sheets.push_back(sheet);
      } else {
        diagnostics_.add(Code::unknown_sheet, name.place(), {name.text(), nearest_name(name.text(), names)});
      }
    }
    return sheets;
  }

  void add_series(std::size_t number) {
    const SeriesModel& series = plot_.series[number];
    std::vector<Passage> wanted = plot_.sheets;
    if (series.sheet) wanted = {*series.sheet};
    for (RunSheet* sheet : sheets_of(wanted)) {
      PlotPair pair = pair_in(sheet);
      pair.right_axis = series.right_axis;
      pair.model = &series;
      const Passage* y = series.y ? &*series.y : plot_.y.empty() ? nullptr : &plot_.y.front();
      add(std::move(pair), *sheet, y, number);
    }
  }

  void add(PlotPair pair, const RunSheet& sheet, const Passage* y, std::size_t number) {
    while (prepared_.sheets[pair.sheet_number].get() != pair.sheet) ++pair.sheet_number;
    const std::optional<Passage>& x = pair.model != nullptr && pair.model->x ? pair.model->x : plot_.x;
    const std::optional<Passage>& error =
        pair.model != nullptr && pair.model->y_error ? pair.model->y_error : plot_.y_error;
    const std::optional<Passage>& fit =
        pair.model != nullptr && pair.model->fit ? pair.model->fit : plot_.fit;
    bool good = true;
    const auto find = [&](const Passage& name, bool number_only) -> const Column* {
      const Column* column = column_of(sheet, name, number_only);
      good = good && column != nullptr;
      return column;
    };
    const bool free_x = plot_.kind != PlotKind::histogram && plot_.kind != PlotKind::residuals;
    const bool free_y = plot_.kind == PlotKind::cells;
    if (x) {
      pair.x_text = &*x;
      pair.x = find(*x, false);
      if (pair.x != nullptr && !free_x && pair.x->kind != Kind::number && pair.x->kind != Kind::date) {
        diagnostics_.add(Code::plot_needs_number, x->place(), {x->text(), kind_name(pair.x->kind)});
        good = false;
      }
    }
    if (y != nullptr) {
      pair.y_text = y;
      pair.y = find(*y, !free_y);
    }
    if (plot_.shade) pair.shade = find(*plot_.shade, true);
    if (plot_.by) pair.by = find(*plot_.by, false);
    if (error) {
      pair.y_error = find(*error, true);
    } else if (pair.y != nullptr && plot_.kind != PlotKind::box && plot_.kind != PlotKind::cells) {
      pair.y_error = uncertainty_of(sheet, *y);
    }
    const bool points = plot_.kind == PlotKind::points || plot_.kind == PlotKind::line;
    if (pair.x != nullptr && pair.y != nullptr && points) pair.x_error = uncertainty_of(sheet, *x);
    if (fit) pair.fits = {fit->text(), implied_name(plot_, number)};
    if (good) pairs_.push_back(std::move(pair));
  }

  // A column; a null pointer after a reported error or in silence where it has its own.
  const Column* column_of(const RunSheet& sheet, const Passage& name, bool number_only) {
    const Scope& scope = sheet.plan.scope;
    const auto index = scope.find_column(name.text(), false);
    if (!index) {
      diagnostics_.add(Code::unknown_column, name.place(),
                       {name.text(), sheet.model->name, nearest_name(name.text(), scope.names())});
      return nullptr;
    }
    if (scope.columns[*index].broken) return nullptr;
    const Column& column = sheet.table().columns[scope.meant_by(*index)];
    if (!number_only || column.kind == Kind::number) return &column;
    diagnostics_.add(Code::plot_needs_number, name.place(), {name.text(), kind_name(column.kind)});
    return nullptr;
  }

  // The column that holds the uncertainty of another, if that has one.
  static const Column* uncertainty_of(const RunSheet& sheet, const Passage& name) {
    const Scope& scope = sheet.plan.scope;
    const auto own = scope.find_column(name.text(), false);
    const std::size_t column = scope.meant_by(*own);
    const std::vector<UncertainColumn>& known = sheet.plan.uncertainty.columns;
    const auto found = std::find_if(known.begin(), known.end(),
                                    [&](const UncertainColumn& each) { return each.column == column; });
    return found == known.end() ? nullptr : &sheet.table().columns[found->index];
  }

  PreparedStudy& prepared_;
  const PlotModel& plot_;
  Diagnostics& diagnostics_;
  std::vector<PlotPair> pairs_;
};

// The unit of an axis: the one that is asked for, else that of the first column on it.
Unit axis_unit(const AxisModel& axis, const Column& first, const UnitSystem& units,
               Diagnostics& diagnostics) {
  if (!axis.unit) return first.unit;
  const UnitReading reading = units.read(axis.unit->text());
  if (!reading.unit) {
    report_unit_fault(reading, *axis.unit, {0, axis.unit->text().size()}, diagnostics);
    return first.unit;
  }
  if (mismatch(*reading.unit, first.unit)) {
    diagnostics.add(Code::plot_units_differ, axis.unit->place(),
                    {unit_of_column(first), reading.unit->text()});
    return first.unit;
  }
  return *reading.unit;
}

// An end such as `0`, `5 kJ`, `2031-04-02` or `auto`, in the unit of the axis.
Result<double> range_end(const Passage& end, AxisKind kind, const Unit& unit, const UnitSystem& units,
                         Diagnostics& diagnostics) {
  const std::string& text = end.text();
  if (text == "auto") return std::nullopt;
  if (kind == AxisKind::date) {
    if (const auto date = read_date(text)) return date->seconds;
    diagnostics.add(Code::plot_range, end.place(), {text, "dates such as 2031-04-02"});
    return std::nullopt;
  }
  const auto quantity = read_quantity(text, units);
  if (quantity && std::isfinite(quantity->value)) {
    if (!quantity->unit_stated) return quantity->value;
    if (!mismatch(quantity->unit, unit)) return conversion(quantity->unit, unit)(quantity->value);
  }
  diagnostics.add(Code::plot_range, end.place(), {text, unit.is_one() ? "a plain number" : unit.text()});
  return std::nullopt;
}

ScaleWish wish_of(const AxisModel& axis, AxisKind kind, const Unit& unit, const UnitSystem& units,
                  Diagnostics& diagnostics) {
  ScaleWish wish;
  wish.logarithmic = axis.logarithmic && kind == AxisKind::number;
  wish.reversed = axis.reversed;
  if (axis.range.empty() || kind == AxisKind::names) return wish;
  wish.low = range_end(axis.range[0], kind, unit, units, diagnostics);
  wish.high = range_end(axis.range[1], kind, unit, units, diagnostics);
  if (wish.low && wish.high && *wish.low >= *wish.high) {
    diagnostics.add(Code::plot_range_order, axis.range[1].place(), {});
  }
  for (std::size_t i = 0; i < 2; ++i) {
    const auto& end = i == 0 ? wish.low : wish.high;
    if (wish.logarithmic && end && *end <= 0)
      diagnostics.add(Code::plot_range_log, axis.range[i].place(), {});
  }
  return wish;
}

AxisKind kind_of_column(const Column& column) {
  if (column.kind == Kind::date) return AxisKind::date;
  return column.kind == Kind::number ? AxisKind::number : AxisKind::names;
}

// Boxes stand at the values of x, whatever kind these are.
AxisKind kind_of_axis(const PlotModel& plot, const Column* x) {
  return x == nullptr || plot.kind == PlotKind::box ? AxisKind::names : kind_of_column(*x);
}

// What is marked on an axis, in its unit.
std::vector<Marking> markings_of(const PlotModel& plot, const PlotAxes& axes, bool has_right,
                                 const UnitSystem& units, Diagnostics& diagnostics) {
  std::vector<Marking> markings;
  for (const MarkModel& mark : plot.marks) {
    if (mark.right_axis && !has_right) {
      diagnostics.add(Code::key_missing, mark.place, {"y2"});
      continue;
    }
    const AxisKind kind = mark.of_x ? axes.x_kind : axes.y_kind;
    if (kind == AxisKind::names) {
      diagnostics.add(Code::plot_range, mark.ends.front().place(),
                      {mark.ends.front().text(), "an axis of numbers"});
      continue;
    }
    const Unit& unit = mark.of_x ? axes.x_unit : mark.right_axis ? axes.right_unit : axes.y_unit;
    const auto low = range_end(mark.ends.front(), kind, unit, units, diagnostics);
    const auto high = range_end(mark.ends.back(), kind, unit, units, diagnostics);
    if (!low || !high) continue;
    if (mark.ends.size() == 2 && *low >= *high) {
      diagnostics.add(Code::plot_range_order, mark.ends.back().place(), {});
      continue;
    }
    markings.push_back(
        {.of_x = mark.of_x, .right_axis = mark.right_axis, .low = *low, .high = *high, .label = mark.label});
  }
  return markings;
}

}  // namespace

PairRows rows_of_pair(const PreparedStudy& prepared, std::size_t plot, std::size_t number,
                      const PlotPair& pair) {
  const auto thinned = prepared.thinned.find({plot, number});
  if (thinned == prepared.thinned.end()) return {pair, pair.sheet->table().rows, nullptr};
  const ThinnedPoints& points = thinned->second;
  PairRows rows{pair, points.counts.size(), &points.counts};
  rows.pair.x = &points.x;
  rows.pair.y = &points.y;
  if (points.by) rows.pair.by = &*points.by;
  return rows;
}

std::string unit_of_column(const Column& column) {
  return fmt::format("{} ({})", column.unit.text(), column.symbol);
}

const Column* measured_of(const Table& table, const Column& column) {
  if (column.fills.empty()) return nullptr;
  std::size_t index = 0;
  while (&table.columns[index] != &column) ++index;
  return &table.columns[index - 1];
}

std::vector<FitModel> implied_fits(const PlotModel& plot) {
  std::vector<FitModel> fits;
  const auto add = [&](const std::optional<Passage>& model, const std::optional<Passage>& x, const Passage& y,
                       const std::vector<Passage>& sheets, std::size_t number) {
    if (!model || !x) return;
    FitModel fit;
    fit.name = implied_name(plot, number);
    fit.place = plot.place;
    fit.sheets = sheets;
    fit.x = *x;
    fit.y = y;
    fit.model = *model;
    fit.keep = plot.keep;
    fit.by = plot.by;
    fits.push_back(std::move(fit));
  };
  for (std::size_t i = 0; i < plot.series.size(); ++i) {
    const SeriesModel& series = plot.series[i];
    if (!series.y && plot.y.empty()) continue;
    add(series.fit ? series.fit : plot.fit, series.x ? series.x : plot.x,
        series.y ? *series.y : plot.y.front(),
        series.sheet ? std::vector<Passage>{*series.sheet} : plot.sheets, i);
  }
  if (!plot.series.empty()) return fits;
  std::size_t number = 0;
  for (const auto* list : {&plot.y, &plot.y2}) {
    for (const Passage& y : *list) add(plot.fit, plot.x, y, plot.sheets, number++);
  }
  return fits;
}

std::vector<PlotPair> plot_pairs(PreparedStudy& prepared, const PlotModel& plot, Diagnostics& diagnostics) {
  return PairFinder(prepared, plot, diagnostics).run();
}

PlotAxes plot_axes(const PlotModel& plot, const std::vector<PlotPair>& pairs, const UnitSystem& units,
                   Diagnostics& diagnostics) {
  PlotAxes axes;
  axes.x_kind = kind_of_axis(plot, pairs.front().x);
  if (pairs.front().x != nullptr) axes.x_unit = axis_unit(plot.x_axis, *pairs.front().x, units, diagnostics);
  axes.x = wish_of(plot.x_axis, axes.x_kind, axes.x_unit, units, diagnostics);
  bool left = false;
  bool right = false;
  for (const PlotPair& pair : pairs) {
    if (pair.y == nullptr) continue;
    if (!pair.right_axis && !left && plot.kind == PlotKind::cells) axes.y_kind = kind_of_column(*pair.y);
    if (pair.right_axis && !right) axes.right_unit = axis_unit(plot.y2_axis, *pair.y, units, diagnostics);
    if (!pair.right_axis && !left) axes.y_unit = axis_unit(plot.y_axis, *pair.y, units, diagnostics);
    (pair.right_axis ? right : left) = true;
  }
  axes.y = wish_of(plot.y_axis, axes.y_kind, axes.y_unit, units, diagnostics);
  axes.right = wish_of(plot.y2_axis, AxisKind::number, axes.right_unit, units, diagnostics);
  if (const Column* shade = pairs.front().shade) {
    axes.shade_unit = axis_unit(plot.shade_axis, *shade, units, diagnostics);
    axes.shade = wish_of(plot.shade_axis, AxisKind::number, axes.shade_unit, units, diagnostics);
  }
  axes.markings = markings_of(plot, axes, right, units, diagnostics);
  return axes;
}

}  // namespace opensum
