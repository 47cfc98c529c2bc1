// A plot as a study describes it.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "message/source.h"

namespace opensum {

/// What is said of an axis.
struct AxisModel {
  std::optional<Passage> unit;
  bool logarithmic = false;
  bool reversed = false;
  /// The ends, such as `0`, `5 kJ` or `auto`; none or both.
  std::vector<Passage> range;
};

enum class PlotKind : std::uint8_t { points, line, steps, bars, histogram, box, residuals, cells };
/// The words for the kinds, in order.
std::vector<std::string> plot_kinds();

/// The words for where a legend stands; the first is where it covers the least.
std::vector<std::string> legend_places();

enum class LineStyle : std::uint8_t { none, solid, dashed, dotted };

/// One series where they are given one by one; what is not said is that of the plot.
struct SeriesModel {
  Place place;
  std::optional<Passage> sheet;
  std::optional<Passage> x;
  std::optional<Passage> y;
  std::optional<Passage> y_error;
  std::optional<Passage> fit;
  std::optional<Passage> marker;
  std::optional<Passage> color;
  std::optional<LineStyle> line;
  std::string label;
  bool right_axis = false;
};

/// A value or a range of an axis that is marked.
struct MarkModel {
  Place place;
  bool of_x = false;
  bool right_axis = false;
  std::vector<Passage> ends;  ///< one, or two of a range, such as `5 L/min`
  std::string label;
};

struct PlotModel {
  std::string name;
  Place place;
  std::string title;
  std::string caption;
  PlotKind kind = PlotKind::points;
  std::vector<Passage> sheets;
  std::optional<Passage> x;
  std::vector<Passage> y;
  std::vector<Passage> y2;  ///< on the axis on the right
  std::optional<Passage> y_error;
  std::optional<Passage> shade;  ///< a column that is shown as colour
  std::optional<Passage> keep;
  std::optional<Passage> by;         ///< a column: a series for each of its values
  std::optional<Passage> fit;        ///< the name of a fit, or a model
  std::optional<double> confidence;  ///< of the band around a fitted curve, between 0 and 1
  bool residuals = false;            ///< shown under the points
  std::optional<Passage> curve;      ///< an expression in x
  AxisModel x_axis;
  AxisModel y_axis;
  AxisModel y2_axis;
  AxisModel shade_axis;
  std::size_t legend = 0;       ///< where it stands, by its word
  std::optional<Passage> size;  ///< such as `85 x 60 mm`
  std::size_t bins = 0;         ///< of a histogram; 0 for as many as its values suggest
  std::vector<SeriesModel> series;
  std::vector<MarkModel> marks;
  std::vector<Passage> panels;  ///< other plots that stand side by side in this one
  std::size_t columns = 0;      ///< of the panels; 0 for as square as can be
  std::vector<std::string> formats = {"png", "svg", "pdf"};
};

/// A share of certainty as a number between 0 and 1, from `95 %`, `95` or `0.95`; nothing for any other.
std::optional<double> share_of(const std::string& text);

/// The words for the scale of an axis, and the axis of one of them by its number.
std::vector<std::string> axis_scales();
void set_scale(AxisModel& axis, std::size_t word);

/// The columns that a plot names.
std::vector<const Passage*> columns_named(const PlotModel& plot);

}  // namespace opensum
