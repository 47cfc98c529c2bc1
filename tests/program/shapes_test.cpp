// Equations of a known shape, fitted without a start: from points that are known to lie on them.
#include <gtest/gtest.h>

#include <cmath>
#include <cstdlib>
#include <functional>
#include <nlohmann/json.hpp>
#include <random>
#include <string>

#include "program/program.h"

namespace opensum {
namespace {

struct Shape {
  const char* model;
  std::function<double(double)> curve;
  std::vector<std::pair<const char*, double>> parameters;
};

// The same curves written by hand.
const std::vector<Shape>& shapes() {
  static const std::vector<Shape> kShapes = {
      {"a * exp(-x / tau)", [](double x) { return 5 * std::exp(-x / 3); }, {{"a", 5}, {"tau", 3}}},
      {"c + a * exp(-x / tau)",
       [](double x) { return 2 + 5 * std::exp(-x / 3); },
       {{"c", 2}, {"a", 5}, {"tau", 3}}},
      {"exp(-k * x) * a", [](double x) { return 5 * std::exp(-0.4 * x); }, {{"a", 5}, {"k", 0.4}}},
      {"y0 * exp(mu * x)", [](double x) { return 0.5 * std::exp(0.3 * x); }, {{"y0", 0.5}, {"mu", 0.3}}},
      {"top * (1 - exp(-x / t))",
       [](double x) { return 7 * (1 - std::exp(-x / 2)); },
       {{"top", 7}, {"t", 2}}},
      {"vmax * x / (km + x)", [](double x) { return 9 * x / (2.5 + x); }, {{"vmax", 9}, {"km", 2.5}}},
      {"x * vmax / (x + km)", [](double x) { return 9 * x / (2.5 + x); }, {{"vmax", 9}, {"km", 2.5}}},
      {"h * exp(-(x - m)^2 / (2 * s^2)) + b",
       [](double x) { return 4 * std::exp(-(x - 5) * (x - 5) / 2 / 1.44) + 1; },
       {{"h", 4}, {"m", 5}, {"s", 1.2}, {"b", 1}}},
      {"p / (1 + exp(-(x - m) / w))",
       [](double x) { return 6 / (1 + std::exp(-(x - 4) / 0.8)); },
       {{"p", 6}, {"m", 4}, {"w", 0.8}}},
      {"h / (1 + ((x - m) / w)^2)",
       [](double x) { return 3 / (1 + std::pow((x - 6) / 1.1, 2)); },
       {{"h", 3}, {"m", 6}, {"w", 1.1}}},
  };
  return kShapes;
}

double parameter_of(const nlohmann::json& fit, const std::string& name) {
  for (const auto& parameter : fit.at("parameters")) {
    if (parameter.at("name") == name) return parameter.at("value");
  }
  return std::nan("");
}

TEST(Shapes, AreFittedWithoutAStart) {
  std::mt19937 random(8);
  std::normal_distribution<double> scatter(0, 0.01);
  for (const Shape& shape : shapes()) {
    const TempFolder folder;
    std::string rows = "x [s],y [V]\n";
    for (int i = 0; i <= 40; ++i) {
      const double x = i / 4.0;
      rows += std::to_string(x) + "," + std::to_string(shape.curve(x) + scatter(random)) + "\n";
    }
    folder.write("t.csv", rows);
    folder.write("study.toml",
                 std::string("[sheet.t]\ndata = 't.csv'\n[fit.f]\nsheet = 't'\nx = 'x'\ny = 'y'\nmodel = '") +
                     shape.model + "'\n");
    const Outcome outcome = run_program(folder, {"run", "--format", "json"});
    ASSERT_EQ(outcome.code, 0) << shape.model << outcome.err;
    const nlohmann::json fit = nlohmann::json::parse(outcome.out).at("fits").at(0);
    for (const auto& [name, value] : shape.parameters)
      EXPECT_NEAR(std::fabs(parameter_of(fit, name)), value, 0.04 * value) << shape.model << " " << name;
    EXPECT_TRUE(fit.at("parameters").at(0).contains("guessed_start")) << shape.model;
    const Outcome said =
        run_program(folder, {"fit", "t.csv", "--x", "x", "--y", "y", "--model", shape.model});
    EXPECT_NE(said.out.find("start guessed from the points:"), std::string::npos) << said.out;
  }
}

// The guess is in the units of the columns, and the parameters have theirs.
TEST(Shapes, HaveTheUnitsOfTheirPlaces) {
  const TempFolder folder;
  folder.write("t.csv", "x [min],y [degC]\n0,90\n1,70\n2,56\n3,46\n4,39\n5,34\n6,30\n");
  const Outcome outcome =
      run_program(folder, {"fit", "t.csv", "--x", "x", "--y", "y", "--model", "room + a * exp(-x / tau)"});
  ASSERT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_NE(outcome.out.find(" °C\n"), std::string::npos) << outcome.out;
  EXPECT_NE(outcome.out.find(" K\n"), std::string::npos) << outcome.out;
  EXPECT_NE(outcome.out.find(" min\n"), std::string::npos) << outcome.out;
}

TEST(Shapes, WithANameAreCalledByIt) {
  const TempFolder folder;
  folder.write("t.csv", "x,y\n1,2\n2,3\n3,5\n4,9\n");
  for (const auto& [model, name] :
       {std::pair("m * x + b", "line"), std::pair("b + x * m", "line"), std::pair("k * x", "proportional"),
        std::pair("a * x^n", "power"), std::pair("c + b * x + a * x^2", "polynomial 2"),
        std::pair("p + q * ln(x)", "logarithm")}) {
    const Outcome outcome = run_program(folder, {"fit", "t.csv", "--x", "x", "--y", "y", "--model", model});
    EXPECT_EQ(outcome.code, 3) << model;
    EXPECT_NE(outcome.err.find("write --model " +
                               (std::string(name) == "polynomial 2" ? "'polynomial 2'" : std::string(name))),
              std::string::npos)
        << outcome.err;
  }
}

}  // namespace
}  // namespace opensum
