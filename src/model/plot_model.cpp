// A plot as a study describes it.
#include "model/plot_model.h"

namespace opensum {

std::vector<std::string> plot_kinds() { return {"points", "line", "bars", "histogram", "box", "residuals"}; }

std::vector<std::string> legend_places() {
  return {"best", "none", "top left", "top right", "bottom left", "bottom right", "outside"};
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
  for (const SeriesModel& series : plot.series) {
    add(series.x);
    add(series.y);
    add(series.y_error);
  }
  return named;
}

}  // namespace opensum
