// The plots of a study: checked before computing, built from the columns afterwards.
#pragma once

#include <string>
#include <vector>

#include "figure/marks.h"
#include "message/diagnostic.h"
#include "run/prepare.h"

namespace opensum {

/// Reports plots of columns that do not exist, are no numbers or do not share a dimension, and everything
/// else that is wrong with them.
void check_plots(PreparedStudy& prepared, Diagnostics& diagnostics);

struct BuiltFigure {
  std::string name;
  std::string title;
  std::vector<std::string> axes;    ///< their labels
  std::vector<std::string> legend;  ///< what it shows
  Figure figure;
  std::vector<std::string> formats;
  std::vector<std::string> notes;
};

/// The figures of a computed study.
std::vector<BuiltFigure> build_figures(PreparedStudy& prepared);

}  // namespace opensum
