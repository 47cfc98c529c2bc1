// Reading a plot of a study.
#include "files/plot_reader.h"

#include <algorithm>
#include <tuple>

#include "base/result.h"
#include "files/key_reader.h"

namespace opensum {
namespace {

class PlotReader : private KeyReader {
 public:
  using KeyReader::KeyReader;

  std::optional<PlotModel> run(const Entry& entry) {
    const toml::table* table = table_of(entry);
    if (table == nullptr) return std::nullopt;
    PlotModel plot;
    plot.name = entry.key;
    plot.place = entry.place;
    Handlers settings = {
        {"title", [&](const Entry& e) { read_string(e, plot.title); }},
        {"caption", [&](const Entry& e) { read_string(e, plot.caption); }},
        {"kind",
         [&](const Entry& e) {
           const auto kind = word_of(e, plot_kinds());
           if (kind) plot.kind = static_cast<PlotKind>(*kind);
         }},
        {"x", [&](const Entry& e) { plot.x = passage_of(e); }},
        {"y", [&](const Entry& e) { plot.y = passages_of(e); }},
        {"y2", [&](const Entry& e) { plot.y2 = passages_of(e); }},
        {"y_error", [&](const Entry& e) { plot.y_error = passage_of(e); }},
        {"sheet", [&](const Entry& e) { plot.sheets = passages_of(e); }},
        {"sheets", [&](const Entry& e) { plot.sheets = passages_of(e); }},
        {"keep", [&](const Entry& e) { plot.keep = passage_of(e); }},
        {"by", [&](const Entry& e) { plot.by = passage_of(e); }},
        {"shade", [&](const Entry& e) { plot.shade = passage_of(e); }},
        {"mark", [&](const Entry& e) { read_marks(e, plot); }},
        {"fit", [&](const Entry& e) { plot.fit = passage_of(e); }},
        {"confidence", [&](const Entry& e) { read_confidence(e, plot.confidence); }},
        {"residuals", [&](const Entry& e) { read_truth(e, plot.residuals); }},
        {"curve", [&](const Entry& e) { plot.curve = passage_of(e); }},
        {"bins", [&](const Entry& e) { read_count(e, 1, plot.bins, kMostBins); }},
        {"legend", [&](const Entry& e) { plot.legend = word_of(e, legend_places()).value_or(0); }},
        {"size", [&](const Entry& e) { plot.size = passage_of(e); }},
        {"series", [&](const Entry& e) { read_series(e, plot); }},
        {"panels", [&](const Entry& e) { plot.panels = passages_of(e); }},
        {"columns", [&](const Entry& e) { read_count(e, 1, plot.columns, kMostPanelColumns); }},
        {"formats", [&](const Entry& e) { read_formats(e, plot); }}};
    add_axis_settings(settings, "x", plot.x_axis);
    add_axis_settings(settings, "y", plot.y_axis);
    add_axis_settings(settings, "y2", plot.y2_axis);
    add_axis_settings(settings, "shade", plot.shade_axis);
    read_table(*table, settings);
    if (!is_complete(plot, *table, entry)) return std::nullopt;
    return plot;
  }

 private:
  // Whether a plot says what it shows; what it lacks or has too much is reported.
  bool is_complete(const PlotModel& plot, const toml::table& table, const Entry& entry) {
    if (!plot.panels.empty()) {
      for (const char* key : {"x", "y", "y2", "series"}) {
        if (!table.contains(key)) continue;
        diagnostics_.add(Code::plot_of_panels, entry.place, {key});
        return false;
      }
      return true;
    }
    if (!plot.series.empty() || table.contains("series")) return !plot.series.empty();
    const bool counted = plot.kind == PlotKind::histogram;
    if (counted && (!plot.y.empty() || !plot.y2.empty())) {
      diagnostics_.add(Code::plot_of_counts,
                       plot.y.empty() ? plot.y2.front().place() : plot.y.front().place(), {});
      return false;
    }
    const bool no_x = plot.kind == PlotKind::box;
    bool whole = true;
    for (const auto& [key, given, needed] :
         {std::tuple("x", plot.x.has_value(), !no_x), std::tuple("y", !plot.y.empty(), !counted),
          std::tuple("shade", plot.shade.has_value(), plot.kind == PlotKind::cells)}) {
      if (given || !needed) continue;
      whole = false;
      if (!table.contains(key)) diagnostics_.add(Code::key_missing, entry.place, {key});
    }
    return whole;
  }

  // The keys of an axis begin with its name.
  void add_axis_settings(Handlers& settings, const std::string& name, AxisModel& axis) {
    settings.emplace_back(name + "_unit", [this, &axis](const Entry& e) { axis.unit = passage_of(e); });
    settings.emplace_back(name + "_scale", [this, &axis](const Entry& e) {
      set_scale(axis, word_of(e, axis_scales()).value_or(0));
    });
    settings.emplace_back(name + "_range", [this, &axis](const Entry& e) { read_range(e, axis); });
  }

  // A share of certainty, as `"95 %"`, 95 or 0.95.
  void read_confidence(const Entry& entry, std::optional<double>& into) {
    const auto text = end_of(*entry.value);
    into = text ? share_of(text->text()) : std::nullopt;
    if (!into) wrong_type(entry, "a share such as \"95 %\"");
  }

  void read_series(const Entry& entry, PlotModel& plot) {
    const toml::array* list = entry.value->as_array();
    if (list == nullptr || !list->is_array_of_tables()) {
      return wrong_type(entry, "a list of tables, [[plot.NAME.series]] for each series");
    }
    for (const toml::node& item : *list) {
      SeriesModel series;
      series.place = toml_.place(item);
      read_table(*item.as_table(), {{"sheet", [&](const Entry& e) { series.sheet = passage_of(e); }},
                                    {"x", [&](const Entry& e) { series.x = passage_of(e); }},
                                    {"y", [&](const Entry& e) { series.y = passage_of(e); }},
                                    {"y_error", [&](const Entry& e) { series.y_error = passage_of(e); }},
                                    {"label", [&](const Entry& e) { read_string(e, series.label); }},
                                    {"fit", [&](const Entry& e) { series.fit = passage_of(e); }},
                                    {"marker", [&](const Entry& e) { series.marker = passage_of(e); }},
                                    {"color", [&](const Entry& e) { series.color = passage_of(e); }},
                                    {"line",
                                     [&](const Entry& e) {
                                       const auto style = word_of(e, {"none", "solid", "dashed", "dotted"});
                                       if (style) series.line = static_cast<LineStyle>(*style);
                                     }},
                                    {"axis", [&](const Entry& e) {
                                       series.right_axis = word_of(e, {"left", "right"}) == 1;
                                     }}});
      const bool counted = plot.kind == PlotKind::histogram;
      const bool has_x = series.x || plot.x || plot.kind == PlotKind::box;
      const bool has_y = series.y || plot.y.size() == 1 || counted;
      if (!has_x || !has_y) {
        diagnostics_.add(Code::key_missing, series.place, {has_x ? "y" : "x"});
        continue;
      }
      plot.series.push_back(std::move(series));
    }
  }

  // A number or a text as it is written; nothing for others.
  std::optional<Passage> end_of(const toml::node& node) {
    if (const auto* text = node.as_string()) return toml_.passage(*text);
    const Place place = toml_.place(node);
    if (node.is_number()) return Passage(place.source, place.span.begin, toml_.written(place));
    return std::nullopt;
  }

  // Two ends, each a number or a text.
  void read_range(const Entry& entry, AxisModel& axis) {
    const toml::array* ends = entry.value->as_array();
    if (ends == nullptr || ends->size() != 2) return wrong_type(entry, "a list of two ends, such as [0, 25]");
    for (const toml::node& node : *ends) {
      const auto end = end_of(node);
      if (!end) {
        axis.range.clear();
        return wrong_type(entry, "a list of two ends, such as [0, 25]");
      }
      axis.range.push_back(*end);
    }
  }

  // A value, or a list of the two ends of a range.
  void read_marked(const Entry& entry, MarkModel& mark) {
    constexpr const char* kForm = "a value such as \"5 L/min\", or a list of two";
    mark.ends.clear();
    if (const toml::array* ends = entry.value->as_array()) {
      if (ends->size() != 2) return wrong_type(entry, kForm);
      for (const toml::node& node : *ends) {
        if (const auto end = end_of(node)) mark.ends.push_back(*end);
      }
      if (mark.ends.size() == 2) return;
      mark.ends.clear();
      return wrong_type(entry, kForm);
    }
    if (const auto value = end_of(*entry.value)) {
      mark.ends.push_back(*value);
    } else {
      wrong_type(entry, kForm);
    }
  }

  void read_marks(const Entry& entry, PlotModel& plot) {
    const toml::array* list = entry.value->as_array();
    if (list == nullptr || !list->is_array_of_tables())
      return wrong_type(entry, "a list of tables, [[plot.NAME.mark]] for each mark");
    for (const toml::node& item : *list) {
      MarkModel mark;
      mark.place = toml_.place(item);
      std::size_t axes = 0;
      const auto read = [&](const Entry& e) {
        mark.of_x = e.key == "x";
        mark.right_axis = e.key == "y2";
        ++axes;
        read_marked(e, mark);
      };
      read_table(*item.as_table(), {{"x", read}, {"y", read}, {"y2", read}, {"label", [&](const Entry& e) {
                                                                               read_string(e, mark.label);
                                                                             }}});
      if (axes != 1) {
        diagnostics_.add(Code::key_missing, mark.place, {"x` or `y"});
      } else if (!mark.ends.empty()) {
        plot.marks.push_back(std::move(mark));
      }
    }
  }

  void read_formats(const Entry& entry, PlotModel& plot) {
    plot.formats.clear();
    for (const Passage& format : passages_of(entry)) {
      const std::string& word = format.text();
      if (word == "png" || word == "svg" || word == "pdf") {
        plot.formats.push_back(word);
      } else {
        diagnostics_.add(Code::unknown_value, format.place(), {word, "\"png\", \"svg\" or \"pdf\""});
      }
    }
  }
};

}  // namespace

Result<PlotModel> read_plot(const TomlText::Entry& entry, const TomlText& toml, Diagnostics& diagnostics) {
  return PlotReader(toml, diagnostics).run(entry);
}

}  // namespace opensum
