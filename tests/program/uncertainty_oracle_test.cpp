// Standard uncertainties against differences: every cell, shared error and number with an uncertainty is
// moved up and down in the files themselves, the program is run again, and the changes of all results are
// summed in quadrature.
#include <gtest/gtest.h>

#include <cmath>
#include <fstream>
#include <functional>
#include <iostream>
#include <map>
#include <nlohmann/json.hpp>
#include <random>
#include <set>

#include "equation/functions.h"
#include "program/program.h"

namespace opensum {
namespace {

constexpr double kNone = std::numeric_limits<double>::quiet_NaN();

std::string digits(double x) {
  char text[40];
  std::snprintf(text, sizeof text, "%.17g", x);
  return text;
}

// The measured numbers of a sheet, by symbol, and texts beside them.
struct Data {
  std::map<std::string, std::vector<double>> numbers;
  std::map<std::string, std::string> units;
  std::map<std::string, std::vector<std::string>> texts;

  std::string csv() const {
    std::string text;
    std::size_t rows = 0;
    for (const auto& [symbol, cells] : texts) text += (text.empty() ? "" : ",") + symbol;
    for (const auto& [symbol, cells] : numbers) {
      text += (text.empty() ? "" : ",") + symbol + " [" + units.at(symbol) + "]";
      rows = cells.size();
    }
    for (std::size_t row = 0; row < rows; ++row) {
      std::string line;
      for (const auto& [symbol, cells] : texts) line += (line.empty() ? "" : ",") + cells[row];
      bool first = texts.empty();
      for (const auto& [symbol, cells] : numbers) {
        line += (first ? "" : ",") + (std::isnan(cells[row]) ? "" : digits(cells[row]));
        first = false;
      }
      text += "\n" + line;
    }
    return text + "\n";
  }
};

struct Experiment {
  std::map<std::string, Data> sheets;
  std::map<std::string, double> constants;
};

using Results = std::map<std::string, std::vector<double>>;  // by "sheet.symbol"

// Everything that a study gives, of the sheets named.
class Bench {
 public:
  explicit Bench(std::string study) : study_(std::move(study)) {}

  Results run(const Experiment& experiment) const {
    for (const auto& [name, data] : experiment.sheets) folder_.write(name + ".csv", data.csv());
    std::string study = study_;
    for (const auto& [name, value] : experiment.constants) {
      const std::string mark = "{" + name + "}";
      study.replace(study.find(mark), mark.size(), digits(value));
    }
    folder_.write("study.toml", "write = ['json']\n" + study);
    const Outcome outcome = run_program(folder_, {"run"});
    EXPECT_EQ(outcome.code, 0) << outcome.err;
    Results results;
    if (outcome.code != 0) return results;
    for (const auto& entry : std::filesystem::directory_iterator(folder_.path("results"))) {
      if (entry.path().extension() != ".json" || entry.path().filename() == "run-record.json") continue;
      const nlohmann::json sheet = nlohmann::json::parse(std::ifstream(entry.path()));
      for (const auto& column : sheet.at("columns")) {
        std::vector<double>& values =
            results[entry.path().stem().string() + "." + column.at("symbol").get<std::string>()];
        for (const auto& cell : column.at("values"))
          values.push_back(cell.is_number() ? cell.get<double>() : kNone);
      }
    }
    return results;
  }

 private:
  std::string study_;
  TempFolder folder_;
};

// Moves an experiment by so many standard uncertainties of one unknown.
using Unknown = std::function<void(Experiment&, double)>;

// Compares all columns u(…) with the differences; says how many.
std::size_t compare(const Bench& bench, const Experiment& experiment, const std::vector<Unknown>& unknowns,
                    double tolerance, std::set<std::string>* seen = nullptr) {
  constexpr double kStep = 0.05;
  const Results base = bench.run(experiment);
  Results variances;
  for (const Unknown& unknown : unknowns) {
    Experiment up = experiment;
    Experiment down = experiment;
    unknown(up, kStep);
    unknown(down, -kStep);
    const Results above = bench.run(up);
    const Results below = bench.run(down);
    for (const auto& [name, values] : base) {
      std::vector<double>& variance = variances[name];
      variance.resize(values.size());
      if (above.count(name) == 0 || below.count(name) == 0) continue;
      for (std::size_t row = 0; row < values.size(); ++row) {
        const double slope = (above.at(name)[row] - below.at(name)[row]) / (2 * kStep);
        variance[row] += slope * slope;
      }
    }
  }
  std::size_t compared = 0;
  for (const auto& [name, values] : base) {
    const std::size_t point = name.find('.');
    const auto found = base.find(name.substr(0, point + 1) + "u(" + name.substr(point + 1) + ")");
    if (found == base.end()) continue;
    if (seen != nullptr) seen->insert(name.substr(point + 1));
    for (std::size_t row = 0; row < values.size(); ++row) {
      const double expected = std::sqrt(variances[name][row]);
      if (std::isnan(values[row])) {
        EXPECT_TRUE(std::isnan(found->second[row])) << name << " row " << row + 1 << " is null";
        continue;
      }
      EXPECT_NEAR(found->second[row], expected, tolerance * expected + 1e-9 * std::fabs(values[row]))
          << name << " row " << row + 1 << " is " << values[row];
      ++compared;
    }
  }
  return compared;
}

// One sheet of ten rows with gaps, each column of another unit, some with a shared part.
Experiment one_sheet() {
  Experiment experiment;
  Data& data = experiment.sheets["s"];
  data.texts["g"] = {"a", "b", "a", "a", "b", "b", "a", "b", "a", "b"};
  data.numbers["t"] = {0.1, 1.2, 1.9, 3.3, 4.1, 5.6, 6.2, 7.4, 8.8, 9.1};
  data.numbers["x"] = {3.1, 2.7, 4.4, 5.2, 4.9, 6.6, 5.8, 7.7, 9.3, 8.2};
  data.numbers["y"] = {12.5, 14.1, 11.7, 17.3, 16.2, 19.9, 23.4, 21.8, 26.1, 25.3};
  data.numbers["z"] = {kNone, 2.2, 3.5, kNone, kNone, 7.1, 6.4, kNone, 9.9, kNone};
  data.numbers["T"] = {21.5, 22.3, 20.9, 24.4, 26.1, 25.2, 28.8, 27.3, 30.6, 29.7};
  data.units = {{"t", "s"}, {"x", "m"}, {"y", "g"}, {"z", "kPa"}, {"T", "degC"}};
  return experiment;
}

constexpr const char* kStated =
    "columns.t.uncertainty = '0.004 s'\n"
    "columns.x = { uncertainty = '0.1 %', uncertainty_shared = '0.002 m' }\n"
    "columns.y.uncertainty = { u = '0.06 g', k = 3 }\n"
    "columns.z = { uncertainty = '0.2 % + 0.001 kPa', uncertainty_shared = '0.3 %' }\n"
    "columns.T = { uncertainty = '0.02 K', uncertainty_shared = '0.05 K' }\n";

std::vector<Unknown> unknowns_of_one_sheet(const Experiment& experiment) {
  const std::map<std::string, std::function<double(double)>> own = {
      {"t", [](double) { return 0.004; }},
      {"x", [](double x) { return 0.001 * x; }},
      {"y", [](double) { return 0.02; }},
      {"z", [](double z) { return 0.002 * z + 0.001; }},
      {"T", [](double) { return 0.02; }}};
  const std::map<std::string, std::function<double(double)>> shared = {
      {"x", [](double) { return 0.002; }}, {"z", [](double z) { return 0.003 * z; }}, {"T", [](double) {
                                                                                         return 0.05;
                                                                                       }}};
  std::vector<Unknown> unknowns;
  for (const auto& [symbol, size] : own) {
    const std::vector<double>& values = experiment.sheets.at("s").numbers.at(symbol);
    for (std::size_t row = 0; row < values.size(); ++row) {
      if (std::isnan(values[row])) continue;
      unknowns.emplace_back([symbol = symbol, row, u = size(values[row])](Experiment& moved, double by) {
        moved.sheets["s"].numbers[symbol][row] += by * u;
      });
    }
  }
  for (const auto& [symbol, size] : shared) {
    unknowns.emplace_back([symbol = symbol, size = size](Experiment& moved, double by) {
      for (double& value : moved.sheets["s"].numbers[symbol]) value += by * size(value);
    });
  }
  return unknowns;
}

// Every function that goes over rows of a column, alone, by groups, under a condition, over what is derived,
// and in one another.
std::vector<std::string> equations_over_rows() {
  std::vector<std::string> list;
  for (const char* reduction : {"col_sum(x{})",
                                "col_mean(x{})",
                                "col_median(x{})",
                                "col_min(x{})",
                                "col_max(x{})",
                                "col_range(x{})",
                                "col_sd(x{})",
                                "col_sem(x{})",
                                "col_mad(x{})",
                                "col_rms(x{})",
                                "col_geometric_mean(x{})",
                                "col_quantile(x, 0.3{})",
                                "col_mean(x, weights: y{})",
                                "col_correlation(x, y{})",
                                "col_area(y, along: t{})",
                                "col_first(x{})",
                                "col_last(x{})",
                                "col_at(x, 2{})",
                                "col_first_known(z{})",
                                "col_last_known(z{})",
                                "col_mean(z{})",
                                "col_sd(T{})",
                                "col_mean(T{})",
                                "col_mean(x * y{})",
                                "col_sum(z * t{})"}) {
    const std::string call = reduction;
    for (const char* more : {"", ", by: g", ", where: t > 2 [s]"}) {
      std::string made = call;
      made.replace(made.find("{}"), 2, more);
      list.push_back(made);
    }
  }
  for (const char* sequence : {"previous(x{})",
                               "next(x{})",
                               "change(x{})",
                               "change(T{})",
                               "previous_known(z{})",
                               "next_known(z{})",
                               "min_so_far(x{})",
                               "max_so_far(y{})",
                               "sum_so_far(x{})",
                               "mean_so_far(x{})",
                               "sum_so_far(z, nulls: skip{})",
                               "mean_so_far(z, nulls: skip{})",
                               "moving_mean(x, rows: 3{})",
                               "moving_median(x, rows: 3{})",
                               "moving_sd(x, rows: 3{})",
                               "moving_mean(z, rows: 3, nulls: skip{})",
                               "derivative(x, along: t{})",
                               "area_so_far(x, along: t{})",
                               "area_so_far(z, along: t, nulls: skip{})",
                               "interpolated(z, along: t{})",
                               "mean_so_far(T{})",
                               "moving_mean(T, rows: 3{})"}) {
    const std::string call = sequence;
    for (const char* more : {"", ", by: g"}) {
      std::string made = call;
      made.replace(made.find("{}"), 2, more);
      list.push_back(made);
    }
  }
  for (const char* nested : {"x - col_mean(x)",
                             "x / col_max(x)",
                             "(x - col_mean(x)) / col_sd(x)",
                             "T - col_first(T)",
                             "sum_so_far(sum_so_far(x))",
                             "col_mean(sum_so_far(x))",
                             "sum_so_far(x) - col_sum(x)",
                             "sum_so_far(x) / col_sum(x)",
                             "change(area_so_far(x, along: t))",
                             "area_so_far(y - col_mean(y), along: t)",
                             "moving_mean(change(x), rows: 3)",
                             "col_sd(x - moving_mean(x, rows: 3))",
                             "col_mean(x, by: g) - col_mean(x)",
                             "sum_so_far(x * t) / sum_so_far(x)",
                             "mean_so_far(x) - mean_so_far(x, by: g)",
                             "col_sum(sum_so_far(x) * mean_so_far(y))",
                             "col_rms(x - col_mean(x, by: g))",
                             "derivative(sum_so_far(x), along: t)",
                             "interpolated(z / x, along: t)",
                             "previous(sum_so_far(x)) * y",
                             "area_so_far(x, along: sum_so_far(t))",
                             "col_correlation(sum_so_far(x), x)",
                             "x + x - 2 * x + y",
                             "row_mean(x, 2 * x, col_mean(x))",
                             "if(x > col_median(x), y / x, x * y / (1 [m^2]))",
                             "max_so_far(x) - min_so_far(x)",
                             "col_max(sum_so_far(x) - x)",
                             "fallback(z, col_mean(z))"}) {
    list.emplace_back(nested);
  }
  return list;
}

TEST(UncertaintyOracle, OfEveryFunctionOverRowsIsThatOfDifferences) {
  const Experiment experiment = one_sheet();
  const std::vector<std::string> list = equations_over_rows();
  std::string study = std::string("[sheet.s]\ndata = 's.csv'\n") + kStated + "equations = '''\n";
  for (std::size_t k = 0; k < list.size(); ++k) study += "  r" + std::to_string(k) + " = " + list[k] + "\n";
  const std::size_t compared =
      compare(Bench(study + "'''\n"), experiment, unknowns_of_one_sheet(experiment), 1e-5);
  std::cout << "uncertainties of " << list.size() << " equations over rows: " << compared << " compared\n";
  EXPECT_GT(compared, 900U);
  // What the table of signatures has and is not tried here has no uncertainty, or is another test's.
  for (const Signature& signature : signatures()) {
    const std::string name = signature.name;
    if (signature.family != Family::column && signature.family != Family::sequence) continue;
    if (name == "col_count" || name == "row_number" || name == "rank") continue;
    bool tried = false;
    for (const std::string& equation : list) tried = tried || equation.find(name + "(") != std::string::npos;
    EXPECT_TRUE(tried) << name;
  }
}

}  // namespace
}  // namespace opensum
