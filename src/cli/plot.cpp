// opensum plot: a figure of a table, without a study.
#include <filesystem>
#include <memory>

#include "cli/command.h"
#include "cli/file_options.h"
#include "figure/draw.h"
#include "files/output.h"
#include "report/summary.h"
#include "run/compute.h"
#include "run/figures.h"
#include "run/write.h"

namespace opensum {
namespace {

struct PlotOptions {
  FileOptions file;
  std::string x;
  std::vector<std::string> y;
  std::string title;
  std::string fit;
  std::vector<std::string> definitions;
  std::string output = "figure.png";
  bool force = false;
};

int plot_table(const PlotOptions& options, Streams& streams) {
  Diagnostics diagnostics;
  const std::string ending = std::filesystem::path(options.output).extension().string();
  if (ending != ".png" && ending != ".svg" && ending != ".pdf") {
    diagnostics.add(Code::option_value, {"--output", "a name ending in .png, .svg or .pdf", options.output});
  }
  auto sheet = sheet_of(options.file, diagnostics);
  if (!sheet || diagnostics.has_errors()) return report(diagnostics, streams);
  for (const std::string& definition : options.definitions) {
    sheet->equations.push_back({Passage::whole("definition", definition), 0});
  }
  PlotModel plot;
  plot.name = "plot";
  plot.title = options.title;
  plot.x = Passage::whole("--x", options.x);
  for (const std::string& y : options.y) plot.y.push_back(Passage::whole("--y", y));
  if (!options.fit.empty()) plot.fit = Passage::whole("--fit", options.fit);
  plot.formats = {ending.substr(1)};
  Study study;
  study.sheets.push_back(std::move(*sheet));
  study.plots.push_back(std::move(plot));
  const auto prepared = prepare(std::move(study), "", {}, diagnostics);
  if (!diagnostics.has_errors()) compute(*prepared, Memory::needed, diagnostics);
  if (const int code = report(diagnostics, streams)) return code;
  Diagnostics of_writing;
  OutputFiles files(prepared->inputs, options.force, "choose another name, or --force to replace it");
  const std::string temporary = files.stage(options.output, of_writing);
  if (temporary.empty()) return report(of_writing, streams);
  const std::vector<BuiltFigure> figures = build_figures(*prepared);
  if (figures.empty() || !draw_figure(figures.front().figure, ending.substr(1), temporary)) {
    of_writing.add(Code::cannot_write, {options.output, "the drawing failed"});
  } else {
    files.commit(of_writing);
  }
  if (const int code = report(of_writing, streams)) return code;
  for (const FitFacts& facts : gather_facts(*prepared).fits) streams.out << fit_text(facts);
  for (const std::string& note : figures.front().notes) streams.out << note << '\n';
  return static_cast<int>(Exit::done);
}

}  // namespace

void add_plot(CLI::App& app, Chosen& chosen) {
  auto options = std::make_shared<PlotOptions>();
  CLI::App* command =
      add_command(app, "plot", "draw a figure of a table, without a study",
                  "  opensum plot opensum-demo/water.csv --x Temperature --y Density --fit 'polynomial 2' "
                  "--output water.png\n"
                  "  opensum plot opensum-demo/day1.csv --x flow --y rise --name 'flow=Coolant flow' \\\n"
                  "      --derive 'rise [K] = Outlet_temperature_A - Inlet_temperature' --output rise.svg");
  add_file_options(*command, options->file);
  command->add_option("--x", options->x, "the column along")->required()->type_name("SYMBOL");
  command->add_option("--y", options->y, "the column up; repeated for several")
      ->required()
      ->allow_extra_args(false)
      ->type_name("SYMBOL");
  command->add_option("--title", options->title, "of the figure")->type_name("TEXT");
  command->add_option("--fit", options->fit, "a curve through the points, such as line or 'polynomial 2'")
      ->type_name("MODEL");
  command->add_option("--derive", options->definitions, "a derived column, NAME [UNIT] = EXPRESSION")
      ->allow_extra_args(false)
      ->type_name("DEFINITION");
  command->add_option("--output", options->output, "where to: .png, .svg or .pdf; default figure.png")
      ->type_name("FILE");
  command->add_flag("--force", options->force, "replace an existing file");
  command->callback(
      [options, &chosen] { chosen = [options](Streams& streams) { return plot_table(*options, streams); }; });
}

}  // namespace opensum
