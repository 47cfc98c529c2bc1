// Standard uncertainties carried by the program: laws, worked numbers, sampling, and what is said of what is
// wrong or not known.
#include <gtest/gtest.h>

#include <cmath>
#include <cstdlib>
#include <nlohmann/json.hpp>
#include <random>
#include <sstream>

#include "program/program.h"

namespace opensum {
namespace {

struct Written {
  Outcome outcome;
  nlohmann::json columns;
};

// The columns of the only sheet `s` of a study, by their symbols, as a written file says.
Written run(const std::string& data, const std::string& study, const std::string& more = "") {
  const TempFolder folder;
  folder.write("t.csv", data);
  folder.write("study.toml", "[sheet.s]\ndata = 't.csv'\nwrite = ['csv', 'json']\n" + study + more);
  Written result;
  result.outcome = run_program(folder, {"run"});
  if (!folder.has("results/s.json")) return result;
  const nlohmann::json sheet = nlohmann::json::parse(folder.read("results/s.json"));
  for (const auto& column : sheet.at("columns"))
    result.columns[column.at("symbol").get<std::string>()] = column;
  return result;
}

double value(const Written& run, const std::string& symbol, std::size_t row = 0) {
  const auto& values = run.columns.at(symbol).at("values");
  return values.at(row).is_null() ? std::nan("") : values.at(row).get<double>();
}

TEST(Uncertainty, ObeysItsLaws) {
  const Written result = run("x [m],y [m],t [s]\n3,4,2\n5,1,0.5\n",
                             "columns.x.uncertainty = '0.1 m'\ncolumns.y.uncertainty = '2 %'\n"
                             "columns.t.uncertainty = '1 % + 0.02 s'\n"
                             "equations = '''\n"
                             "  none = x - x\n"
                             "  twice = 2 * x\n"
                             "  sum = x + y\n"
                             "  square = x * x\n"
                             "  power = x^2\n"
                             "  speed [km/h] = x / t\n"
                             "  again = speed * t / x in [1]\n"
                             "  chain = sum - y\n"
                             "  mean = row_mean(x, y)\n"
                             "  least = row_min(x, y)\n"
                             "  certain = 5 [m]\n"
                             "'''\n");
  ASSERT_EQ(result.outcome.code, 0) << result.outcome.err;
  for (std::size_t row = 0; row < 2; ++row) {
    const double x = row == 0 ? 3 : 5;
    const double y = row == 0 ? 4 : 1;
    const double t = row == 0 ? 2 : 0.5;
    const double ux = 0.1;
    const double uy = 0.02 * y;
    const double ut = 0.01 * t + 0.02;
    EXPECT_NEAR(value(result, "u(none)", row), 0, 1e-15);
    EXPECT_NEAR(value(result, "u(twice)", row), 2 * ux, 1e-12);
    EXPECT_NEAR(value(result, "u(sum)", row), std::hypot(ux, uy), 1e-12);
    EXPECT_NEAR(value(result, "u(square)", row), 2 * x * ux, 1e-12);
    EXPECT_NEAR(value(result, "u(power)", row), 2 * x * ux, 1e-12);
    EXPECT_NEAR(value(result, "u(speed)", row), 3.6 * x / t * std::hypot(ux / x, ut / t), 1e-9);
    EXPECT_NEAR(value(result, "u(again)", row), 0, 1e-12);
    EXPECT_NEAR(value(result, "u(chain)", row), ux, 1e-12);
    EXPECT_NEAR(value(result, "u(mean)", row), std::hypot(ux, uy) / 2, 1e-12);
    EXPECT_NEAR(value(result, "u(least)", row), x < y ? ux : uy, 1e-12);
  }
  EXPECT_FALSE(result.columns.contains("u(certain)")) << "what follows from nothing uncertain has none";
  EXPECT_EQ(result.columns.at("u(speed)").at("unit"), "km/h");
  EXPECT_EQ(result.columns.at("u(speed)").at("label"), "u(speed)");
}

// One thermometer reads both: what it is off by is the same, and falls out of a difference.
TEST(Uncertainty, OfOneInstrumentIsShared) {
  const std::string data = "a [degC],b [degC],c [degC]\n20,35,50\n";
  const std::string equations =
      "equations = '''\n  rise [K] = b - a\n  other [K] = c - a\n  mean [degC] = row_mean(a, b)\n'''\n";
  const Written result =
      run(data,
          "columns.a = { uncertainty = '0.1 K', uncertainty_shared = '0.3 K', instrument = 'T1' }\n"
          "columns.b = { uncertainty = '0.1 K', uncertainty_shared = '0.3 K', instrument = 'T1' }\n"
          "columns.c = { uncertainty_shared = { u = '0.8 K', k = 2 } }\n" +
              equations);
  ASSERT_EQ(result.outcome.code, 0) << result.outcome.err;
  EXPECT_NEAR(value(result, "u(rise)"), std::sqrt(2) * 0.1, 1e-12);
  EXPECT_NEAR(value(result, "u(other)"), std::sqrt(0.1 * 0.1 + 0.3 * 0.3 + 0.4 * 0.4), 1e-12);
  EXPECT_NEAR(value(result, "u(mean)"), std::sqrt(2 * 0.05 * 0.05 + 0.3 * 0.3), 1e-12);
  EXPECT_EQ(result.columns.at("u(mean)").at("unit"), "K");
}

// The end gauge of JCGM 100:2008, H.1: l = ls + d - ls (da theta + as dtheta), with the standard
// uncertainties of its table; the combined one is given as 32 nm.
TEST(Uncertainty, GivesTheWorkedNumberOfAnEndGauge) {
  const Written result =
      run("ls [nm],d [nm],da [1/K],theta [K],as [1/K],dtheta [K]\n50000623,215,0,-0.1,11.5e-6,0\n",
          "columns.ls.uncertainty = '25 nm'\ncolumns.d.uncertainty = '9.7 nm'\ncolumns.da.uncertainty = "
          "'0.58e-6 1/K'\n"
          "columns.theta.uncertainty = '0.41 K'\ncolumns.as.uncertainty = '1.2e-6 1/K'\n"
          "columns.dtheta.uncertainty = '0.029 K'\n"
          "equations = 'l [nm] = ls + d - ls * (da * theta + as * dtheta)'\n");
  ASSERT_EQ(result.outcome.code, 0) << result.outcome.err;
  EXPECT_EQ(std::lround(value(result, "u(l)")), 32);
  EXPECT_NEAR(value(result, "u(l)"), std::sqrt(25.0 * 25 + 9.7 * 9.7 + 2.9 * 2.9 + 16.675 * 16.675), 0.02);
}

// The impedance of JCGM 100:2008, H.2, as its second approach has it: three quantities measured together five
// times, correlations and all, each result by row and its mean with the standard error.
TEST(Uncertainty, GivesTheWorkedNumbersOfAnImpedance) {
  const Written result =
      run("V [V],I [mA],phi [rad]\n5.007,19.663,1.0456\n4.994,19.639,1.0438\n5.005,19.640,1.0468\n"
          "4.990,19.685,1.0428\n4.999,19.678,1.0433\n",
          "equations = '''\n  R [ohm] = V / I * cos(phi)\n  X [ohm] = V / I * sin(phi)\n  Z [ohm] = V / I\n"
          "  mR = col_mean(R)\n  sR = col_sem(R)\n  mX = col_mean(X)\n  sX = col_sem(X)\n  mZ = col_mean(Z)\n"
          "  sZ = col_sem(Z)\n  r = col_correlation(R, X)\n'''\n");
  ASSERT_EQ(result.outcome.code, 0) << result.outcome.err;
  EXPECT_NEAR(value(result, "mR"), 127.732, 0.0005);
  EXPECT_NEAR(value(result, "sR"), 0.071, 0.0005);
  EXPECT_NEAR(value(result, "mX"), 219.847, 0.0005);
  EXPECT_NEAR(value(result, "sX"), 0.295, 0.0005);
  EXPECT_NEAR(value(result, "mZ"), 254.260, 0.0005);
  EXPECT_NEAR(value(result, "sZ"), 0.236, 0.0005);
  EXPECT_NEAR(value(result, "r"), -0.588, 0.0005);
}

// The thermometer of JCGM 100:2008, H.3: a line through corrections, and the correction at 30 °C with its
// uncertainty by the covariance of both parameters.
TEST(Uncertainty, GivesTheWorkedNumbersOfAThermometer) {
  const Written result =
      run("t [degC],b [K]\n21.521,-0.171\n22.012,-0.169\n22.512,-0.166\n23.003,-0.159\n23.507,-0.164\n"
          "23.999,-0.165\n24.513,-0.156\n25.002,-0.157\n25.503,-0.159\n26.010,-0.161\n26.511,-0.160\n",
          "equations = '''\n  above = t - 20 [degC]\n  y1 = fit.f.intercept\n  y2 = fit.f.slope\n"
          "  s1 = u(fit.f.intercept)\n  s2 = u(fit.f.slope)\n  sd = fit.f.residual_sd\n"
          "  b30 = fit_value(f, 10 [K])\n  ub30 = u(b30)\n'''\n",
          "[fit.f]\nx = 'above'\ny = 'b'\n");
  ASSERT_EQ(result.outcome.code, 0) << result.outcome.err;
  EXPECT_NEAR(value(result, "y1"), -0.1712, 0.00005);
  EXPECT_NEAR(value(result, "s1"), 0.0029, 0.00005);
  EXPECT_NEAR(value(result, "y2"), 0.00218, 0.000005);
  EXPECT_NEAR(value(result, "s2"), 0.00067, 0.000005);
  EXPECT_NEAR(value(result, "sd"), 0.0035, 0.00005);
  EXPECT_NEAR(value(result, "b30"), -0.1494, 0.00005);
  EXPECT_NEAR(value(result, "ub30"), 0.0041, 0.00005);
}

// An interpolation brings the slope of the table along its key, between its rows, on one of them (the mean of
// both sides) and at its end, and the uncertainty of the two values there.
TEST(Uncertainty, IsCarriedThroughInterpolation) {
  const std::string table = "[sheet.table]\ntable = '''\nk [mm],v [g]\n0,0\n2,20\n6,100\n'''\n";
  const std::string sheet =
      "link.table = { match = 'x = k', how = 'interpolate' }\ncolumns.x.uncertainty = '0.01 mm'\n"
      "equations = 'y = table.v'\n";
  const Written by_key = run("x [mm]\n1\n4\n2\n6\n0\n", sheet, table);
  ASSERT_EQ(by_key.outcome.code, 0) << by_key.outcome.err;
  const double slopes[] = {10, 20, 15, 20, 10};
  for (std::size_t row = 0; row < 5; ++row)
    EXPECT_NEAR(value(by_key, "u(y)", row), 0.01 * slopes[row], 1e-8) << row;
  const Written both = run("x [mm]\n1\n3\n2\n", sheet, table + "columns.v.uncertainty = '3 g'\n");
  ASSERT_EQ(both.outcome.code, 0) << both.outcome.err;
  EXPECT_NEAR(value(both, "u(y)", 0), std::sqrt(0.1 * 0.1 + 2 * 1.5 * 1.5), 1e-8);
  EXPECT_NEAR(value(both, "u(y)", 1), std::sqrt(0.2 * 0.2 + 2.25 * 2.25 + 0.75 * 0.75), 1e-8);
  EXPECT_NEAR(value(both, "u(y)", 2), std::sqrt(0.15 * 0.15 + 3 * 3), 1e-8);
}

// Equations over three uncertain columns against sampling: the standard deviation of many values that are
// computed from inputs drawn at random, here, in another language.
TEST(Uncertainty, AgreesWithSampling) {
  const struct {
    const char* equation;
    double (*by_hand)(double, double, double);
  } rows[] = {
      {"a * b / c", [](double a, double b, double c) { return a * b / c; }},
      {"sqrt(a) + ln(b) * c", [](double a, double b, double c) { return std::sqrt(a) + std::log(b) * c; }},
      {"exp(a / 10) - b^2 / c", [](double a, double b, double c) { return std::exp(a / 10) - b * b / c; }},
      {"(a - b) / (a + b)", [](double a, double b, double) { return (a - b) / (a + b); }},
      {"if(a > b, a * c, b)", [](double a, double b, double c) { return a > b ? a * c : b; }},
      {"row_sd(a, b, c)",
       [](double a, double b, double c) {
         const double m = (a + b + c) / 3;
         return std::sqrt(((a - m) * (a - m) + (b - m) * (b - m) + (c - m) * (c - m)) / 2);
       }},
      {"sin(a) * atan(b) + abs(c - a)",
       [](double a, double b, double c) { return std::sin(a) * std::atan(b) + std::fabs(c - a); }},
  };
  std::mt19937_64 random(77);
  std::normal_distribution<double> normal(0, 1);
  std::size_t compared = 0;
  for (const auto& row : rows) {
    const Written result =
        run("a,b,c\n9,4,2.5\n7.5,3,6\n",
            std::string("columns.a.uncertainty = '0.004'\ncolumns.b.uncertainty = '0.003'\n"
                        "columns.c.uncertainty = '0.002'\nequations = 'y = ") +
                row.equation + "'\n");
    ASSERT_EQ(result.outcome.code, 0) << result.outcome.err;
    for (std::size_t k = 0; k < 2; ++k) {
      const double at[2][3] = {{9, 4, 2.5}, {7.5, 3, 6}};
      constexpr int kTrials = 200'000;
      double sum = 0;
      double squares = 0;
      for (int i = 0; i < kTrials; ++i) {
        const double y = row.by_hand(at[k][0] + 0.004 * normal(random), at[k][1] + 0.003 * normal(random),
                                     at[k][2] + 0.002 * normal(random));
        const double off = y - row.by_hand(at[k][0], at[k][1], at[k][2]);
        sum += off;
        squares += off * off;
      }
      const double sd = std::sqrt(squares / kTrials - sum * sum / kTrials / kTrials);
      // Five standard errors of a standard deviation from so many trials.
      EXPECT_NEAR(value(result, "u(y)", k), sd, 5 * sd / std::sqrt(2.0 * kTrials))
          << row.equation << " row " << k;
      ++compared;
    }
  }
  EXPECT_EQ(compared, 14U);
}

TEST(Uncertainty, OfHeadersColumnsAndHalfWidths) {
  const Written result =
      run("x [g],u(x) [mg],y [g],z [g],uz [mg]\n2,50,3,4,20\n2,,3,,20\n",
          "columns.y.uncertainty = { half_width = '0.3 g' }\ncolumns.z.uncertainty = 'uz'\n"
          "equations = '''\n  a = 2 * x\n  b = y + 0 [g]\n  c = z + y\n'''\n");
  ASSERT_EQ(result.outcome.code, 0) << result.outcome.err;
  EXPECT_NEAR(value(result, "u(a)"), 0.1, 1e-12);
  EXPECT_TRUE(std::isnan(value(result, "u(a)", 1))) << "a null uncertainty gives one that is null";
  EXPECT_NEAR(value(result, "u(b)"), 0.3 / std::sqrt(3), 1e-12);
  EXPECT_NEAR(value(result, "u(c)"), std::hypot(0.02, 0.3 / std::sqrt(3)), 1e-12);
  EXPECT_TRUE(std::isnan(value(result, "u(c)", 1))) << "a null value has none";
}

// A fit by uncertainties: of equal ones it is the plain one with known errors, of unequal ones that of a
// fixed point which is found here in another way.
TEST(Uncertainty, WeighsThePointsOfFits) {
  const std::string fit = "[fit.f]\nx = 'x'\ny = 'y'\nweights = 'uncertainty'\n";
  const std::string equations =
      "equations = '''\nb = fit.f.slope\nub = u(fit.f.slope)\nq = fit.f.reduced_chi2\n'''\n";
  const double x[] = {1, 2, 3, 4, 5, 7};
  const double y[] = {2.1, 3.9, 6.4, 7.7, 10.3, 14.2};
  std::string data = "x [s],y [m],ux [s],uy [cm]\n";
  for (std::size_t i = 0; i < 6; ++i)
    data += std::to_string(x[i]) + "," + std::to_string(y[i]) + "," +
            std::to_string(0.01 * static_cast<double>(1 + i % 3)) + "," + std::to_string(5 + 2 * (i % 2)) +
            "\n";
  const Written equal =
      run(data, "columns.x.uncertainty = '0.03 s'\ncolumns.y.uncertainty = '0.05 m'\n" + equations, fit);
  ASSERT_EQ(equal.outcome.code, 0) << equal.outcome.err;
  const auto line = [&](const std::vector<double>& w) {
    double s = 0, sx = 0, sy = 0, sxx = 0, sxy = 0;
    for (std::size_t i = 0; i < 6; ++i) {
      s += w[i];
      sx += w[i] * x[i];
      sy += w[i] * y[i];
      sxx += w[i] * x[i] * x[i];
      sxy += w[i] * x[i] * y[i];
    }
    const double determinant = s * sxx - sx * sx;
    return std::make_pair((s * sxy - sx * sy) / determinant, std::sqrt(s / determinant));
  };
  const auto [plain, unit_error] = line(std::vector<double>(6, 1));
  EXPECT_NEAR(value(equal, "b"), plain, 1e-9);
  // The residuals, which move with x, too, are small beside y.
  EXPECT_NEAR(value(equal, "ub"), unit_error * std::hypot(0.05, plain * 0.03), 5e-5);
  const Written unequal =
      run(data, "columns.x.uncertainty = 'ux'\ncolumns.y.uncertainty = 'uy'\n" + equations, fit);
  ASSERT_EQ(unequal.outcome.code, 0) << unequal.outcome.err;
  double slope = 2;
  for (int round = 0; round < 60; ++round) {
    std::vector<double> weights;
    for (std::size_t i = 0; i < 6; ++i) {
      const double uy = 0.01 * static_cast<double>(5 + 2 * (i % 2));
      const double ux = 0.01 * static_cast<double>(1 + i % 3);
      weights.push_back(1 / (uy * uy + slope * slope * ux * ux));
    }
    slope = line(weights).first;
  }
  EXPECT_NEAR(value(unequal, "b"), slope, 1e-8);
  EXPECT_NE(unequal.outcome.out.find("weighted by u(y) and u(x), effective variance"), std::string::npos)
      << unequal.outcome.out;
}

// Cells state their own; those that do not have what is said of the column, and else none that is known.
TEST(Uncertainty, OfCellsIsTheirOwn) {
  const std::string data = "x [g],y\n5.03(4),1\n1.2 ± 0.3,2\n7,3\n";
  const std::string equations = "equations = 'z = 2 * x'\n";
  const Written alone = run(data, equations);
  ASSERT_EQ(alone.outcome.code, 0) << alone.outcome.err;
  EXPECT_NE(alone.outcome.err.find("which is taken for a standard uncertainty"), std::string::npos);
  EXPECT_NEAR(value(alone, "u(z)", 0), 0.08, 1e-12);
  EXPECT_NEAR(value(alone, "u(z)", 1), 0.6, 1e-12);
  EXPECT_TRUE(std::isnan(value(alone, "u(z)", 2)));
  EXPECT_NEAR(value(alone, "u(x)", 1), 0.3, 1e-12) << "nothing that was read is lost";
  const Written expanded = run(data, "columns.x.uncertainty = { u = 'cells', k = 2 }\n" + equations);
  EXPECT_NEAR(value(expanded, "u(z)", 1), 0.3, 1e-12);
  EXPECT_EQ(expanded.outcome.err.find("taken for"), std::string::npos) << expanded.outcome.err;
  const Written others = run(data, "columns.x.uncertainty = '0.5 g'\n" + equations);
  EXPECT_NEAR(value(others, "u(z)", 0), 0.08, 1e-12);
  EXPECT_NEAR(value(others, "u(z)", 2), 1, 1e-12);
}

// What cannot be carried is null and said, never a number; and so is that of a cell whose fill has none.
TEST(Uncertainty, ThatIsNotKnownIsNullAndSaid) {
  const Written result =
      run("x [m],y [m]\n3,4\n5,1.2\n4,2\n6,0.7\n,2\n",
          "columns.x.uncertainty = '0.1 m'\nfill.x = '5 [m]'\n"
          "equations = '''\n  off = x * fit.f.r2\n  then = 2 * off\n  plain = x + y\n'''\n",
          "[fit.f]\nx = 'x'\ny = 'y'\n");
  ASSERT_EQ(result.outcome.code, 0) << result.outcome.err;
  EXPECT_NE(result.outcome.err.find("the uncertainty of off, then is not known"), std::string::npos)
      << result.outcome.err;
  for (std::size_t row = 0; row < 5; ++row) {
    EXPECT_TRUE(std::isnan(value(result, "u(off)", row)));
    EXPECT_TRUE(std::isnan(value(result, "u(then)", row)));
  }
  EXPECT_NEAR(value(result, "u(plain)", 0), 0.1, 1e-12);
  EXPECT_TRUE(std::isnan(value(result, "u(plain)", 4))) << "of a cell filled by a constant nothing is known";
}

// Uncertainties are quantities: of columns, measured and derived, and of what a fit found; numbers have
// theirs behind ±.
TEST(Uncertainty, IsAQuantityInEquations) {
  const Written result =
      run("x [m],T [degC]\n3,20\n5,21\n4,23\n6,24\n",
          "columns.x.uncertainty = '0.1 m'\ncolumns.T.uncertainty = '0.2 K'\n"
          "equations = '''\n  y = x^2\n  part [%] = u(y) / y\n  of_x [cm] = u(x)\n  of_t = u(T)\n"
          "  wide = y + 2 * u(y)\n  of_slope = u(fit.f.slope)\n  slope = fit.f.slope\n  same = u(slope)\n"
          "  big = u(x) > 5 [cm]\n  long = (2 ± 0.1) * 3 [m]\n  longer = long + k\n  of_long = u(long)\n'''\n"
          "claims = '\"y is known to 10 %\": u(y) / y < 10 %'\n",
          "[fit.f]\nx = 'x'\ny = 'T'\n");
  EXPECT_EQ(result.outcome.code, 3) << "k is no constant";
  const Written good =
      run("x [m],T [degC]\n3,20\n5,21\n4,23\n6,24\n",
          "columns.x.uncertainty = '0.1 m'\ncolumns.T.uncertainty = '0.2 K'\n"
          "equations = '''\n  y = x^2\n  part [%] = u(y) / y\n  of_x [cm] = u(x)\n  of_t = u(T)\n"
          "  wide = y + 2 * u(y)\n  of_slope = u(fit.f.slope)\n  slope = fit.f.slope\n  same = u(slope)\n"
          "  big = u(x) > 5 [cm]\n  long = (2 ± 0.1) * 3 [m]\n  of_long = u(long)\n'''\n"
          "claims = '\"y is known to 10 %\": u(y) / y < 10 [%]'\n",
          "[fit.f]\nx = 'x'\ny = 'T'\n");
  ASSERT_EQ(good.outcome.code, 0) << good.outcome.err;
  EXPECT_NEAR(value(good, "part", 1), 100 * 2 * 0.1 / 5, 1e-9);
  EXPECT_NEAR(value(good, "of_x"), 10, 1e-9);
  EXPECT_NEAR(value(good, "of_t"), 0.2, 1e-12);
  EXPECT_EQ(good.columns.at("of_t").at("unit"), "K");
  EXPECT_NEAR(value(good, "wide", 1), 25 + 2 * 1, 1e-9);
  EXPECT_NEAR(value(good, "of_long", 2), 0.3, 1e-12);
  EXPECT_EQ(value(good, "same"), value(good, "u(slope)"));
}

// An uncertainty that is negative, null or of no finite size is counted in the summary.
TEST(Uncertainty, ThatIsNotKnownInSomeRowsIsCounted) {
  const Written result = run("x [m],u(x) [m]\n1,-0.1\n2,0.5\n3,1e200\n4,\n0,0.1\n",
                             "equations = '''\n  z = 2 * x\n  root = sqrt(x)\n'''\n");
  ASSERT_EQ(result.outcome.code, 0) << result.outcome.err;
  EXPECT_NE(result.outcome.out.find("uncertainty not known: z (2 of 5); root (3 of 5)\n"), std::string::npos)
      << result.outcome.out;
  EXPECT_NEAR(value(result, "u(z)", 1), 1, 1e-12);
  EXPECT_NEAR(value(result, "u(z)", 2), 2e200, 1e186) << "the square of which no double holds";
}

TEST(Uncertainty, IsAskedForOfNumbersThatHaveOne) {
  const struct {
    const char* equation;
    const char* words;
  } rows[] = {
      {"a = u(g)", "g is a text column, which has no uncertainty"},
      {"a = u()", "u takes"},
      {"a = u(x + x)", "u(…) takes a column or a parameter of a fit, not `x + x`"},
      {"a = u(t)", "t follows from nothing of which an uncertainty is stated"},
      {"a = x ± 2", "± stands after `x`, which is no number"},
      {"a = 3 ± 0", "the standard uncertainty `0` is not above 0"},
      {"a = t_quantile(0.9, x)", "plain number"},
  };
  for (const auto& row : rows) {
    const Written result =
        run("t [degC],g,x [m]\n20,a,1\n21,b,2\n",
            std::string("columns.x.uncertainty = '1 cm'\nequations = '") + row.equation + "'\n");
    EXPECT_EQ(result.outcome.code, 3) << row.equation;
    EXPECT_NE(result.outcome.err.find(row.words), std::string::npos) << row.equation << "\n"
                                                                     << result.outcome.err;
  }
}

TEST(Uncertainty, SaysWhatIsWrong) {
  const struct {
    const char* setting;
    const char* words;
  } rows[] = {
      {"columns.t.uncertainty = '0.1 degC'", "`0.1 degC` is no standard uncertainty of t"},
      {"columns.t.uncertainty = '5 kg'", "is no standard uncertainty of t"},
      {"columns.t.uncertainty = 'about 1'", "is no standard uncertainty of t"},
      {"columns.t.uncertainty = '0 K'", "is not above 0"},
      {"columns.t.uncertainty = '-0.1 K'", "is not above 0"},
      {"columns.g.uncertainty = '0.1'", "g is a text column, which has no uncertainty"},
      {"columns.x.uncertainty = '0.1 m'", "the uncertainty of x is stated twice"},
      {"columns.t.uncertainty = { u = '0.1 K', k = 0 }", "a coverage factor above 0"},
      {"columns.t.uncertainty = { k = 2 }", "a text such as \"0.1 K\""},
      {"columns.t.uncertainty = 5", "a text such as \"0.1 K\""},
  };
  for (const auto& row : rows) {
    const Written result = run("t [degC],g,x [m],u(x) [m]\n20,a,1,0.1\n21,b,2,0.1\n",
                               std::string(row.setting) + "\nequations = 'y = x + 1 [m]'\n");
    EXPECT_EQ(result.outcome.code, 3) << row.setting;
    EXPECT_NE(result.outcome.err.find(row.words), std::string::npos) << row.setting << "\n"
                                                                     << result.outcome.err;
  }
}

TEST(Uncertainty, IsShownAsABudget) {
  const TempFolder folder;
  folder.write("t.csv", "flow [L/min],rise [K]\n6,20\n10,15\n");
  folder.write(
      "study.toml",
      "[sheet.s]\ndata = 't.csv'\ncolumns.flow.uncertainty = '2 %'\ncolumns.rise.uncertainty = '0.1 K'\n"
      "equations = 'duty [kW] = flow * 4.18 [kJ/(kg K)] * 0.997 [kg/L] * rise'\n"
      "[plot.p]\nx = 'flow'\ny = 'duty'\n");
  const Outcome explained = run_program(folder, {"explain", "duty", "--row", "1"});
  ASSERT_EQ(explained.code, 0) << explained.err;
  // The flow: 2 % of the duty of 8.33 kW; the rise: 0.1 K of 20 K.
  EXPECT_NE(
      explained.out.find("standard uncertainty 0.17 kW, from\n"
                         "  flow  u = 0.12 L/min  sensitivity 1.39 kW min/L  contributes 0.17 kW   94.1 %\n"
                         "  rise  u = 0.1 K       sensitivity 0.417 kW/K     contributes 0.042 kW  5.88 %\n"),
      std::string::npos)
      << explained.out;
  ASSERT_EQ(run_program(folder, {"run"}).code, 0);
  EXPECT_NE(folder.read("results/report.html").find("8.33(17)"), std::string::npos);
  EXPECT_NE(
      folder.read("results/report.html").find("Standard uncertainties were 2 % for flow and 0.1 K for rise"),
      std::string::npos);
  const Outcome check = run_program(folder, {"check"});
  EXPECT_NE(check.out.find("standard uncertainty: flow 2 %; rise 0.1 K"), std::string::npos) << check.out;
  // Error bars stand in the figure by themselves, and without a study the option says the same.
  EXPECT_NE(folder.read("results/s.csv").find("u(duty) [kW]"), std::string::npos);
  const Outcome derived = run_program(folder, {"derive", "t.csv", "twice = 2 * rise", "--uncertainty",
                                               "rise=0.1 K,flow=2 %", "--format", "csv"});
  EXPECT_EQ(derived.out, "flow [L/min],rise [K],twice [K],u(twice) [K]\n6,20,40,0.2\n10,15,30,0.2\n")
      << derived.err;
}

// The report takes the cells apart that the study names; with a coverage they have an expanded uncertainty,
// by Student's t where a part of it was estimated from a few points.
TEST(Uncertainty, IsTakenApartInTheReport) {
  const TempFolder folder;
  const std::string sheet =
      "[sheet.s]\ntable = '''\nx [m],y [g]\n1,2.1\n2,3.9\n3,6.2\n4,7.8\n'''\n"
      "equations = '''\n  z = x * (3 ± 0.2)\n  v = fit_value(f, x)\n  m = col_mean(z)\n  r = round(z, to: 1 "
      "[m])\n'''\n"
      "[fit.f]\nx = 'x'\ny = 'y'\n";
  folder.write("study.toml", "budget = ['z row 3', 's.v row 1', 'm']\ncoverage = '95 %'\n" + sheet);
  const Outcome outcome = run_program(folder, {"run"});
  ASSERT_EQ(outcome.code, 0) << outcome.err;
  const std::string report = folder.read("results/report.html");
  for (const char* words :
       {"Uncertainty budgets", "s.z, row 3", "s.v, row 1", "s.m, row 1", "standard uncertainty 0.6 m",
        "expanded 1.2 m for 95 %, k = 1.96, infinitely many effective degrees of freedom",
        // Of two degrees of freedom: t is 4.30.
        "k = 4.3, 2 effective degrees of freedom"})
    EXPECT_NE(report.find(words), std::string::npos) << words;
  EXPECT_EQ(folder.read("results/s.csv").find("u(r)"), std::string::npos) << "steps have no uncertainty";
  const struct {
    const char* budget;
    int code;
    const char* words;
  } rows[] = {{"'q'", 3, "no sheet has a column `q`"},
              {"'z row none'", 3, "`z row none` is no cell"},
              {"'r'", 3, "r follows from nothing of which an uncertainty is stated"},
              {"'z row 9'", 4, "there is no row 9 in s; it has 4 in all"}};
  for (const auto& row : rows) {
    folder.write("study.toml", std::string("budget = [") + row.budget + "]\n" + sheet);
    const Outcome wrong = run_program(folder, {"run", "--output", "other"});
    EXPECT_EQ(wrong.code, row.code) << row.budget;
    EXPECT_NE(wrong.err.find(row.words), std::string::npos) << wrong.err;
    EXPECT_FALSE(folder.has("other/record.json"));
  }
}

// Looking at a file and beginning a study say what is stated.
TEST(Uncertainty, OfAFaultyColumnIsNoFaultOfItsOwn) {
  const TempFolder folder;
  folder.write("t.csv", "x [m]\n1\n");
  folder.write("study.toml",
               "budget = ['s.y row 1']\n[sheet.s]\ndata = 't.csv'\ncolumns.x.uncertainty = '1 cm'\n"
               "equations = 'y = 2 * xx'\n");
  for (const char* command : {"run", "check"}) {
    const Outcome outcome = run_program(folder, {command});
    EXPECT_EQ(outcome.code, 3);
    EXPECT_NE(outcome.err.find("there is no column or constant `xx`"), std::string::npos) << outcome.err;
    EXPECT_EQ(outcome.err.find("follows from nothing"), std::string::npos) << outcome.err;
  }
}

TEST(Uncertainty, IsSeenByLookAndNew) {
  const TempFolder folder;
  folder.write("t.csv", "x [g],u(x) [mg],y,w [s]\n1,2,3.0(1),5\n2,3,4.0(2),6\n");
  const Outcome seen = run_program(folder, {"look", "t.csv"});
  ASSERT_EQ(seen.code, 0) << seen.err;
  EXPECT_NE(seen.out.find("standard uncertainty of x: by u_x\nstandard uncertainty of y: by its cells\n"),
            std::string::npos)
      << seen.out;
  ASSERT_EQ(run_program(folder, {"new", "t.csv"}).code, 0);
  EXPECT_NE(folder.read("study.toml").find("# columns.w.uncertainty = \"2 %\""), std::string::npos);
  EXPECT_EQ(run_program(folder, {"run"}).code, 0);
}

// The same bytes for any number of threads and rows.
TEST(Uncertainty, IsTheSameOnAnyNumberOfThreads) {
  const TempFolder folder;
  std::string data = "x [m],y [s]\n";
  for (int i = 0; i < 100'000; ++i)
    data += std::to_string(i % 977 + 1) + "," + std::to_string(i % 31 + 1) + "\n";
  folder.write("t.csv", data);
  folder.write(
      "study.toml",
      "[sheet.s]\ndata = 't.csv'\ncolumns.x.uncertainty = '1 %'\ncolumns.y.uncertainty_shared = '0.01 s'\n"
      "equations = 'v [km/h] = x / y'\n");
  ASSERT_EQ(run_program(folder, {"run", "--threads", "1", "--output", "one"}).code, 0);
  ASSERT_EQ(run_program(folder, {"run", "--threads", "7", "--output", "seven"}).code, 0);
  const std::string one = folder.read("one/s.csv");
  EXPECT_EQ(one, folder.read("seven/s.csv"));
  EXPECT_NE(one.find("u(v) [km/h]"), std::string::npos);
}

}  // namespace
}  // namespace opensum
