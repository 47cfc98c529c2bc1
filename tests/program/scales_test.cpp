// The same temperatures on the scales of Celsius, Fahrenheit and Kelvin give the same results.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <cmath>

#include "program/program.h"
#include "table/number_text.h"

namespace opensum {
namespace {

// A table with a temperature on three scales, a time, a quantity, and an uncertainty of the temperature.
std::string table() {
  std::string out = "T_C [°C],T_F [°F],T_K [K],t [s],y [m],g,\"u(T_C) [K]\",\"u(T_F) [K]\",\"u(T_K) [K]\"\n";
  for (int row = 0; row < 12; ++row) {
    const double celsius = 3.0 * row + (row % 3) * 0.4 - 2;
    const double u = 0.1 + 0.01 * (row % 5);
    out += fmt::format("{0},{1},{2},{3},{4},{5},{6},{6},{6}\n", celsius, celsius * 1.8 + 32, celsius + 273.15,
                       row * 2 + (row % 2) * 0.5, 1 + 0.3 * row + 0.02 * row * row, row % 2, u);
  }
  return out;
}

std::string on_scale(std::string text, const std::string& symbol) {
  for (std::size_t at = text.find("{T}"); at != std::string::npos; at = text.find("{T}"))
    text.replace(at, 3, symbol);
  return text;
}

// The cells of the last column; where that holds uncertainties, those of the one before and then the last.
std::vector<std::string> cells_of(const std::string& csv) {
  const std::string header = csv.substr(0, csv.find('\n'));
  const bool uncertain = header.substr(header.rfind(',') + 1).starts_with("u(r)");
  std::vector<std::string> cells;
  std::vector<std::string> uncertainties;
  for (std::size_t at = csv.find('\n') + 1; at < csv.size();) {
    const std::size_t end = csv.find('\n', at);
    std::string line = csv.substr(at, end - at);
    if (uncertain) {
      uncertainties.push_back(line.substr(line.rfind(',') + 1));
      line.erase(line.rfind(','));
    }
    cells.push_back(line.substr(line.rfind(',') + 1));
    at = end + 1;
  }
  cells.insert(cells.end(), uncertainties.begin(), uncertainties.end());
  return cells;
}

// Whether results on one scale are those on another, and how many are numbers.
std::size_t compare(const std::vector<std::string>& cells, const std::vector<std::string>& others,
                    const std::string& what) {
  std::size_t numbers = 0;
  EXPECT_EQ(cells.size(), others.size()) << what;
  for (std::size_t i = 0; i < std::min(cells.size(), others.size()); ++i) {
    const NumberReading a = read_number(cells[i]);
    const NumberReading b = read_number(others[i]);
    if (a.fault != NumberFault::none) {
      EXPECT_EQ(cells[i], others[i]) << what;
      continue;
    }
    EXPECT_NEAR(a.value, b.value, 1e-9 * std::max(1.0, std::fabs(a.value))) << what << ", row " << i;
    ++numbers;
  }
  return numbers;
}

TEST(Scales, OfOneTemperatureGiveTheSame) {
  const TempFolder folder;
  folder.write("t.csv", table());
  std::size_t numbers = 0;
  for (const char* expression : {"r [K] = {T} - 20 [degC]",
                                 "r [K] = {T} + 5 [K]",
                                 "r [degC] = row_mean({T}, 20 [degC])",
                                 "r [degF] = row_median({T}, 20 [degC], 30 [degF])",
                                 "r [K] = row_max({T}, 20 [degC])",
                                 "r [K] = row_range({T}, 20 [degC])",
                                 "r [K] = row_sd({T}, 20 [degC])",
                                 "r [K] = col_range({T})",
                                 "r [K] = col_sd({T})",
                                 "r [K] = col_sem({T})",
                                 "r [K] = col_mad({T})",
                                 "r [degC] = col_mean({T}, by: g)",
                                 "r [degC] = col_quantile({T}, 0.3)",
                                 "r [degC] = col_mean({T}, weights: t)",
                                 "r = col_correlation({T}, y)",
                                 "r [m K] = col_area(y, along: {T})",
                                 "r [K] = change({T})",
                                 "r [K] = moving_sd({T}, rows: 3)",
                                 "r [degC] = moving_mean({T}, rows: 3)",
                                 "r [degC] = mean_so_far({T})",
                                 "r [K/s] = derivative({T}, along: t)",
                                 "r [m/K] = derivative(y, along: {T})",
                                 "r [m K] = area_so_far(y, along: {T})",
                                 "r [m] = interpolated(if(t == 4 [s], null, y), along: {T})",
                                 "r = agrees({T}, 20 [degC], within: 3.1 [K])",
                                 "r [K] = clamp({T}, 5 [degC], 50 [degF])",
                                 "r = {T} > 50 [degF]",
                                 "r [K] = kelvin({T})",
                                 "r = value({T}, [degC])",
                                 "r = rank({T})",
                                 "r [J] = kelvin({T}) * 2 [J/K]"}) {
    std::vector<std::vector<std::string>> results;
    for (const char* symbol : {"T_C", "T_F", "T_K"}) {
      const Outcome outcome = run_program(folder, {"derive", "t.csv", on_scale(expression, symbol)});
      // A difference and a quantity in kelvin look alike, so that readings are not taken from it.
      if (symbol == std::string("T_K") && outcome.err.find("temperature on a scale") != std::string::npos)
        continue;
      ASSERT_EQ(outcome.code, 0) << expression << outcome.err;
      results.push_back(cells_of(outcome.out));
    }
    for (std::size_t i = 1; i < results.size(); ++i) numbers += compare(results[0], results[i], expression);
  }
  std::cout << numbers << " numbers compared\n";
  EXPECT_GT(numbers, 400U);
}

TEST(Scales, OfXAndYGiveTheSameFits) {
  const TempFolder folder;
  folder.write("t.csv", table());
  const struct {
    const char* fit;
    const char* equations;
  } rows[] = {
      {"x = '{T}'\ny = 'y'\nmodel = 'line'\n", "r [mm/K] = fit.f.slope"},
      {"x = '{T}'\ny = 'y'\nmodel = 'line'\n", "r [m] = fit.f.residual_sd"},
      {"x = '{T}'\ny = 'y'\nmodel = 'line'\n", "r [m] = fit_value(f, 21 [degC])"},
      {"x = '{T}'\ny = 'y'\nmodel = 'line'\n", "r [degC] = fit_solve(f, 2 [m])"},
      {"x = '{T}'\ny = 'y'\nmodel = 'polynomial 2'\n", "r [m/K^2] = fit.f.c2"},
      {"x = '{T}'\ny = 'y'\nmodel = 'polynomial 3'\n", "r [m] = fit_value(f, 21 [degC])"},
      {"x = '{T}'\ny = 'y'\nmodel = 'exponential'\n", "r [1/K] = fit.f.b"},
      {"x = '{T}'\ny = 'y'\nmodel = 'exponential'\n", "r [m] = fit_value(f, 21 [degC])"},
      {"x = 't'\ny = '{T}'\nmodel = 'line'\n", "r [K/s] = fit.f.slope"},
      {"x = 't'\ny = '{T}'\nmodel = 'line'\n", "r [degC] = fit.f.intercept"},
      {"x = 't'\ny = '{T}'\nmodel = 'line'\n", "r [K] = fit.f.residual_sd"},
      {"x = 't'\ny = '{T}'\nmodel = 'polynomial 2'\n", "r [K/s^2] = fit.f.c2"},
      {"x = 't'\ny = '{T}'\nmodel = 'line'\nweights = 'uncertainty'\n", "r = fit.f.reduced_chi2"},
      {"x = 't'\ny = '{T}'\nmodel = 'line'\nweights = 'uncertainty'\n", "r [degC] = fit_value(f, 7 [s])"},
      {"x = '{T}'\ny = 'y'\nmodel = 'a + b * kelvin(x)'\nstart = { a = '1 m', b = '1 m/K' }\n",
       "r [m/K] = fit.f.b"},
      {"x = 't'\ny = '{T}'\nmodel = 'a + b * x'\nstart = { a = '1 degC', b = '1 K/s' }\n",
       "r [K/s] = fit.f.b"},
  };
  std::size_t numbers = 0;
  for (const auto& row : rows) {
    std::vector<std::vector<std::string>> results;
    for (const char* symbol : {"T_C", "T_F", "T_K"}) {
      folder.write("study.toml", on_scale(std::string("[sheet.run]\ndata = 't.csv'\nequations = '") +
                                              row.equations + "'\n[fit.f]\n" + row.fit,
                                          symbol));
      const Outcome outcome = run_program(folder, {"run"});
      ASSERT_EQ(outcome.code, 0) << row.fit << row.equations << outcome.err;
      results.push_back(cells_of(folder.read("results/run.csv")));
      EXPECT_NE(results.back()[0], "") << row.fit << row.equations;
    }
    numbers += compare(results[0], results[1], std::string(row.fit) + row.equations);
    numbers += compare(results[0], results[2], std::string(row.fit) + row.equations);
  }
  std::cout << numbers << " numbers compared\n";
  EXPECT_GT(numbers, 300U);
}

}  // namespace
}  // namespace opensum
