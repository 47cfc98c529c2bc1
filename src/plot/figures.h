// The plots of a study: checked before computing, built from the columns afterwards.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "engine/executor.h"
#include "figure/marks.h"
#include "message/diagnostic.h"
#include "study/prepared_study.h"

namespace opensum {

/// Reports plots of columns that do not exist, are no numbers or do not share a dimension, and everything
/// else that is wrong with them.
void check_plots(PreparedStudy& prepared, Diagnostics& diagnostics);

/// What the figures of a study need of the columns of its sheets, by sheet.
std::vector<LastWishes> wishes_of_figures(PreparedStudy& prepared);

struct BuiltFigure {
  std::string name;
  std::string title;
  std::string caption;
  std::vector<std::string> series;  ///< what they are called
  std::vector<std::string> axes;    ///< their labels
  std::vector<std::string> legend;  ///< what it shows
  Figure figure;
  std::vector<std::string> formats;
  std::vector<std::string> notes;
  /// As drawn, by format.
  std::map<std::string, std::string> drawings;
};

/// Draws figures in the formats of their plots, and as SVG for the report.
void draw_figures(std::vector<BuiltFigure>& figures);

/// The figures of a computed study.
std::vector<BuiltFigure> build_figures(PreparedStudy& prepared, Diagnostics& diagnostics);

}  // namespace opensum
