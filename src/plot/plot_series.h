// The columns of a plot as a chart: its series with their points, curves and bands.
#pragma once

#include <string>
#include <vector>

#include "base/result.h"
#include "figure/chart.h"
#include "plot/plot_columns.h"

namespace opensum {

/// The chart of a plot of a computed study; `notes` are what a reader of the summary must know of it.
Chart chart_of(PreparedStudy& prepared, const PlotModel& plot, std::vector<std::string>& notes);

/// The curve that a plot gives as an expression in x, of the columns of a pair; nothing after a reported
/// error.
Result<CurveFunction> plot_curve(const PreparedStudy& prepared, const PlotModel& plot, const PlotPair& pair,
                                 Diagnostics& diagnostics);

/// A column's label with the unit in which it is shown, typeset.
std::string axis_label(const std::string& label, const Unit& unit);

}  // namespace opensum
