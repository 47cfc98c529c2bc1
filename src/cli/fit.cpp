// opensum fit: a curve fitted to two columns, without a study.
#include <memory>

#include "cli/command.h"
#include "cli/file_options.h"
#include "plot/figures.h"
#include "run/compute.h"
#include "run/prepare.h"
#include "run/write.h"

namespace opensum {
namespace {

struct FitOptions {
  FileOptions file;
  std::string x;
  std::string y;
  std::string model = "line";
  std::string keep;
  std::string by;
  std::string weights;
  std::vector<std::string> start;
  std::vector<std::string> definitions;
};

// `a=5 kW`: where the search for a parameter begins.
void add_start(const std::string& argument, FitModel& fit, Diagnostics& diagnostics) {
  const std::size_t equals = argument.find('=');
  if (equals == std::string::npos || equals == 0) {
    diagnostics.add(Code::option_value, {"--start", "PARAMETER=VALUE", argument});
    return;
  }
  const auto source = std::make_shared<const Source>("--start", argument);
  fit.start.emplace_back(Passage(source, 0, argument.substr(0, equals)),
                         Passage(source, equals + 1, argument.substr(equals + 1)));
}

std::optional<int> fit_table(const FitOptions& options, Rows rows, Streams& streams) {
  Diagnostics diagnostics;
  auto sheet = sheet_of(options.file, diagnostics);
  if (!sheet) return report(diagnostics, streams);
  for (const std::string& definition : options.definitions) {
    sheet->equations.push_back({Passage::whole("definition", definition), 0});
  }
  FitModel fit;
  fit.name = "fit";
  fit.x = Passage::whole("--x", options.x);
  fit.y = Passage::whole("--y", options.y);
  fit.model = Passage::whole("--model", options.model);
  if (!options.keep.empty()) fit.keep = Passage::whole("--keep", options.keep);
  if (!options.by.empty()) fit.by = Passage::whole("--by", options.by);
  if (!options.weights.empty()) fit.weights = Passage::whole("--weights", options.weights);
  for (const std::string& start : options.start) add_start(start, fit, diagnostics);
  if (diagnostics.has_errors()) return report(diagnostics, streams);
  Study study;
  study.sheets.push_back(std::move(*sheet));
  study.fits.push_back(std::move(fit));
  const auto prepared = prepare(std::move(study), "", {}, diagnostics, rows);
  if (diagnostics.has_errors() && is_guess(*prepared)) return std::nullopt;
  if (!diagnostics.has_errors()) compute(*prepared, wishes_of_figures(*prepared), diagnostics);
  if (const int code = report(diagnostics, streams)) return code;
  std::vector<FitFacts> fits = gather_facts(*prepared).fits;
  // There is only this one, and it has no name.
  for (FitFacts& facts : fits) facts.name.clear();
  streams.out << fits_text(fits);
  return static_cast<int>(Exit::done);
}

}  // namespace

void add_fit(CommandLine& command_line) {
  auto options = std::make_shared<FitOptions>();
  Command command = command_line.add(
      "fit", "fit a curve to two columns: parameters with unit and standard error, r2, residuals",
      "  opensum fit opensum-demo/gauge.csv --x Gauge_reading --y Pressure_by_water_column\n"
      "  opensum fit opensum-demo/day1.csv --x flow --y rise --model power \\\n"
      "      --column 'flow=Coolant flow' --derive 'rise [K] = Outlet_temperature_A - Inlet_temperature'");
  add_file_options(command, options->file);
  command.option("--x", options->x, "the column along").needed().value("SYMBOL");
  command.option("--y", options->y, "the column up").needed().value("SYMBOL");
  command
      .option("--model", options->model,
              "line, proportional, polynomial N, power, exponential, logarithm, or an equation in x")
      .value("MODEL");
  command.option("--start", options->start, "where a parameter of an equation begins, such as 'a=5 kW'")
      .one_value_each()
      .value("PARAMETER=VALUE");
  command.option("--derive", options->definitions, "a derived column, NAME [UNIT] = EXPRESSION")
      .one_value_each()
      .value("DEFINITION");
  command.option("--keep", options->keep, "only rows for which this is true").value("CONDITION");
  command.option("--by", options->by, "a curve for each value of this column").value("SYMBOL");
  command
      .option("--weights", options->weights,
              "a column in proportion to 1/variance, or uncertainty: 1/u(y)^2 from the column u(y)")
      .value("SYMBOL");
  command.runs([options](Streams& streams) {
    return with_first_look([&](Rows rows) { return fit_table(*options, rows, streams); });
  });
}

}  // namespace opensum
