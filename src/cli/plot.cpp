// opensum plot: a figure of a table, without a study.
#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <map>
#include <memory>

#include "base/limits.h"
#include "cli/command.h"
#include "cli/file_options.h"
#include "figure/draw.h"
#include "files/output.h"
#include "plot/figures.h"
#include "report/summary.h"
#include "run/compute.h"
#include "run/prepare.h"
#include "run/write.h"

namespace opensum {
namespace {

constexpr const char* kMeaningOfX = "the column along";
constexpr const char* kMeaningOfY = "the column up, or several as a,b";

struct PlotOptions {
  FileOptions file;
  std::string x;
  std::vector<std::string> y;
  std::vector<std::string> y2;
  /// The keys of a plot that take one text, by their options.
  std::map<std::string, std::string> texts;
  std::string kind = "points";
  std::vector<std::string> x_range;
  std::vector<std::string> y_range;
  std::vector<std::string> y2_range;
  std::vector<std::string> shade_range;
  std::size_t bins = 0;
  bool residuals = false;
  std::vector<std::string> definitions;
  std::string output = "figure.png";
  bool force = false;
};

// One option says what kind a plot or a column is: `--kind box`, `--kind code=text`.
void take_plot_kind(PlotOptions& options) {
  std::vector<std::string>& kinds = options.file.kinds;
  const auto of_plot = std::stable_partition(
      kinds.begin(), kinds.end(), [](const std::string& k) { return k.find('=') != std::string::npos; });
  if (of_plot != kinds.end()) options.kind = kinds.back();
  kinds.erase(of_plot, kinds.end());
}

// Reports a column that a plot of this kind needs and that is not named.
void report_missing(const PlotOptions& options, Diagnostics& diagnostics) {
  const std::vector<std::string> kinds = plot_kinds();
  // A kind that there is not is reported instead.
  if (std::find(kinds.begin(), kinds.end(), options.kind) == kinds.end()) return;
  const std::string command = "opensum plot";
  if (options.x.empty() && options.kind != "box") {
    diagnostics.add(Code::argument_missing, {command, "--x SYMBOL", kMeaningOfX});
  } else if (options.y.empty() && options.kind != "histogram") {
    diagnostics.add(Code::argument_missing, {command, "--y SYMBOL", kMeaningOfY});
  }
}

std::optional<Passage> passage_of(const PlotOptions& options, const std::string& option) {
  const auto found = options.texts.find(option);
  if (found == options.texts.end() || found->second.empty()) return std::nullopt;
  return Passage::whole(option, found->second);
}

std::vector<Passage> passages_of(const std::string& option, const std::vector<std::string>& texts) {
  std::vector<Passage> passages;
  passages.reserve(texts.size());
  for (const std::string& text : texts) passages.push_back(Passage::whole(option, text));
  return passages;
}

// The place of a word among those that an option takes; 0 after a reported error.
std::size_t choice(const std::string& option, const std::string& word, const std::vector<std::string>& words,
                   Diagnostics& diagnostics) {
  const auto found = std::find(words.begin(), words.end(), word);
  if (found != words.end()) return static_cast<std::size_t>(found - words.begin());
  diagnostics.add(Code::option_value, {option, fmt::format("{}", fmt::join(words, ", ")), word});
  return 0;
}

AxisModel axis_of(const PlotOptions& options, const std::string& name, const std::vector<std::string>& range,
                  Diagnostics& diagnostics) {
  AxisModel axis;
  axis.unit = passage_of(options, "--" + name + "-unit");
  const std::string scale = "--" + name + "-scale";
  if (const auto word = passage_of(options, scale))
    set_scale(axis, choice(scale, word->text(), axis_scales(), diagnostics));
  const std::string ends = "--" + name + "-range";
  if (range.empty()) return axis;
  if (range.size() == 2) {
    axis.range = passages_of(ends, range);
  } else {
    diagnostics.add(Code::option_value,
                    {ends, "two ends such as 0,25 or auto,'5 kW'", fmt::format("{}", fmt::join(range, ","))});
  }
  return axis;
}

PlotModel model_of(const PlotOptions& options, Diagnostics& diagnostics) {
  PlotModel plot;
  plot.name = "plot";
  const auto text = [&](const char* option) { return passage_of(options, option); };
  if (const auto title = text("--title")) plot.title = title->text();
  plot.kind = static_cast<PlotKind>(choice("--kind", options.kind, plot_kinds(), diagnostics));
  if (!options.x.empty()) plot.x = Passage::whole("--x", options.x);
  plot.y = passages_of("--y", options.y);
  plot.y2 = passages_of("--y2", options.y2);
  plot.y_error = text("--y-error");
  plot.keep = text("--keep");
  plot.by = text("--by");
  plot.shade = text("--shade");
  plot.fit = text("--fit");
  plot.curve = text("--curve");
  plot.size = text("--size");
  if (const auto legend = text("--legend"))
    plot.legend = choice("--legend", legend->text(), legend_places(), diagnostics);
  if (const auto confidence = text("--confidence")) {
    plot.confidence = share_of(confidence->text());
    if (!plot.confidence)
      diagnostics.add(Code::option_value,
                      {"--confidence", "a share such as '95 %', 95 or 0.95", confidence->text()});
  }
  plot.residuals = options.residuals;
  plot.bins = options.bins;
  plot.x_axis = axis_of(options, "x", options.x_range, diagnostics);
  plot.y_axis = axis_of(options, "y", options.y_range, diagnostics);
  plot.y2_axis = axis_of(options, "y2", options.y2_range, diagnostics);
  plot.shade_axis = axis_of(options, "shade", options.shade_range, diagnostics);
  return plot;
}

std::optional<int> plot_table(const PlotOptions& options, Rows rows, Streams& streams) {
  Diagnostics diagnostics;
  const std::string ending = std::filesystem::path(options.output).extension().string();
  if (ending != ".png" && ending != ".svg" && ending != ".pdf") {
    diagnostics.add(Code::option_value, {"--output", "a name ending in .png, .svg or .pdf", options.output});
  }
  PlotModel plot = model_of(options, diagnostics);
  if (plot.kind == PlotKind::histogram && (!plot.y.empty() || !plot.y2.empty()))
    diagnostics.add(Code::plot_of_counts, (plot.y.empty() ? plot.y2 : plot.y).front().place(), {});
  auto sheet = sheet_of(options.file, diagnostics);
  if (!sheet || diagnostics.has_errors()) return report(diagnostics, streams);
  for (const std::string& definition : options.definitions) {
    sheet->equations.push_back({Passage::whole("definition", definition), 0});
  }
  plot.formats = {ending.substr(1)};
  Study study;
  study.sheets.push_back(std::move(*sheet));
  study.plots.push_back(std::move(plot));
  const auto prepared = prepare(std::move(study), "", {}, diagnostics, rows);
  if (diagnostics.has_errors() && is_guess(*prepared)) return std::nullopt;
  if (!diagnostics.has_errors()) compute(*prepared, wishes_of_figures(*prepared), diagnostics);
  if (const int code = report(diagnostics, streams)) return code;
  Diagnostics of_writing;
  OutputFiles files(prepared->inputs, options.force, Sharing::with_others,
                    "choose another name, or --force to replace it");
  const std::vector<BuiltFigure> figures = build_figures(*prepared, diagnostics);
  if (const int code = report(diagnostics, streams)) return code;
  const std::string drawing = figures.empty() ? "" : drawn_figure(figures.front().figure, ending.substr(1));
  if (drawing.empty()) {
    of_writing.add(Code::cannot_write, {options.output, "the drawing failed"});
  } else if (files.write(options.output, drawing, of_writing)) {
    files.commit(of_writing);
  }
  if (const int code = report(of_writing, streams)) return code;
  streams.out << fits_text(gather_facts(*prepared).fits);
  for (const std::string& note : figures.front().notes) streams.out << note << '\n';
  streams.out << "written: " << options.output << '\n';
  return static_cast<int>(Exit::done);
}

}  // namespace

void add_plot(CommandLine& command_line) {
  auto options = std::make_shared<PlotOptions>();
  Command command = command_line.add(
      "plot", "draw a figure of a table, without a study",
      "  opensum plot opensum-demo/water.csv --x Temperature --y Density --fit 'polynomial 2' "
      "--output water.png\n"
      "  opensum plot opensum-demo/day1.csv --x flow --y rise --column 'flow=Coolant flow' \\\n"
      "      --derive 'rise [K] = Outlet_temperature_A - Inlet_temperature' --output rise.svg");
  add_file_options(command, options->file);
  command.defined("--kind")
      .meaning(
          "points (default), line, steps, bars, histogram, box, residuals, cells; or of a column, as\n"
          "code=text")
      .about_reading(false)
      .value("KIND");
  command.option("--x", options->x, kMeaningOfX).value("SYMBOL");
  const auto list = [&](const char* option, std::vector<std::string>& into, const char* meaning) {
    command.option(option, into, meaning).one_value_each().comma_separated().value("SYMBOL");
  };
  list("--y", options->y, kMeaningOfY);
  list("--y2", options->y2, "the column on the axis on the right, or several");
  const auto text = [&](const char* option, const char* type, const char* meaning) {
    command.option(option, options->texts[option], meaning).value(type);
  };
  text("--title", "TEXT", "of the figure");
  text("--y-error", "SYMBOL", "a column with half the length of error bars");
  text("--keep", "CONDITION", "only rows where it is true");
  text("--by", "SYMBOL", "a series for each value of this column");
  text("--shade", "SYMBOL", "a third quantity, as colour");
  text("--fit", "MODEL", "a curve through the points, such as line or 'polynomial 2'");
  text("--confidence", "SHARE", "a band around the curve, such as '95 %'");
  command.flag("--residuals", options->residuals, "what is left of the curve, under the points");
  text("--curve", "EXPRESSION", "a curve of one's own, in x");
  for (const auto& [axis, range] :
       {std::pair("x", &options->x_range), std::pair("y", &options->y_range),
        std::pair("y2", &options->y2_range), std::pair("shade", &options->shade_range)}) {
    const std::string begin = std::string("--") + axis;
    text((begin + "-unit").c_str(), "UNIT", "the unit of the axis");
    text((begin + "-scale").c_str(), "SCALE", "linear, log, reversed or 'reversed log'");
    command.option(begin + "-range", *range, "its ends, such as 0,25; auto for as the points need")
        .one_value_each()
        .comma_separated()
        .value("LOW,HIGH");
  }
  command.option("--bins", options->bins, "of a histogram, about").whole_number(1, kMostBins).value("N");
  text("--legend", "PLACE", "best, none, top left, top right, bottom left, bottom right, outside");
  text("--size", "SIZE", "'one column', 'two columns', '85 x 60 mm' or '1280 x 800 px'");
  command.option("--derive", options->definitions, "a derived column, NAME [UNIT] = EXPRESSION")
      .one_value_each()
      .value("DEFINITION");
  command.option("-o,--output", options->output, "where to: .png, .svg or .pdf; default figure.png")
      .not_empty()
      .value("FILE");
  command.flag("--force", options->force, "replace an existing file");
  command.runs([options](Streams& streams) {
    take_plot_kind(*options);
    Diagnostics diagnostics;
    report_missing(*options, diagnostics);
    if (diagnostics.has_errors()) return report(diagnostics, streams);
    return with_first_look([&](Rows rows) { return plot_table(*options, rows, streams); });
  });
}

}  // namespace opensum
