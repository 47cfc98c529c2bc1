// A plot as a study describes it.
#include "model/plot_model.h"

#include "table/number_text.h"

namespace opensum {

std::vector<std::string> plot_kinds() {
  return {"points", "line", "steps", "bars", "histogram", "box", "residuals", "cells"};
}

std::vector<std::string> legend_places() {
  return {"best", "none", "top left", "top right", "bottom left", "bottom right", "outside"};
}

std::optional<double> share_of(const std::string& text) {
  std::string_view number = trimmed(text);
  const bool percent = number.ends_with('%');
  if (percent) number = trimmed(number.substr(0, number.size() - 1));
  const NumberReading reading = read_number(number);
  if (reading.fault != NumberFault::none) return std::nullopt;
  // A whole one would be no band at all, so that 1 and more are percent.
  const double share = percent || reading.value >= 1 ? reading.value / 100 : reading.value;
  return share > 0 && share < 1 ? std::optional(share) : std::nullopt;
}

std::vector<std::string> axis_scales() { return {"linear", "log", "reversed", "reversed log"}; }

void set_scale(AxisModel& axis, std::size_t word) {
  axis.logarithmic = word == 1 || word == 3;
  axis.reversed = word >= 2;
}

std::vector<const Passage*> columns_named(const PlotModel& plot) {
  std::vector<const Passage*> named;
  const auto add = [&](const std::optional<Passage>& name) {
    if (name) named.push_back(&*name);
  };
  add(plot.x);
  for (const Passage& y : plot.y) named.push_back(&y);
  for (const Passage& y : plot.y2) named.push_back(&y);
  add(plot.y_error);
  add(plot.by);
  add(plot.shade);
  for (const SeriesModel& series : plot.series) {
    add(series.x);
    add(series.y);
    add(series.y_error);
  }
  return named;
}

}  // namespace opensum
