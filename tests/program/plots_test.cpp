// Figures by the built program: files of the size that was asked for, options as the study's keys, bad input.
#include <gtest/gtest.h>

#include <cmath>
#include <cstdint>
#include <sstream>

#include "program/program.h"

namespace opensum {
namespace {

constexpr const char* kPlotsData =
    "x [s],y [kg],z "
    "[m],g,day\n1,3,30,a,2031-03-01\n2,5,20,a,2031-03-02\n3,,10,b,2031-03-03\n4,9,5,b,2031-03-04\n";

// Width and height of a PNG stand at its bytes 16 and 20.
std::pair<std::uint32_t, std::uint32_t> png_size(const std::string& bytes) {
  const auto number = [&](std::size_t at) {
    std::uint32_t value = 0;
    for (std::size_t i = 0; i < 4; ++i) value = value << 8U | static_cast<std::uint8_t>(bytes.at(at + i));
    return value;
  };
  return {number(16), number(20)};
}

TEST(PlotCommand, DrawsTheSizeThatIsAskedFor) {
  const TempFolder folder;
  folder.write("t.csv", kPlotsData);
  const auto drawn = [&](const std::vector<std::string>& more) {
    std::vector<std::string> args = {"plot", "t.csv", "--x", "x", "--y", "y", "--force"};
    args.insert(args.end(), more.begin(), more.end());
    const Outcome outcome = run_program(folder, args);
    EXPECT_EQ(outcome.code, 0) << outcome.err;
    return png_size(folder.read("figure.png"));
  };
  EXPECT_EQ(drawn({}), std::pair(1280U, 800U));
  EXPECT_EQ(drawn({"--size", "640 x 480 px"}), std::pair(640U, 480U));
  // 600 dots per inch.
  EXPECT_EQ(drawn({"--size", "85 x 60 mm"}), std::pair(2008U, 1417U));
}

TEST(PlotCommand, TakesTheKeysOfAPlotAsOptions) {
  const TempFolder folder;
  folder.write("t.csv", kPlotsData);
  const Outcome outcome = run_program(
      folder,
      {"plot",      "t.csv",  "--x",       "x",     "--y",      "ratio",   "--derive", "ratio = y / (2 [kg])",
       "--y2",      "z",      "--title",   "Title", "--kind",   "line",    "--x-unit", "min",
       "--x-range", "0,auto", "--y-scale", "log",   "--legend", "outside", "--keep",   "x < 4 [s]",
       "--y2-unit", "cm",     "--output",  "f.svg"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(outcome.out, "plot plot: 1 of 3 points of ratio not drawn: a value is null\nwritten: f.svg\n");
  EXPECT_EQ(folder.read("f.svg").substr(0, 5), "<?xml");
  for (const std::vector<std::string>& kind :
       {std::vector<std::string>{"--kind", "histogram", "--x", "z", "--bins", "3"},
        {"--kind", "box", "--y", "z", "--by", "g"},
        {"--kind", "bars", "--x", "g", "--y", "z"},
        {"--kind", "residuals", "--x", "x", "--y", "z", "--fit", "line"},
        {"--x", "day", "--y", "z", "--curve", "2 [m]", "--x-range", "2031-03-01,2031-03-05"},
        {"--x", "x", "--y", "z", "--fit", "line", "--confidence", "95", "--residuals", "--by", "g"},
        {"--x", "x", "--y", "ratio,z", "--derive", "ratio = y / (2 [kg]) * 1 [m]"},
        {"--x", "x", "--y", "z", "--shade", "y", "--shade-scale", "log", "--y-scale", "reversed"},
        {"--kind", "cells", "--x", "x", "--y", "g", "--shade", "z"},
        {"--kind", "steps", "--x", "x", "--y", "z", "--confidence", "0.9", "--fit", "line", "--size",
         "one column"},
        {"--x", "x", "--y", "z", "--y-error", "z"}}) {
    std::vector<std::string> args = {"plot", "t.csv", "--force"};
    args.insert(args.end(), kind.begin(), kind.end());
    const Outcome drawn = run_program(folder, args);
    EXPECT_EQ(drawn.code, 0) << kind[1] << '\n' << drawn.err;
  }
}

TEST(PlotCommand, SaysWhatIsWrongAndWritesNothing) {
  const TempFolder folder;
  folder.write("t.csv", kPlotsData);
  folder.write("empty.csv", "");
  folder.write("header.csv", "x [s],y [kg]\n");
  struct BadCase {
    std::vector<std::string> args;
    int code;
    std::string words;
  };
  for (const BadCase& bad : std::vector<BadCase>{
           {{"t.csv", "--x", "x"}, 2, "opensum plot needs --y SYMBOL"},
           {{"t.csv", "--y", "y"}, 2, "opensum plot needs --x SYMBOL"},
           {{"t.csv", "--x", "xx", "--y", "y"}, 3, "no column `xx`"},
           {{"t.csv", "--x", "x", "--y2", "y"}, 2, "opensum plot needs --y SYMBOL"},
           {{"t.csv", "--x", "g", "--y", "y", "--curve", "2 [kg]"}, 3, "a figure needs numbers"},
           {{"t.csv", "--x", "x", "--y", "g"}, 3, "a figure needs numbers"},
           {{"t.csv", "--x", "x", "--y", "y", "--y2", "z", "--y2-unit", "s"}, 3, "cannot share an axis"},
           {{"t.csv", "--x", "x", "--y", "y", "--kind", "pie"}, 2, "points, line, steps, bars"},
           {{"t.csv", "--x", "x", "--y", "y", "--fit", "lin"}, 3, "lin"},
           {{"t.csv", "--x", "x", "--y", "y", "--x-range", "9,1"}, 3, "ends before it begins"},
           {{"t.csv", "--x", "x", "--y", "y", "--x-range", "1,inf"}, 3, "is no end of an axis"},
           {{"t.csv", "--x", "x", "--y", "y", "--x-range", "-1,1", "--x-scale", "log"}, 3, "begins above 0"},
           {{"t.csv", "--x", "x", "--y", "y", "--x-range", "1", "9"}, 2, "--x-range takes two ends"},
           {{"t.csv", "--x", "x", "--y", "y", "--kind", "cells"}, 3, "the key `shade` is missing"},
           {{"t.csv", "--x", "x", "--y", "y", "--shade", "g"}, 3, "a figure needs numbers"},
           {{"t.csv", "--x", "x", "--y", "y", "--shade", "z", "--kind", "line"},
            3,
            "of kind line takes no shade"},
           {{"t.csv", "--x", "x", "--y", "y", "--confidence", "1000"}, 2, "a share such as"},
           {{"t.csv", "--x", "x", "--y", "y", "--size", "huge"}, 3, "is no size"},
           {{"t.csv", "--x", "x", "--y", "y", "--size", "9e9 x 9 px"}, 3, "is no size"},
           {{"t.csv", "--x", "x", "--y", "y", "--curve", "2 [m]"}, 3, "2 [m]"},
           {{"t.csv", "--x", "x", "--y", "y", "--residuals"}, 3, "residuals are those of a fit"},
           {{"t.csv", "--x", "x", "--y", "y", "--keep", "x"}, 3, "x"},
           {{"t.csv", "--x", "x", "--y", "y", "--output", "f.gif"}, 2, ".png, .svg or .pdf"},
           {{"t.csv", "--x", "x", "--y", "y", "--output", "t.csv/f.png"}, 2, "f.png"},
           {{"empty.csv", "--x", "x", "--y", "y"}, 4, "empty.csv"}}) {
    std::vector<std::string> args = {"plot"};
    args.insert(args.end(), bad.args.begin(), bad.args.end());
    const Outcome outcome = run_program(folder, args);
    EXPECT_EQ(outcome.code, bad.code) << bad.words << '\n' << outcome.err;
    EXPECT_NE(outcome.err.find(bad.words), std::string::npos) << bad.words << '\n' << outcome.err;
    EXPECT_FALSE(folder.has("figure.png"));
  }
  // A table without rows has a figure that says so.
  EXPECT_EQ(run_program(folder, {"plot", "header.csv", "--x", "x", "--y", "y", "--column", "x=x [s]"}).code,
            0);
}

TEST(PlotCommand, ReplacesNothingUnasked) {
  const TempFolder folder;
  folder.write("t.csv", kPlotsData);
  folder.write("f.png", "mine");
  const std::vector<std::string> args = {"plot", "t.csv", "--x", "x", "--y", "y", "--output", "f.png"};
  EXPECT_EQ(run_program(folder, args).code, 2);
  EXPECT_EQ(folder.read("f.png"), "mine");
}

// Weights from the standard uncertainty of y: standard errors follow from it alone, as the textbook has it.
TEST(Fits, ByTheUncertaintyOfY) {
  const TempFolder folder;
  folder.write("t.csv", "x [s],y [kg],u(y) [g]\n1,3.1,100\n2,5,200\n3,6.9,100\n4,9.4,400\n5,10.9,\n");
  folder.write("study.toml",
               "[sheet.t]\ndata = 't.csv'\n[fit.f]\nx = 'x'\ny = 'y'\nweights = 'uncertainty'\n");
  const Outcome outcome = run_program(folder, {"run"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  const double x[] = {1, 2, 3, 4};
  const double y[] = {3.1, 5, 6.9, 9.4};
  const double u[] = {0.1, 0.2, 0.1, 0.4};
  double s = 0;
  double sx = 0;
  double sy = 0;
  double sxx = 0;
  double sxy = 0;
  for (int i = 0; i < 4; ++i) {
    const double w = 1 / (u[i] * u[i]);
    s += w;
    sx += w * x[i];
    sy += w * y[i];
    sxx += w * x[i] * x[i];
    sxy += w * x[i] * y[i];
  }
  const double delta = s * sxx - sx * sx;
  const std::string fits = folder.read("results/fits.csv");
  std::istringstream line(fits.substr(fits.find("f,t,,slope,") + 11));
  double slope = 0;
  double error = 0;
  char comma = 0;
  line >> slope >> comma >> error;
  const Outcome alone =
      run_program(folder, {"fit", "t.csv", "--x", "x", "--y", "y", "--weights", "uncertainty"});
  EXPECT_EQ(alone.code, 0) << alone.err;
  EXPECT_NE(alone.out.find("1.933(67) kg/s"), std::string::npos) << alone.out;
  EXPECT_NEAR(slope, (s * sxy - sx * sy) / delta, 1e-11);
  EXPECT_NEAR(error, std::sqrt(s / delta), 1e-11);
}

// The columns of two sheets side by side in the summary.
TEST(Fits, OfSeveralSheetsStandSideBySide) {
  const TempFolder folder;
  folder.write("a.csv", "x [s],y [kg]\n1,3.1\n2,5\n3,6.9\n4,9.1\n");
  folder.write("b.csv", "x [s],y [kg]\n1,2\n2,\n3,4.2\n4,5\n");
  folder.write("study.toml",
               "[sheet.a]\ndata = 'a.csv'\n[sheet.b]\ndata = 'b.csv'\n[fit.f]\nsheets = ['a', 'b']\nx = "
               "'x'\ny = 'y'\n");
  const Outcome outcome = run_program(folder, {"run"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_NE(outcome.out.find("fit f: line of y to x\n"
                             "                      a          b\n"
                             "  intercept [kg]      1.05(14)   1.03(22)\n"
                             "  slope [kg/s]        1.990(52)  1.014(74)\n"),
            std::string::npos)
      << outcome.out;
  EXPECT_NE(outcome.out.find("  points              4          3 (1 null)\n"), std::string::npos)
      << outcome.out;
}

}  // namespace
}  // namespace opensum
