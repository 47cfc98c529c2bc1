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
      if (entry.path().extension() != ".json") continue;
      const nlohmann::json sheet = nlohmann::json::parse(std::ifstream(entry.path()));
      if (!sheet.contains("columns")) continue;  // the record
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
  if (base.empty()) return 0;
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
      EXPECT_NEAR(found->second[row], expected, tolerance * expected + 1e-9 * std::fabs(values[row]) + 1e-12)
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
  data.numbers["x"] = {3.1, 2.7, 4.45, 5.2, 4.9, 6.6, 5.8, 7.7, 9.3, 8.2};
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
                             "x + x - 2 * x + col_mean(x)",
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

// A column of a sheet whose cells are independent, each off by `size`.
void add_cells(std::vector<Unknown>& unknowns, const Experiment& experiment, const std::string& sheet,
               const std::string& symbol, double size) {
  const std::vector<double>& values = experiment.sheets.at(sheet).numbers.at(symbol);
  for (std::size_t row = 0; row < values.size(); ++row) {
    if (std::isnan(values[row])) continue;
    unknowns.emplace_back(
        [=](Experiment& moved, double by) { moved.sheets[sheet].numbers[symbol][row] += by * size; });
  }
}

// Through links of all kinds into what is measured and derived there, rows of another sheet, groups and cells
// of it, fills, and constants; an instrument reads in two sheets.
TEST(UncertaintyOracle, ThroughSheetsIsThatOfDifferences) {
  Experiment experiment;
  Data& s = experiment.sheets["s"];
  s.texts["code"] = {"p", "q", "p", "r", "q", "r", "p", "none"};
  s.numbers["x"] = {1.1, 2.7, 4.45, 5.2, 3.9, 6.6, 0.8, 2.2};
  s.numbers["y"] = {3.3, kNone, 4.1, 5.7, kNone, 6.4, 7.9, 2.8};
  s.numbers["w"] = {1.5, 2.5, kNone, 3.5, 4.5, kNone, 5.5, 6.5};
  s.numbers["t"] = {0.1, 1.2, 1.9, 3.3, 4.1, 5.6, 6.2, 7.4};
  s.units = {{"x", "mm"}, {"y", "K"}, {"w", "K"}, {"t", "s"}};
  Data& c = experiment.sheets["c"];
  c.texts["code"] = {"q", "p", "r"};
  c.numbers["k"] = {0.5, 3.1, 7.0};
  c.numbers["v"] = {2.4, 9.6, 5.3};
  c.numbers["a1"] = {1.2, 1.7, 2.9};
  c.numbers["a2"] = {3.4, 2.1, 1.6};
  c.units = {{"k", "mm"}, {"v", "g"}, {"a1", "K"}, {"a2", "K"}};
  experiment.constants["rho"] = 1.25;
  experiment.constants["half"] = 0.5;
  const Bench bench(
      "constants = '''\n  rho [g/mm] = {rho} ± 0.003\n  both = rho * 2\n'''\n"
      "[sheet.s]\ndata = 's.csv'\ncolumns.x.uncertainty = '0.002 mm'\n"
      "columns.y = { uncertainty = '0.003 K', uncertainty_shared = '0.004 K', instrument = 'T' }\n"
      "columns.w.uncertainty = '0.005 K'\ncolumns.t.uncertainty = '0.01 s'\n"
      "link.by_code = { sheet = 'c', match = 'code' }\n"
      "link.between = { sheet = 'c', match = 'x = k', how = 'interpolate' }\n"
      "link.before = { sheet = 'c', match = 'x = k', how = 'previous' }\n"
      "link.near = { sheet = 'c', match = 'x = k', how = 'nearest' }\n"
      "fill.y = ['if(w > 4 [K], null, w)', 'interpolated(self, along: t)', 'col_mean(self)']\n"
      "fill.w = 'row_mean(measured(y), col_mean(self))'\n"
      "equations = '''\n"
      "  e1 = by_code.v * x\n  e2 = between.v / x\n  e3 = before.v + between.v\n  e4 = near.part\n"
      "  e5 = by_code.part * between.part\n  e6 = y - col_mean(y)\n  e7 = y * w\n  e8 = rho * x - between.v\n"
      "  e9 = both * x / rho\n  e10 = col_sum(c.v) - by_code.v\n  e11 = y - by_code.a1\n"
      "  e12 = e8 * ({half} ± 0.01)\n"
      "  e13 = sum_so_far(e8) + between.run\n  e14 = col_mean(c.part * c.k) * x\n  e15 = max_so_far(e8)\n"
      "  e16 = between.far\n  e17 = col_mean(by_code.part, by: code)\n'''\n"
      "[sheet.c]\ndata = 'c.csv'\ncolumns.k.uncertainty = '0.004 mm'\ncolumns.v.uncertainty = '0.01 g'\n"
      "columns.a1 = { uncertainty = '0.002 K', uncertainty_shared = '0.004 K', instrument = 'T' }\n"
      "columns.a2 = { uncertainty = '0.002 K' }\n"
      "equations = '''\n  part = v / col_sum(v)\n  run = sum_so_far(v)\n  far = v * k\n'''\n"
      "[sheet.rows]\nrows_of = 's'\nkeep = 'e8 < 100 [g]'\nsort_by = ['x']\n"
      "equations = '''\n  f1 = e1 / e2\n  f2 = e8 - s.e8\n  f3 = col_mean(e6) + y\n  f4 = change(e12)\n'''\n"
      "[sheet.groups]\nrows_of = 's'\none_row_per = ['code']\n"
      "equations = '''\n  g1 = col_mean(e1)\n  g2 = col_sum(y) / col_mean(s.y)\n  g3 = g1 / col_sum(x)\n"
      "  g4 = col_sd(e8)\n'''\n"
      "[sheet.cells]\nrows_of = 'c'\none_row_per_cell = ['a1', 'a2']\ncell = 'a'\nfrom_header = 'which'\n"
      "equations = '''\n  h1 = a - col_mean(a)\n  h2 = a * v\n  h3 = a / col_sum(a, by: which) * "
      "part\n'''\n");
  std::vector<Unknown> unknowns;
  add_cells(unknowns, experiment, "s", "x", 0.002);
  add_cells(unknowns, experiment, "s", "y", 0.003);
  add_cells(unknowns, experiment, "s", "w", 0.005);
  add_cells(unknowns, experiment, "s", "t", 0.01);
  add_cells(unknowns, experiment, "c", "k", 0.004);
  add_cells(unknowns, experiment, "c", "v", 0.01);
  add_cells(unknowns, experiment, "c", "a1", 0.002);
  add_cells(unknowns, experiment, "c", "a2", 0.002);
  unknowns.emplace_back([](Experiment& moved, double by) {
    for (double& y : moved.sheets["s"].numbers["y"]) y += by * 0.004;
    for (double& a : moved.sheets["c"].numbers["a1"]) a += by * 0.004;
  });
  unknowns.emplace_back([](Experiment& moved, double by) { moved.constants["rho"] += by * 0.003; });
  unknowns.emplace_back([](Experiment& moved, double by) { moved.constants["half"] += by * 0.01; });
  std::set<std::string> seen;
  const std::size_t compared = compare(bench, experiment, unknowns, 1e-5, &seen);
  std::cout << "uncertainties through sheets: " << compared << " compared\n";
  EXPECT_GT(compared, 150U);
  for (const char* name : {"e1", "e17", "f4", "g4", "h3", "part", "far"})
    EXPECT_EQ(seen.count(name), 1U) << name;
}

// Fits of all models to points with uncertainties in x and y, their parameters, values and solutions, by
// groups and from another sheet.
TEST(UncertaintyOracle, OfFitsIsThatOfDifferences) {
  Experiment experiment;
  Data& s = experiment.sheets["s"];
  s.texts["g"] = {"a", "b", "a", "b", "a", "b", "a", "b", "a", "b"};
  s.numbers["x"] = {1.1, 1.7, 2.45, 3.2, 3.9, 4.6, 5.8, 6.2, 7.3, 8.1};
  s.numbers["y"] = {3.32, 4.17, 4.95, 6.04, 6.63, 7.81, 8.98, 9.71, 10.9, 12.05};
  s.numbers["w"] = {1, 2, 1, 0.5, 3, 1, 2, 1, 1, 4};
  s.units = {{"x", "s"}, {"y", "V"}, {"w", "1"}};
  Data& o = experiment.sheets["o"];
  o.numbers["q"] = {2.2, 5.1, 6.9};
  o.numbers["r"] = {4.4, 7.2, 10.3};
  o.units = {{"q", "s"}, {"r", "V"}};
  const char* models[] = {"line", "proportional", "polynomial 2", "power", "exponential", "logarithm"};
  std::string study =
      "[sheet.s]\ndata = 's.csv'\ncolumns.x.uncertainty = '0.003 s'\n"
      "columns.y = { uncertainty = '0.004 V', uncertainty_shared = '0.006 V' }\nequations = '''\n"
      "  rate = y / x\n  own = fit_value(by_group, x) - y\n  group_slope = fit.by_group.slope\n"
      "  weighted = fit_value(weights, x)\n  derived = fit_value(of_derived, x) / ln(y / (1 [V]))\n'''\n"
      "[sheet.o]\ndata = 'o.csv'\ncolumns.q.uncertainty = '0.002 s'\ncolumns.r.uncertainty = '0.005 V'\n"
      "equations = '''\n";
  for (std::size_t k = 0; k < std::size(models); ++k) {
    const std::string name = "m" + std::to_string(k);
    study += "  v" + name + " = fit_value(" + name + ", q)\n  s" + name + " = fit_solve(" + name + ", r)\n";
    study += "  b" + name + " = fit_solve(" + name + ", r) - q * r / fit_value(" + name + ", q)\n";
  }
  study +=
      "  slope = fit.m0.slope\n  intercept = fit.m0.intercept\n  both = fit.m0.intercept + 3 [s] * "
      "fit.m0.slope\n"
      "  c1 = fit.m2.c1\n  c2 = fit.m2.c2\n  of_log = fit.m5.b\n  asked = u(slope)\n'''\n";
  for (std::size_t k = 0; k < std::size(models); ++k)
    study += "[fit.m" + std::to_string(k) + "]\nsheet = 's'\nx = 'x'\ny = 'y'\nmodel = '" + models[k] + "'\n";
  study +=
      "[fit.by_group]\nsheet = 's'\nx = 'x'\ny = 'y'\nby = 'g'\n"
      "[fit.weights]\nsheet = 's'\nx = 'x'\ny = 'y'\nweights = 'w'\nmodel = 'polynomial 2'\n"
      "[fit.of_derived]\nsheet = 's'\nx = 'x'\ny = 'rate'\n";
  std::vector<Unknown> unknowns;
  add_cells(unknowns, experiment, "s", "x", 0.003);
  add_cells(unknowns, experiment, "s", "y", 0.004);
  add_cells(unknowns, experiment, "o", "q", 0.002);
  add_cells(unknowns, experiment, "o", "r", 0.005);
  unknowns.emplace_back([](Experiment& moved, double by) {
    for (double& y : moved.sheets["s"].numbers["y"]) y += by * 0.006;
  });
  const std::size_t compared = compare(Bench(study), experiment, unknowns, 1e-4);
  std::cout << "uncertainties of fits: " << compared << " compared\n";
  EXPECT_GT(compared, 90U);
}

}  // namespace
}  // namespace opensum
