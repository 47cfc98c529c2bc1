// The plots of a study: checked before computing, built from the columns afterwards.
#pragma once

#include <string>
#include <vector>

#include "figure/marks.h"
#include "message/diagnostic.h"
#include "run/prepare.h"

namespace opensum {

/// What the fit is called that a plot implies by naming a model, for one of its y.
std::string implied_fit(const PlotModel& plot, const Passage& y);

/// Reports plots of columns that do not exist, are no numbers or do not share a dimension.
void check_plots(PreparedStudy& prepared, Diagnostics& diagnostics);

struct BuiltFigure {
  std::string name;
  Figure figure;
  std::vector<std::string> formats;
  std::vector<std::string> notes;
};

/// The figures of a computed study.
std::vector<BuiltFigure> build_figures(PreparedStudy& prepared);

}  // namespace opensum
