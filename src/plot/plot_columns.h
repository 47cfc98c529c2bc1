// The columns of a plot: what stands against what, on which axis and in which unit.
#pragma once

#include <string>
#include <vector>

#include "figure/chart.h"
#include "message/diagnostic.h"
#include "study/prepared_study.h"

namespace opensum {

/// A pair of columns that makes a series, or one for each value of the column that splits it.
struct PlotPair {
  RunSheet* sheet = nullptr;
  std::size_t sheet_number = 0;
  const Column* x = nullptr;        ///< a null pointer for boxes without one
  const Column* y = nullptr;        ///< a null pointer for a histogram
  const Column* y_error = nullptr;  ///< a null pointer for none
  const Column* x_error = nullptr;
  const Column* by = nullptr;
  const Column* shade = nullptr;  ///< what is shown as colour; a null pointer for none
  const Passage* x_text = nullptr;
  const Passage* y_text = nullptr;
  bool right_axis = false;
  const SeriesModel* model = nullptr;  ///< where series are given one by one
  /// The fits that may have fitted a curve to it: the one named, or the one that a model implies.
  std::vector<std::string> fits;
  /// The column whose values are drawn or counted.
  const Column* drawn() const { return y != nullptr ? y : x; }
};

/// The rows of which the points of a pair are made: those of its sheet, or those that came in place of them.
struct PairRows {
  PlotPair pair;  ///< with its columns there
  std::size_t rows = 0;
  const std::vector<std::size_t>* counts =
      nullptr;  ///< how many rows each stands for; a null pointer for one
};

/// Those of a pair, by its number, of the plot of a number.
PairRows rows_of_pair(const PreparedStudy& prepared, std::size_t plot, std::size_t number,
                      const PlotPair& pair);

/// The axes of a plot: their units and what is asked of them.
struct PlotAxes {
  AxisKind x_kind = AxisKind::number;
  AxisKind y_kind = AxisKind::number;  ///< of a field of cells also names or dates
  Unit x_unit;
  Unit y_unit;
  Unit right_unit;
  Unit shade_unit;
  ScaleWish x;
  ScaleWish y;
  ScaleWish right;
  ScaleWish shade;
  std::vector<Marking> markings;
};

/// `kW (duty)`: the unit of a column and whose it is, for messages.
std::string unit_of_column(const Column& column);

/// The measured column that a filled one fills; a null pointer for all others.
const Column* measured_of(const Table& table, const Column& column);

/// The fits that a plot implies by naming models, whose names no study can give.
std::vector<FitModel> implied_fits(const PlotModel& plot);

/// The pairs of a plot. Names that lead nowhere and kinds that cannot be drawn are reported.
std::vector<PlotPair> plot_pairs(PreparedStudy& prepared, const PlotModel& plot, Diagnostics& diagnostics);

/// The axes of at least one pair. Units and ends that do not fit them are reported.
PlotAxes plot_axes(const PlotModel& plot, const std::vector<PlotPair>& pairs, const UnitSystem& units,
                   Diagnostics& diagnostics);

}  // namespace opensum
