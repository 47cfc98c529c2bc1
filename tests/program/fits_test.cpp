// Curves fitted to the rows of sheets, and what equations, figures and the command line make of them.
#include <gtest/gtest.h>

#include <cmath>
#include <nlohmann/json.hpp>

#include "program/program.h"

namespace opensum {
namespace {

const std::string kFitsData =
    "site,t [min],V [mV]\na,0,1\na,1,3.1\na,2,4.9\na,3,7\na,4,\nb,0,10\nb,1,8.1\nb,2,5.9\nb,3,4\n";

Outcome run(const TempFolder& folder, const std::string& study, const std::string& data = kFitsData) {
  folder.write("t.csv", data);
  folder.write("study.toml", "headers = 'symbol'\n" + study);
  return run_program(folder, {"run"});
}

// Straight lines through four points by the textbook's sums.
struct Line {
  double intercept;
  double slope;
};
Line line_through(const std::vector<double>& y) {
  double sum = 0;
  double moment = 0;
  for (std::size_t i = 0; i < y.size(); ++i) {
    sum += y[i];
    moment += static_cast<double>(i) * y[i];
  }
  const auto n = static_cast<double>(y.size());
  const double mean_x = (n - 1) / 2;
  const double slope = (moment - mean_x * sum) / (n * (n * n - 1) / 12);
  return {sum / n - slope * mean_x, slope};
}

double field(const std::string& csv, const std::string& begin) {
  const std::size_t at = csv.find(begin);
  return at == std::string::npos ? std::nan("") : std::stod(csv.substr(at + begin.size()));
}

TEST(Fits, HaveParametersWithUnitsForEachGroup) {
  const TempFolder folder;
  const Outcome outcome =
      run(folder,
          "[sheet.run]\ndata = 't.csv'\nequations = '''\n  u [uV] = V\n"
          "  model = fit_value(drift, t)\n  rest [mV] = u - model\n  speed [V/h] = fit.drift.slope\n"
          "  when [s] = fit_solve(drift, V)\n'''\n[fit.drift]\nx = 't'\ny = 'V'\nby = 'site'\n");
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  const std::string fits = folder.read("results/fits.csv");
  const Line a = line_through({1, 3.1, 4.9, 7});
  const Line b = line_through({10, 8.1, 5.9, 4});
  EXPECT_NEAR(field(fits, "drift,run,a,intercept,"), a.intercept, 1e-11);
  EXPECT_NEAR(field(fits, "drift,run,a,slope,"), a.slope, 1e-11);
  EXPECT_NEAR(field(fits, "drift,run,b,slope,"), b.slope, 1e-11);
  EXPECT_NE(fits.find("drift,run,a,n,4,,1\n"), std::string::npos) << fits;
  EXPECT_NE(outcome.out.find("fit drift: line of V to t\n"
                             "                      run, a      run, b\n"),
            std::string::npos)
      << outcome.out;
  EXPECT_NE(outcome.out.find("  points              4 (1 null)  4\n"), std::string::npos) << outcome.out;
  const std::string csv = folder.read("results/run.csv");
  // The group's own curve: at t = 2 min in the second group.
  const std::size_t row = csv.find("b,2,5.9,");
  ASSERT_NE(row, std::string::npos) << csv;
  EXPECT_NEAR(std::stod(csv.substr(csv.find(',', row + 8) + 1)), b.intercept + 2 * b.slope, 1e-11);
  EXPECT_NE(csv.find("a,4,,,"), std::string::npos) << csv;
}

TEST(Fits, AreReadBackwardsWithinTheirRange) {
  const TempFolder folder;
  const Outcome outcome =
      run(folder,
          "[sheet.gauge]\ntable = '''\nc [mg/L],signal [mV]\n0,1\n1,3\n2,5\n3,7\n4,9\n'''\n"
          "[sheet.run]\ntable = '''\ns [V]\n0.004\n0.0091\n0.009\n-1\n\n'''\n"
          "equations = '''\n  c [ug/L] = fit_solve(cal, s)\n  back [mV] = fit_value(cal, c)\n"
          "  same = fit_solve(cal.gauge, s)\n  k = fit.cal.gauge.slope\n'''\n"
          "[fit.cal]\nsheet = 'gauge'\nx = 'c'\ny = 'signal'\n");
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(folder.read("results/run.csv"),
            "s,c,back,same,k\n0.004,1500,4,1.5,2\n0.0091,,,,2\n0.009,4000,9,4,2\n-1,,,,2\n");
  EXPECT_NE(folder.read("results/nulls.csv").find("run,2,3,c,null,out_of_range"), std::string::npos)
      << folder.read("results/nulls.csv");
  const Outcome cell = run_program(folder, {"explain", "run.c", "--row", "1"});
  EXPECT_NE(cell.out.find("from the fit line of signal to c in gauge"), std::string::npos) << cell.out;
}

TEST(Fits, ACurveThatComesTwiceIsAmbiguous) {
  const TempFolder folder;
  run(folder,
      "[sheet.s]\ntable = '''\nx,y,want\n-2,4,1\n-1,1,4\n0,0,9\n1,1,2\n2,4,0.5\n'''\n"
      "equations = 'back = fit_solve(p, want)'\n[fit.p]\nx = 'x'\ny = 'y'\nmodel = 'polynomial 2'\n");
  const std::string nulls = folder.read("results/nulls.csv");
  EXPECT_NE(nulls.find("s,1,2,back,null,ambiguous"), std::string::npos) << nulls;
  EXPECT_NE(nulls.find("s,3,4,back,null,out_of_range"), std::string::npos) << nulls;
}

TEST(Fits, EquationsOfOnesOwnHaveUnits) {
  // V = 5 (1 - exp(-t / 20 s)), without scatter but for one digit.
  std::string data = "t [s],V [mV]\n";
  for (int i = 1; i <= 12; ++i) {
    data += std::to_string(i * 5) + "," + std::to_string(5000 * (1 - std::exp(-i * 5 / 20.0))) + "\n";
  }
  const TempFolder folder;
  const Outcome outcome =
      run(folder,
          "[sheet.run]\ndata = 't.csv'\nequations = 'tau [s] = fit.rise.tau'\n[fit.rise]\nx = 't'\ny = 'V'\n"
          "model = 'a * (1 - exp(-x / tau))'\nstart = { a = '1 V', tau = '0.1 min' }\n",
          data);
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  const std::string fits = folder.read("results/fits.csv");
  EXPECT_NEAR(field(fits, "rise,run,,a,"), 5, 1e-6) << fits;
  EXPECT_NEAR(field(fits, "rise,run,,tau,"), 20.0 / 60, 1e-7) << fits;
  EXPECT_NE(fits.find(",V\n"), std::string::npos) << fits;
}

TEST(Fits, ReadBackwardsSayTheirRangeAndTheSide) {
  const TempFolder folder;
  const Outcome outcome =
      run(folder,
          "[sheet.cal]\ndata = 't.csv'\n[sheet.s]\ntable = '''\ny [mV]\n500\n2500\n-900\n'''\n"
          "equations = 'c [ug] = fit_solve(line.cal, y)'\n[fit.line]\nsheets = ['cal']\nx = "
          "'c'\ny = 'y'\nmodel = 'line'\n",
          "c [mg],y [V]\n0,0.02\n5,1.01\n10,1.97\n");
  ASSERT_EQ(outcome.code, 0) << outcome.err;
  const std::string range = "fitted from 0 mg to 10 mg, where the curve goes from 0.025 V to 1.975 V";
  const char* const sides[] = {"1.975 V\n", "1.975 V; 2.5 V is above that\n",
                               "1.975 V; -0.9 V is below that\n"};
  for (std::size_t row = 0; row < 3; ++row) {
    const Outcome explained = run_program(folder, {"explain", "s.c", "--row", std::to_string(row + 1)});
    EXPECT_NE(explained.out.find(range), std::string::npos) << explained.out;
    EXPECT_NE(explained.out.find(sides[row]), std::string::npos) << explained.out;
  }
}

// A bell fitted to points without one stands on one of them: any height and width do.
TEST(Fits, OfABellWithoutOneGiveNoNumber) {
  const TempFolder folder;
  const Outcome outcome = run(
      folder,
      "[sheet.s]\ndata = 't.csv'\nequations = 'm = fit.bell.m'\n[fit.bell]\nx = 'x'\ny = 'y'\nmodel = 'a * "
      "exp(-(x - m)^2 / (2 * s^2)) + c'\n",
      "x,y\n1,146\n2,152\n3,139\n4,160\n5,144\n6,131\n7,150\n8,148\n9,171\n10,143\n11,138\n12,155\n");
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_NE(outcome.err.find("do not tell a, m and s apart"), std::string::npos) << outcome.err;
  EXPECT_NE(folder.read("results/nulls.csv").find("failed_fit"), std::string::npos);
}

TEST(Fits, DatesCountFromTheFirst) {
  const TempFolder folder;
  const Outcome outcome = run(folder,
                              "[sheet.run]\ndata = 't.csv'\nequations = '''\n  trend = fit_value(f, day)\n"
                              "  per_day [mm/d] = fit.f.slope\n  when = fit_solve(f, h)\n'''\n"
                              "[fit.f]\nx = 'day'\ny = 'h'\n",
                              "day,h [mm]\n2031-04-02,1\n2031-04-03,3\n2031-04-05,7\n");
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(folder.read("results/run.csv"),
            "day,h,trend,per_day,when\n2031-04-02,1,1,2,2031-04-02\n2031-04-03,3,3,2,2031-04-03\n"
            "2031-04-05,7,7,2,2031-04-05\n");
}

TEST(Fits, WeightsAndConditionsChooseThePoints) {
  const TempFolder folder;
  const Outcome outcome =
      run(folder, "[sheet.run]\ndata = 't.csv'\n[fit.p]\nx = 'x'\ny = 'y'\nweights = 'w'\nkeep = 'x < 9'\n",
          "x,y,w\n0,0,1\n1,1,1\n2,2,1\n3,300,0\n4,4,2\n5,,1\n9,1,1\n");
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  const std::string fits = folder.read("results/fits.csv");
  EXPECT_NEAR(field(fits, "p,run,,slope,"), 1, 1e-12) << fits;
  EXPECT_NE(fits.find("p,run,,n,4,"), std::string::npos) << fits;
}

TEST(Fits, WhatCannotBeFittedIsSaidAndNull) {
  const TempFolder folder;
  const Outcome outcome =
      run(folder,
          "[sheet.run]\ndata = 't.csv'\nequations = '''\n  a = fit.few.slope\n  b = fit.steep.slope\n'''\n"
          "[fit.few]\nx = 'x'\ny = 'y'\nkeep = 'x > 1'\n[fit.steep]\nx = 'one'\ny = 'y'\n"
          "[fit.log]\nx = 'x'\ny = 'y'\nmodel = 'logarithm'\n",
          "x,y,one\n0,0,1\n1,1,1\n2,2,1\n3,3,1\n");
  EXPECT_EQ(outcome.code, 0);
  EXPECT_NE(outcome.err.find(
                "the fit few gives nothing for run (points: 2): there are no more points than parameters"),
            std::string::npos)
      << outcome.err;
  EXPECT_NE(outcome.err.find("do not tell intercept and slope apart"), std::string::npos) << outcome.err;
  EXPECT_NE(outcome.err.find("no value for some x"), std::string::npos) << outcome.err;
  const std::string nulls = folder.read("results/nulls.csv");
  EXPECT_NE(nulls.find("run,1,2,a,null,too_few"), std::string::npos) << nulls;
  EXPECT_NE(nulls.find("run,1,2,b,null,failed_fit"), std::string::npos) << nulls;
  EXPECT_NE(folder.read("results/fits.csv").find("few,run,,slope,,,"), std::string::npos);
}

TEST(Fits, AreDrawnWithTheirEquation) {
  const TempFolder folder;
  const Outcome outcome =
      run(folder,
          "[sheet.run]\ndata = 't.csv'\nkeep = 'site == \"a\"'\n[plot.p]\nx = 't'\ny = 'V'\nfit = 'line'\n"
          "formats = ['svg']\n");
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_NE(outcome.out.find("fit plot.p of run: line of V to t, 4 points"), std::string::npos)
      << outcome.out;
  EXPECT_TRUE(folder.has("results/figures/p.svg"));
}

// A figure per site and as lines, on axes of another unit, one of them logarithmic.
TEST(Plots, AreSplitScaledAndConverted) {
  const TempFolder folder;
  const Outcome outcome =
      run(folder,
          "[sheet.run]\ndata = 't.csv'\nequations = 'shifted [mV] = V - 4 [mV]'\n[plot.p]\nx = 't'\ny = "
          "'shifted'\n"
          "by = 'site'\nkind = 'line'\ny_scale = 'log'\nx_unit = 's'\nx_range = ['0 h', 'auto']\n"
          "y_range = ['1 uV', '1 V']\nformats = ['svg', 'png']\n");
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_NE(outcome.out.find("plot p: 1 of 5 points of a not drawn: a value is null\n"
                             "plot p: 2 of 5 points of a not drawn: not above 0 on a logarithmic axis\n"
                             "plot p: 1 of 4 points of b not drawn: not above 0 on a logarithmic axis\n"),
            std::string::npos)
      << outcome.out;
  EXPECT_TRUE(folder.has("results/figures/p.png"));
  for (const std::string& key :
       {std::string("by = 'nowhere'"), std::string("x_unit = 'kg'"), std::string("y_range = [1]"),
        std::string("kind = 'pie'"), std::string("x_scale = 'cube'")}) {
    const Outcome wrong =
        run(folder, "[sheet.run]\ndata = 't.csv'\n[plot.p]\nx = 't'\ny = 'V'\n" + key + "\n");
    EXPECT_EQ(wrong.code, 3) << key << wrong.out;
    EXPECT_NE(wrong.err, "");
  }
}

TEST(Fits, WorkWithoutAStudy) {
  const TempFolder folder;
  folder.write("t.csv", "x [mm],y [mV]\n0,1\n1,3\n2,5.3\n3,7\n");
  const Outcome fit = run_program(
      folder, {"fit", "t.csv", "--x", "x", "--y", "z", "--derive", "z [uV] = y", "--keep", "x < 9 [mm]"});
  EXPECT_EQ(fit.code, 0) << fit.err;
  EXPECT_NE(fit.out.find("fit of t: line of z to x, 4 points\n"
                         "  intercept  1030(150) µV\n"
                         "  slope      2030(79) µV/mm\n"),
            std::string::npos)
      << fit.out;
  const Outcome plot =
      run_program(folder, {"plot", "t.csv", "--x", "x", "--y", "y", "--fit", "line", "--output", "f.png"});
  EXPECT_EQ(plot.code, 0) << plot.err;
  EXPECT_TRUE(folder.has("f.png"));
  EXPECT_EQ(run_program(folder, {"plot", "t.csv", "--x", "x", "--y", "y", "--output", "f.png"}).code, 2);
  EXPECT_EQ(run_program(folder, {"plot", "t.csv", "--x", "x", "--y", "y", "--output", "f.gif"}).code, 2);
  EXPECT_EQ(run_program(folder, {"plot", "t.csv", "--x", "x", "--y", "q"}).code, 3);
  EXPECT_EQ(run_program(folder, {"fit", "t.csv", "--x", "x", "--y", "y", "--start", "a"}).code, 2);
}

}  // namespace
}  // namespace opensum
