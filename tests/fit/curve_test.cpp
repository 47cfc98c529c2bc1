// Curves that the data do not determine, poor starts, and curves evaluated far from where their powers are
// tame.
#include "fit/curve.h"

#include <gtest/gtest.h>

#include <boost/multiprecision/cpp_bin_float.hpp>
#include <cmath>
#include <iostream>
#include <random>

#include "equation/parser.h"
#include "plan/fit_plan.h"
#include "table/number_text.h"

namespace opensum {
namespace {

// A model as a study has it, with the starts of its parameters.
CurveModel model_of(const std::string& text, const std::vector<std::pair<std::string, std::string>>& start,
                    const std::string& x_unit = "1", const std::string& y_unit = "1") {
  FitModel written;
  written.name = "f";
  written.model = Passage::whole("model", text);
  for (const auto& [name, value] : start)
    written.start.emplace_back(Passage::whole("start", name), Passage::whole("start", value));
  written.x = Passage::whole("x", "x");
  written.y = Passage::whole("y", "y");
  FitPlan plan;
  plan.model = &written;
  plan.sheets.emplace_back();
  const UnitSystem units;
  Scope scope;
  for (const auto& [name, unit] :
       {std::pair(std::string("x"), x_unit), std::pair(std::string("y"), y_unit)}) {
    ScopeColumn& column = scope.columns.emplace_back();
    column.symbol = name;
    column.type.unit = *units.read(unit).unit;
  }
  const NullPolicy policy;
  Diagnostics diagnostics;
  check_fit(plan, 0, "sheet", scope, {scope, units, policy}, {}, diagnostics);
  EXPECT_TRUE(plan.sheets[0].good) << render(diagnostics);
  return plan.curve;
}

std::vector<std::string> at_fault(const CurveModel& model, const Curve& curve) {
  std::vector<std::string> names;
  for (const std::size_t place : curve.at_fault) names.push_back(model.names[place]);
  return names;
}

const CurveData kData = {{1, 2, 3, 4, 5, 6}, {1, 2, 3.2, 4, 5.1, 5.9}, {}, false};

TEST(Curves, SayWhichParametersTheDataDoNotTellApart) {
  const struct {
    const char* model;
    std::vector<std::pair<std::string, std::string>> start;
    std::vector<std::string> at_fault;
  } rows[] = {
      {"a * b * x", {{"a", "1"}, {"b", "1"}}, {"a", "b"}},
      {"a * x + b * x", {{"a", "1"}, {"b", "1"}}, {"a", "b"}},
      {"c + a * x + b * x", {{"c", "0"}, {"a", "1"}, {"b", "2"}}, {"a", "b"}},
      {"a * exp(b + c * x)", {{"a", "1"}, {"b", "0.1"}, {"c", "0.2"}}, {"a", "b"}},
      {"a * (x / b)^c", {{"a", "1"}, {"b", "2"}, {"c", "1.1"}}, {"a", "b"}},
  };
  for (const auto& row : rows) {
    const CurveModel model = model_of(row.model, row.start);
    const Curve curve = fit_curve(model, kData);
    EXPECT_EQ(curve.state, CurveState::undetermined) << row.model;
    EXPECT_EQ(at_fault(model, curve), row.at_fault) << row.model;
  }
  const CurveModel line = *named_model("line");
  const Curve same_x = fit_curve(line, {{2, 2, 2, 2}, {1, 2, 3, 4}, {}, false});
  EXPECT_EQ(same_x.state, CurveState::undetermined);
  const CurveModel cubic = *named_model("polynomial 3");
  EXPECT_EQ(fit_curve(cubic, {{1, 2, 3, 1, 2, 3}, {1, 2, 3, 4, 5, 6}, {}, false}).state,
            CurveState::undetermined);
  EXPECT_EQ(fit_curve(*named_model("proportional"), {{0, 0, 0}, {1, 2, 3}, {}, false}).state,
            CurveState::undetermined);
}

TEST(Curves, SayWhereAStartIsTooFarForTheModelToMove) {
  const CurveModel model = model_of("a * exp(-b * x)", {{"a", "1"}, {"b", "1e6"}});
  const Curve curve = fit_curve(model, kData);
  EXPECT_EQ(curve.state, CurveState::unmoved);
  EXPECT_FALSE(at_fault(model, curve).empty());
}

// c + a exp(-x / t), of which the wrong sign of t leads far away.
TEST(Curves, FindABetterPlaceThanAPoorStartLeadsTo) {
  CurveData data;
  for (int i = 0; i < 40; ++i) {
    data.x.push_back(0.25 * i);
    data.y.push_back(10 + 3 * std::exp(-0.25 * i / 2) + 0.001 * std::sin(37.0 * i));
  }
  for (const char* start : {"-1", "1", "0.1", "30"}) {
    const CurveModel model = model_of("c + a * exp(-x / t)", {{"c", "5"}, {"a", "1"}, {"t", start}});
    const Curve curve = fit_curve(model, data);
    ASSERT_EQ(curve.state, CurveState::fitted) << start;
    EXPECT_NEAR(curve.parameters[0], 10, 0.01) << start;
    EXPECT_NEAR(curve.parameters[2], 2, 0.02) << start;
    EXPECT_EQ(curve.better_elsewhere.has_value(), std::string(start) == "-1") << start;
  }
}

// A polynomial over years: powers of 2000 are larger than what doubles tell apart, the curve is not.
TEST(Curves, AreEvaluatedToTheDigitsOfTheData) {
  using Long = boost::multiprecision::cpp_bin_float_100;
  for (const int degree : {1, 2, 4, 6}) {
    CurveData data;
    for (int year = 1958; year <= 2031; ++year) {
      const double t = (year - 1990) / 40.0;
      data.x.push_back(year);
      data.y.push_back(3 + std::sin(3 * t) + t * t);
    }
    const CurveModel model = *named_model("polynomial " + std::to_string(degree));
    const Curve curve = fit_curve(model, data);
    ASSERT_EQ(curve.state, CurveState::fitted);
    // The least-squares polynomial by normal equations in 100 digits.
    const auto n = static_cast<std::size_t>(degree) + 1;
    std::vector<std::vector<Long>> a(n, std::vector<Long>(n + 1, 0));
    for (std::size_t i = 0; i < data.x.size(); ++i) {
      for (std::size_t j = 0; j < n; ++j) {
        for (std::size_t k = 0; k < n; ++k) a[j][k] += pow(Long(data.x[i]), static_cast<int>(j + k));
        a[j][n] += pow(Long(data.x[i]), static_cast<int>(j)) * data.y[i];
      }
    }
    for (std::size_t j = 0; j < n; ++j) {
      for (std::size_t r = 0; r < n; ++r) {
        if (r == j) continue;
        const Long factor = a[r][j] / a[j][j];
        for (std::size_t k = j; k <= n; ++k) a[r][k] -= factor * a[j][k];
      }
    }
    for (double year = 1955; year <= 2035; year += 0.7) {
      Long exact = 0;
      for (std::size_t j = n; j-- > 0;) exact = exact * year + a[j][n] / a[j][j];
      EXPECT_NEAR(curve_at(model, curve, year), exact.convert_to<double>(), 1e-12)
          << degree << " in " << year;
    }
    // Its band is narrowest in the middle, as of any polynomial of data at even distances.
    if (degree == 1) {
      EXPECT_LT(curve_error_at(model, curve, 1994.5), curve_error_at(model, curve, 2031));
    }
  }
}

// In a model x is what it is in an equation: a reading in °C, which kelvin() makes an absolute temperature.
TEST(Curves, TakeTemperaturesAsReadings) {
  CurveData data;
  for (int t = 0; t <= 80; t += 5) {
    data.x.push_back(t);
    data.y.push_back(0.25 * 8.31446261815324 * (t + 273.15) / 0.001 / 1000);
  }
  const CurveModel gas = model_of("n * codata.R * kelvin(x) / (1 [L])", {{"n", "1 mol"}}, "degC", "kPa");
  const Curve curve = fit_curve(gas, data);
  ASSERT_EQ(curve.state, CurveState::fitted);
  EXPECT_NEAR(curve.parameters[0], 0.25, 1e-14);
  // The pressure at 20 °C.
  EXPECT_NEAR(curve_at(gas, curve, 20), 0.25 * 8.31446261815324 * 293.15, 1e-10);
}

}  // namespace
}  // namespace opensum
