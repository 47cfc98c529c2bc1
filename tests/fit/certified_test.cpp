// Curves against reference results: data sets of the Statistical Reference Datasets of NIST with their
// certified parameters, standard errors and residual deviations.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <fstream>
#include <iostream>
#include <span>
#include <sstream>

#include "fit/curve.h"
#include "fit/least_squares.h"
#include "plan/fit_plan.h"
#include "table/number_text.h"

namespace opensum {
namespace {

// To how many digits a number agrees with a certified one.
double digits(double got, double certified) {
  if (got == certified) return 16;
  const double error = certified == 0 ? std::abs(got) : std::abs(got - certified) / std::abs(certified);
  return std::min(16.0, -std::log10(error));
}

struct Certified {
  std::vector<double> parameters;
  std::vector<double> standard_errors;
  double residual_sd;
};

// The least agreement of all that a fit gives, which is printed.
double agreement(const char* name, const Curve& curve, const Certified& certified) {
  EXPECT_EQ(curve.state, CurveState::fitted) << name;
  if (curve.state != CurveState::fitted) return 0;
  double least = 16;
  double least_errors = 16;
  for (std::size_t i = 0; i < certified.parameters.size(); ++i) {
    least = std::min(least, digits(curve.parameters[i], certified.parameters[i]));
    least_errors = std::min(least_errors, digits(curve.standard_errors[i], certified.standard_errors[i]));
  }
  const double sd = digits(curve.residual_sd, certified.residual_sd);
  std::cout << name << ": parameters to " << least << " digits, standard errors to " << least_errors
            << ", residual deviation to " << sd << '\n';
  return std::min({least, least_errors, sd});
}

Curve fit(const std::string& model, const std::vector<double>& x, const std::vector<double>& y) {
  return fit_curve(*named_model(model), {x, y, {}, false});
}

TEST(CertifiedFits, NorrisIsAStraightLine) {
  const std::vector<double> y = {0.1,   338.8, 118.1, 888.0, 9.2,   228.1, 668.5, 998.5, 449.1,
                                 778.9, 559.2, 0.3,   0.1,   778.1, 668.8, 339.3, 448.9, 10.8,
                                 557.7, 228.3, 998.0, 888.8, 119.6, 0.3,   0.6,   557.6, 339.3,
                                 888.0, 998.5, 778.9, 10.2,  117.6, 228.9, 668.4, 449.2, 0.2};
  const std::vector<double> x = {0.2,   337.4, 118.2, 884.6, 10.1,  226.5, 666.3, 996.3, 448.6,
                                 777.0, 558.2, 0.4,   0.6,   775.5, 666.9, 338.0, 447.5, 11.6,
                                 556.0, 228.1, 995.8, 887.6, 120.2, 0.3,   0.3,   556.8, 339.1,
                                 887.2, 999.0, 779.0, 11.1,  118.3, 229.2, 669.1, 448.9, 0.5};
  const Curve curve = fit("line", x, y);
  EXPECT_GE(agreement("Norris", curve,
                      {{-0.262323073774029, 1.00211681802045},
                       {0.232818234301152, 0.429796848199937e-03},
                       0.884796396144373}),
            9);
  EXPECT_GE(digits(*curve.r2, 0.999993745883712), 14);
  EXPECT_NEAR(*curve.r, std::sqrt(0.999993745883712), 1e-14);
}

TEST(CertifiedFits, LinesThroughTheOrigin) {
  std::vector<double> x;
  std::vector<double> y;
  for (int i = 0; i <= 10; ++i) {
    x.push_back(60 + i);
    y.push_back(130 + i);
  }
  const Curve one = fit("proportional", x, y);
  EXPECT_GE(agreement("NoInt1", one, {{2.07438016528926}, {0.165289256198347e-01}, 3.56753034006338}), 9);
  EXPECT_FALSE(one.r2);
  EXPECT_GE(agreement("NoInt2", fit("proportional", {4, 5, 6}, {3, 4, 4}),
                      {{0.727272727272727}, {0.420827318078432e-01}, 0.369274472937998}),
            9);
}

TEST(CertifiedFits, PontiusIsAParabola) {
  const std::vector<double> first = {.11019,  .21956,  .32949,  .43899,  .54803,  .65694,  .76562,
                                     .87487,  .98292,  1.09146, 1.20001, 1.30822, 1.41599, 1.52399,
                                     1.63194, 1.73947, 1.84646, 1.95392, 2.06128, 2.16844};
  const std::vector<double> second = {.11052,  .22018,  .32939,  .43886,  .54798,  .65739,  .76596,
                                      .87474,  .98300,  1.09150, 1.20004, 1.30818, 1.41613, 1.52408,
                                      1.63159, 1.73965, 1.84696, 1.95445, 2.06177, 2.16829};
  std::vector<double> x;
  std::vector<double> y;
  for (const auto& half : {first, second}) {
    for (std::size_t i = 0; i < half.size(); ++i) {
      x.push_back(150000.0 * static_cast<double>(i + 1));
      y.push_back(half[i]);
    }
  }
  EXPECT_GE(agreement("Pontius", fit("polynomial 2", x, y),
                      {{0.673565789473684e-03, 0.732059160401003e-06, -0.316081871345029e-14},
                       {0.107938612033077e-03, 0.157817399981659e-09, 0.486652849992036e-16},
                       0.205177424076185e-03}),
            9);
}

TEST(CertifiedFits, WamplerArePolynomialsOfDegreeFive) {
  const std::vector<double> delta = {759,   -2048, 2048,  -2048, 2523,  -2048, 2048,
                                     -2048, 1838,  -2048, 2048,  -2048, 1838,  -2048,
                                     2048,  -2048, 2523,  -2048, 2048,  -2048, 759};
  const Certified with_error = {{1, 1, 1, 1, 1, 1},
                                {2152.32624678170, 2363.55173469681, 779.343524331583, 101.475507550350,
                                 5.64566512170752, 0.112324854679312},
                                2360.14502379268};
  std::vector<double> x;
  for (int i = 0; i <= 20; ++i) x.push_back(i);
  const auto values = [&](double base, double factor) {
    std::vector<double> y;
    for (std::size_t i = 0; i < x.size(); ++i) {
      double sum = 0;
      for (int power = 0; power <= 5; ++power) sum += std::pow(base, power) * std::pow(x[i], power);
      y.push_back(sum + factor * delta[i]);
    }
    return y;
  };
  const Curve exact = fit("polynomial 5", x, values(1, 0));
  ASSERT_EQ(exact.state, CurveState::fitted);
  for (const double parameter : exact.parameters) EXPECT_GE(digits(parameter, 1), 9);
  EXPECT_LT(exact.residual_sd, 1e-6);
  const Curve small = fit("polynomial 5", x, values(0.1, 0));
  for (std::size_t i = 0; i < 6; ++i) EXPECT_GE(digits(small.parameters[i], std::pow(0.1, i)), 9);
  EXPECT_GE(agreement("Wampler3", fit("polynomial 5", x, values(1, 1)), with_error), 9);
  for (const auto& [name, factor] : {std::pair("Wampler4", 100.0), std::pair("Wampler5", 10000.0)}) {
    Certified more = with_error;
    for (double& error : more.standard_errors) error *= factor;
    more.residual_sd *= factor;
    EXPECT_GE(agreement(name, fit("polynomial 5", x, values(1, factor)), more), 7);
  }
}

TEST(CertifiedFits, FilipIsAnIllConditionedPolynomialOfDegreeTen) {
  const std::vector<double> xy = {
      0.8116, -6.860120914, 0.9072, -4.324130045, 0.9052, -4.358625055, 0.9039, -4.358426747,
      0.8053, -6.955852379, 0.8377, -6.661145254, 0.8667, -6.355462942, 0.8809, -6.118102026,
      0.7975, -7.115148017, 0.8162, -6.815308569, 0.8515, -6.519993057, 0.8766, -6.204119983,
      0.8885, -5.853871964, 0.8859, -6.109523091, 0.8959, -5.79832982,  0.8913, -5.482672118,
      0.8959, -5.171791386, 0.8971, -4.851705903, 0.9021, -4.517126416, 0.909,  -4.143573228,
      0.9139, -3.709075441, 0.9199, -3.499489089, 0.8692, -6.300769497, 0.8872, -5.953504836,
      0.89,   -5.642065153, 0.891,  -5.031376979, 0.8977, -4.680685696, 0.9035, -4.329846955,
      0.9078, -3.928486195, 0.7675, -8.56735134,  0.7705, -8.363211311, 0.7713, -8.107682739,
      0.7736, -7.823908741, 0.7775, -7.522878745, 0.7841, -7.218819279, 0.7971, -6.920818754,
      0.8329, -6.628932138, 0.8641, -6.323946875, 0.8804, -5.991399828, 0.7668, -8.781464495,
      0.7633, -8.663140179, 0.7678, -8.473531488, 0.7697, -8.247337057, 0.77,   -7.971428747,
      0.7749, -7.676129393, 0.7796, -7.352812702, 0.7897, -7.072065318, 0.8131, -6.774174009,
      0.8498, -6.478861916, 0.8741, -6.159517513, 0.8061, -6.835647144, 0.846,  -6.53165267,
      0.8751, -6.224098421, 0.8856, -5.910094889, 0.8919, -5.598599459, 0.8934, -5.290645224,
      0.894,  -4.974284616, 0.8957, -4.64454848,  0.9047, -4.290560426, 0.9129, -3.885055584,
      0.9209, -3.408378962, 0.9219, -3.13200249,  0.7739, -8.726767166, 0.7681, -8.66695597,
      0.7665, -8.511026475, 0.7703, -8.165388579, 0.7702, -7.886056648, 0.7761, -7.588043762,
      0.7809, -7.283412422, 0.7961, -6.995678626, 0.8253, -6.691862621, 0.8602, -6.392544977,
      0.8809, -6.067374056, 0.8301, -6.684029655, 0.8664, -6.378719832, 0.8834, -6.065855188,
      0.8898, -5.752272167, 0.8964, -5.132414673, 0.8963, -4.811352704, 0.9074, -4.098269308,
      0.9119, -3.66174277,  0.9228, -3.2644011};
  std::vector<double> x;
  std::vector<double> y;
  for (std::size_t i = 0; i < xy.size(); i += 2) {
    y.push_back(xy[i]);
    x.push_back(xy[i + 1]);
  }
  ASSERT_EQ(x.size(), 82U);
  EXPECT_GE(agreement("Filip", fit("polynomial 10", x, y),
                      {{-1467.48961422980, -2772.17959193342, -2316.37108160893, -1127.97394098372,
                        -354.478233703349, -75.1242017393757, -10.8753180355343, -1.06221498588947,
                        -0.670191154593408e-01, -0.246781078275479e-02, -0.402962525080404e-04},
                       {298.084530995537, 559.779865474950, 466.477572127796, 227.204274477751,
                        71.6478660875927, 15.2897178747400, 2.23691159816033, 0.221624321934227,
                        0.142363763154724e-01, 0.535617408889821e-03, 0.896632837373868e-05},
                       0.334801051324544e-02}),
            7);
}

TEST(CertifiedFits, LongleyHasSixPredictors) {
  const std::vector<double> y = {60323, 61122, 60171, 61187, 63221, 63639, 64989, 63761,
                                 66019, 67857, 68169, 66513, 68655, 69564, 69331, 70551};
  std::vector<std::vector<long double>> basis = {
      std::vector<long double>(16, 1),
      {83.0, 88.5, 88.2, 89.5, 96.2, 98.1, 99.0, 100.0, 101.2, 104.6, 108.4, 110.8, 112.6, 114.2, 115.7,
       116.9},
      {234289, 259426, 258054, 284599, 328975, 346999, 365385, 363112, 397469, 419180, 442769, 444546, 482704,
       502601, 518173, 554894},
      {2356, 2325, 3682, 3351, 2099, 1932, 1870, 3578, 2904, 2822, 2936, 4681, 3813, 3931, 4806, 4007},
      {1590, 1456, 1616, 1650, 3099, 3594, 3547, 3350, 3048, 2857, 2798, 2637, 2552, 2514, 2572, 2827},
      {107608, 108632, 109773, 110929, 112075, 113270, 115094, 116219, 117388, 118734, 120445, 121950, 123366,
       125368, 127852, 130081},
      {}};
  for (int year = 1947; year <= 1962; ++year) basis.back().push_back(year);
  const auto row_of = [&](std::size_t row, std::span<long double> values) {
    for (std::size_t j = 0; j < basis.size(); ++j) values[j] = basis[j][row];
  };
  const LinearFit fit = linear_fit({basis.size(), row_of}, y, {});
  ASSERT_FALSE(fit.singular());
  const std::vector<double> certified = {-3482258.63459582, 15.0618722713733,  -0.358191792925910e-01,
                                         -2.02022980381683, -1.03322686717359, -0.511041056535807e-01,
                                         1829.15146461355};
  double least = 16;
  for (std::size_t i = 0; i < 7; ++i) least = std::min(least, digits(fit.coefficients[i], certified[i]));
  std::cout << "Longley: parameters to " << least << " digits\n";
  EXPECT_GE(least, 9);
  const double variance = fit.sum_of_squares / 9;
  EXPECT_GE(digits(std::sqrt(variance), 304.854073561965), 9);
  EXPECT_GE(digits(std::sqrt(variance * fit.unscaled_covariance[0][0]), 890420.383607373), 9);
}

// A model of one's own, with two starting points, the first far from the result.
struct Nonlinear {
  std::string name;
  std::string model;
  std::vector<std::vector<double>> starts;
  Certified certified;
  std::vector<double> x;
  std::vector<double> y;
};

std::vector<Nonlinear> nonlinear_sets() {
  std::ifstream file(OPENSUM_TESTS_FOLDER "/fit/certified_nonlinear.txt");
  std::vector<Nonlinear> sets;
  for (std::string line; std::getline(file, line);) {
    std::istringstream words(line);
    std::string word;
    words >> word;
    const auto numbers = [&] {
      std::vector<double> all;
      for (double number = 0; words >> number;) all.push_back(number);
      return all;
    };
    if (word == "set") words >> sets.emplace_back().name;
    if (word == "model") std::getline(words, sets.back().model);
    if (word == "start") sets.back().starts.push_back(numbers());
    if (word == "certified") sets.back().certified.parameters = numbers();
    if (word == "errors") sets.back().certified.standard_errors = numbers();
    if (word == "residual_sd") words >> sets.back().certified.residual_sd;
    if (word != "data") continue;
    std::size_t count = 0;
    words >> count;
    for (std::size_t i = 0; i < count && std::getline(file, line); ++i) {
      std::istringstream pair(line);
      pair >> sets.back().x.emplace_back();
      pair >> sets.back().y.emplace_back();
    }
  }
  return sets;
}

// The model as a study has it: an equation in x and the parameters of `start`.
CurveModel model_of(const Nonlinear& set, const std::vector<double>& start) {
  FitModel written;
  written.name = "f";
  written.model = Passage::whole("model", set.model);
  for (std::size_t i = 0; i < start.size(); ++i) {
    written.start.emplace_back(Passage::whole("start", "b" + std::to_string(i + 1)),
                               Passage::whole("start", number_text(start[i], -1)));
  }
  written.x = Passage::whole("x", "x");
  written.y = Passage::whole("y", "y");
  FitPlan plan;
  plan.model = &written;
  plan.sheets.emplace_back();
  Scope scope;
  for (const char* name : {"x", "y"}) {
    scope.columns.emplace_back();
    scope.columns.back().symbol = name;
  }
  const UnitSystem units;
  const NullPolicy policy;
  Diagnostics diagnostics;
  check_fit(plan, 0, "sheet", scope, {scope, units, policy}, {}, diagnostics);
  EXPECT_TRUE(plan.sheets[0].good) << render(diagnostics);
  return plan.curve;
}

TEST(CertifiedFits, NonlinearModelsFromBothStartingPoints) {
  const std::vector<Nonlinear> sets = nonlinear_sets();
  ASSERT_EQ(sets.size(), 26U);
  double least = 16;
  for (const Nonlinear& set : sets) {
    for (std::size_t k = 0; k < 2; ++k) {
      const CurveModel model = model_of(set, set.starts[k]);
      const std::string name = set.name + " from start " + std::to_string(k + 1);
      const Curve curve = fit_curve(model, {set.x, set.y, {}, false});
      EXPECT_FALSE(curve.better_elsewhere) << name;
      const double all = agreement(name.c_str(), curve, set.certified);
      // What is left of this set is as small as the last digit of a double: only its parameters can be
      // compared.
      const bool exact = set.name == "Lanczos1";
      double of_parameters = 16;
      for (std::size_t i = 0; i < curve.parameters.size(); ++i)
        of_parameters = std::min(of_parameters, digits(curve.parameters[i], set.certified.parameters[i]));
      EXPECT_GE(exact ? of_parameters : all, 9) << name;
      least = std::min(least, exact ? of_parameters : all);
    }
  }
  std::cout << sets.size() << " sets from two starts each, to at least " << least << " digits\n";
  // The same power law by its own name, which needs no start.
  const Nonlinear& wood =
      *std::find_if(sets.begin(), sets.end(), [](const Nonlinear& s) { return s.name == "DanWood"; });
  EXPECT_GE(agreement("DanWood as power", fit("power", wood.x, wood.y), wood.certified), 8);
}

}  // namespace
}  // namespace opensum
