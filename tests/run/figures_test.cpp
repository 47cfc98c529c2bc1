// The plots of a study as marks: what is drawn, and what is said of what is not.
#include "plot/figures.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <set>

#include "figure/marks_in.h"
#include "figure/palette.h"
#include "files/temp_folder.h"
#include "run/compute.h"
#include "run/prepare.h"

namespace opensum {
namespace {

// Eight rows of two sites; y is 2 x + 1 but for one row that is null, z is a thousand times larger.
constexpr const char* kFiguresData =
    "site,day,x [s],y [kg],u(y) [g],z [kg],name\n"
    "a,2031-03-01,1,3,100,3000,p\n"
    "a,2031-03-02,2,5,100,5000,q\n"
    "a,2031-03-03,3,7,,7000,r\n"
    "a,2031-03-04,4,,100,9000,p\n"
    "b,2031-03-05,1,4,100,3000,q\n"
    "b,2031-03-06,2,6,100,5000,r\n"
    "b,2031-03-07,3,8,100,7000,p\n"
    "b,2031-03-08,4,10,100,9000,q\n";

std::vector<BuiltFigure> figures_of(const std::string& plots, const std::string& data = kFiguresData) {
  const TempFolder folder;
  folder.write("t.csv", data);
  folder.write("study.toml", "[sheet.run]\ndata = 't.csv'\n" + plots);
  Diagnostics diagnostics;
  const auto prepared = prepare_study_file(folder.path("study.toml"), diagnostics);
  if (prepared && !diagnostics.has_errors()) compute(*prepared, wishes_of_figures(*prepared), diagnostics);
  EXPECT_FALSE(diagnostics.has_errors()) << plots;
  if (!prepared || diagnostics.has_errors()) return {};
  return build_figures(*prepared, diagnostics);
}

BuiltFigure figure_of(const std::string& keys, const std::string& data = kFiguresData) {
  std::vector<BuiltFigure> figures = figures_of("[plot.p]\n" + keys, data);
  return figures.empty() ? BuiltFigure() : std::move(figures.front());
}

std::vector<Mark> of_role(const BuiltFigure& built, Role role) { return of_role(built.figure, role); }

std::vector<std::string> texts_of(const BuiltFigure& built, Role role) {
  return texts_of(built.figure, role);
}

TEST(Figures, ASeriesAndACurveForEachValueOfAColumn) {
  const BuiltFigure built = figure_of("x = 'x'\ny = 'y'\nby = 'site'\nfit = 'line'\n");
  EXPECT_EQ(of_role(built, Role::point).size(), 7U);
  EXPECT_EQ(of_role(built, Role::curve).size(), 2U);
  EXPECT_EQ(texts_of(built, Role::legend),
            (std::vector<std::string>{"a", "1 kg + (2 kg/s) · x", "b", "2 kg + (2 kg/s) · x"}));
  EXPECT_EQ(built.notes, std::vector<std::string>{"plot p: 1 of 4 points of a not drawn: a value is null"});
  // Every point of b lies on its line, which goes straight up from its first to its last.
  const auto points = of_role(built, Role::point);
  const auto curve = of_role(built, Role::curve).at(1);
  for (const Mark& mark : points) {
    if (mark.series != 1) continue;
    const Point at = middle_of(mark);
    const Point& from = curve.points.front();
    const Point& to = curve.points.back();
    EXPECT_NEAR(at.y, from.y + (to.y - from.y) * (at.x - from.x) / (to.x - from.x), 1e-6);
  }
}

TEST(Figures, ErrorBarsOfAStatedUncertaintyAreInTheUnitOfTheAxis) {
  const BuiltFigure built = figure_of("x = 'x'\ny = 'y'\n");
  std::vector<Mark> bars = of_role(built, Role::error_bar);
  std::erase_if(bars, [](const Mark& mark) { return mark.points[0].x != mark.points[1].x; });
  ASSERT_EQ(bars.size(), 6U) << "one row has no uncertainty and one no value";
  const auto points = of_role(built, Role::point);
  const double per_kg = (middle_of(points[1]).y - middle_of(points[0]).y) / 2;
  for (const Mark& bar : bars) EXPECT_NEAR(std::fabs(bar.points[1].y - bar.points[0].y), 0.2 * per_kg, 1e-6);
}

TEST(Figures, BarsStandAlongXToo) {
  const BuiltFigure built =
      figure_of("x = 'x'\ny = 'z'\n", "x [s],u(x) [ms],z [kg]\n1,300,3\n2,500,4.5\n3,,7.2\n");
  std::vector<Mark> bars = of_role(built, Role::error_bar);
  std::erase_if(bars, [](const Mark& mark) { return mark.points[0].y != mark.points[1].y; });
  ASSERT_EQ(bars.size(), 2U);
  const auto points = of_role(built, Role::point);
  const double per_second = middle_of(points[1]).x - middle_of(points[0]).x;
  EXPECT_NEAR(bars[0].points[1].x - bars[0].points[0].x, 0.6 * per_second, 1e-6);
  EXPECT_NEAR(bars[1].points[1].x - bars[1].points[0].x, 1.0 * per_second, 1e-6);
}

TEST(Figures, ALineWithoutPointsHasABandOfItsUncertainty) {
  std::string data = "x [s],u(y) [g],y [kg]\n";
  for (int i = 0; i < 3000; ++i)
    data += std::to_string(i) + ",500," + (i == 1500 ? "" : std::to_string(10 + i % 7)) + "\n";
  const BuiltFigure built = figure_of("kind = 'line'\nx = 'x'\ny = 'y'\n", data);
  const auto bands = of_role(built, Role::band);
  ASSERT_EQ(bands.size(), 2U) << "a gap parts it";
  EXPECT_TRUE(of_role(built, Role::error_bar).empty());
  // The highest value and its uncertainty above, the lowest below it.
  double low = HUGE_VAL;
  double high = -HUGE_VAL;
  for (const Point& point : bands[0].points) {
    low = std::min(low, point.y);
    high = std::max(high, point.y);
  }
  double lowest = HUGE_VAL;
  double highest = -HUGE_VAL;
  for (const Mark& line : of_role(built, Role::curve)) {
    for (const Point& point : line.points) {
      lowest = std::min(lowest, point.y);
      highest = std::max(highest, point.y);
    }
  }
  const double half = (highest - lowest) / 6 / 2;
  EXPECT_NEAR(high, highest + half, 1e-6);
  EXPECT_NEAR(low, lowest - half, 1e-6);
}

TEST(Figures, ResidualsOfALineSumToNothing) {
  const BuiltFigure built = figure_of("kind = 'residuals'\nx = 'x'\ny = 'z'\nfit = 'line'\n",
                                      "x [s],z [kg]\n1,3\n2,4.5\n3,7.2\n4,8\n5,11.5\n");
  EXPECT_EQ(texts_of(built, Role::axis_label).at(1), "Residual of z [kg]");
  double zero = 0;
  for (const Mark& mark : of_role(built, Role::grid)) {
    if (mark.width > 1) zero = mark.points[0].y;
  }
  double sum = 0;
  for (const Mark& mark : of_role(built, Role::point)) sum += middle_of(mark).y - zero;
  EXPECT_NEAR(sum, 0, 1e-6);
  EXPECT_EQ(of_role(figure_of("x = 'x'\ny = 'y'\nfit = 'line'\nresiduals = true\n"), Role::point).size(),
            14U);
}

TEST(Figures, ABandIsNarrowestAtTheMeanAndHoldsTheCurve) {
  const BuiltFigure built = figure_of("x = 'x'\ny = 'z'\nfit = 'line'\nconfidence = '95 %'\n",
                                      "x [s],z [kg]\n1,3\n2,4.5\n3,7.2\n4,8\n5,11.5\n");
  const auto bands = of_role(built, Role::band);
  ASSERT_EQ(bands.size(), 1U);
  const std::vector<Point>& border = bands[0].points;
  const std::size_t half = border.size() / 2;
  const auto width = [&](std::size_t i) { return border[i].y - border[border.size() - 1 - i].y; };
  for (std::size_t i = 0; i < half; ++i) EXPECT_GT(width(i), 0);
  EXPECT_LT(width(half / 2), width(0));
  EXPECT_NEAR(width(0), width(half - 1), 1e-6) << "the mean of x is its middle";
}

// With a stated u(y) the band is that of the normal distribution: at the mean of x, 1.96 u / sqrt(n).
TEST(Figures, ABandByStatedUncertaintyIsThatOfTheNormalDistribution) {
  const auto figures = figures_of(
      "[fit.f]\nx = 'x'\ny = 'z'\nweights = 'uncertainty'\n[plot.p]\nx = 'x'\ny = 'z'\nfit = 'f'\nconfidence "
      "= '95 %'\n",
      "x [s],z [kg],u(z) [kg]\n1,3,1\n2,4.5,1\n3,7.2,1\n4,8,1\n5,11.5,1\n");
  ASSERT_EQ(figures.size(), 1U);
  const std::vector<Point> border = of_role(figures[0], Role::band).at(0).points;
  const auto points = of_role(figures[0], Role::point);
  const double per_kg = (middle_of(points[4]).y - middle_of(points[0]).y) / 8.5;
  const std::size_t middle = border.size() / 4;
  EXPECT_NEAR((border[middle].y - border[border.size() - 1 - middle].y) / per_kg, 2 * 1.959964 / std::sqrt(5),
              1e-4);
}

TEST(Figures, KeepLeavesRowsOutOfThePlotAlone) {
  const auto figures = figures_of(
      "[plot.p]\nx = 'x'\ny = 'y'\nkeep = 'site == \"b\" and x > 1 [s]'\n[plot.q]\nx = 'x'\ny = 'y'\n");
  ASSERT_EQ(figures.size(), 2U);
  EXPECT_EQ(of_role(figures[0], Role::point).size(), 3U);
  EXPECT_TRUE(figures[0].notes.empty()) << "the null row is not among them";
  EXPECT_EQ(of_role(figures[1], Role::point).size(), 7U);
}

TEST(Figures, ACurveOfOnesOwnGoesThroughThePointsItDescribes) {
  const BuiltFigure built =
      figure_of("x = 'x'\ny = 'y'\nkeep = 'site == \"a\"'\ncurve = '2000 [g/s] * x + 1 [kg]'\n");
  const auto curves = of_role(built, Role::curve);
  ASSERT_EQ(curves.size(), 1U);
  const Point& from = curves[0].points.front();
  const Point& to = curves[0].points.back();
  for (const Mark& mark : of_role(built, Role::point)) {
    const Point at = middle_of(mark);
    EXPECT_NEAR(at.y, from.y + (to.y - from.y) * (at.x - from.x) / (to.x - from.x), 1e-6);
  }
}

TEST(Figures, ASeriesManyTimesSmallerIsNoticed) {
  const BuiltFigure both = figure_of("x = 'x'\ny = ['y', 'z']\n");
  ASSERT_EQ(both.notes.size(), 2U);
  EXPECT_EQ(
      both.notes[1],
      "plot p: z is over 900 times larger than y, which shows next to nothing; try y2 for one of them, or "
      "y_scale = \"log\"");
  const BuiltFigure apart = figure_of("x = 'x'\ny = 'y'\ny2 = 'z'\n");
  EXPECT_EQ(apart.notes.size(), 1U);
  EXPECT_EQ(texts_of(apart, Role::axis_label), (std::vector<std::string>{"x [s]", "y [kg]", "z [kg]"}));
}

TEST(Figures, NamesAndDatesHaveAxes) {
  const BuiltFigure names = figure_of("kind = 'bars'\nx = 'name'\ny = 'z'\nkeep = 'site == \"a\"'\n");
  EXPECT_EQ(of_role(names, Role::bar).size(), 4U);
  const auto labels = texts_of(names, Role::tick_label);
  for (const char* name : {"p", "q", "r"})
    EXPECT_EQ(std::count(labels.begin(), labels.end(), name), 1) << name;
  EXPECT_EQ(names.notes,
            std::vector<std::string>{"plot p: 1 of 4 bars of z stand behind another at the same x; a "
                                     "sheet with one_row_per makes one row of them"});
  const BuiltFigure dates = figure_of("x = 'day'\ny = 'z'\nx_range = ['2031-03-01', '2031-03-05']\n");
  EXPECT_EQ(texts_of(dates, Role::axis_label).at(0), "day, 2031");
  EXPECT_EQ(texts_of(dates, Role::tick_label).at(0), "1 Mar");
  EXPECT_EQ(dates.notes.back(), "plot p: 3 points not drawn: outside the axes");
}

TEST(Figures, HistogramsAndBoxesCountEveryKnownValue) {
  const BuiltFigure counts = figure_of("kind = 'histogram'\nx = 'y'\nbins = 4\n");
  EXPECT_FALSE(of_role(counts, Role::bar).empty());
  EXPECT_EQ(texts_of(counts, Role::axis_label), (std::vector<std::string>{"y [kg]", "Count"}));
  EXPECT_EQ(texts_of(counts, Role::note),
            std::vector<std::string>{"1 of 8 values not drawn: a value is null"});
  const BuiltFigure boxes = figure_of("kind = 'box'\nx = 'site'\ny = ['y']\n");
  std::size_t bodies = 0;
  for (const Mark& mark : of_role(boxes, Role::box))
    bodies += mark.kind == MarkKind::boxes && mark.hollow ? 1 : 0;
  EXPECT_EQ(bodies, 2U);
  const BuiltFigure alone = figure_of("kind = 'box'\ny = ['y', 'z']\n");
  const auto labels = texts_of(alone, Role::tick_label);
  EXPECT_EQ(std::count(labels.begin(), labels.end(), "y") + std::count(labels.begin(), labels.end(), "z"), 2);
}

// The places of boxes are told in the unit of the axis, whichever the column has.
TEST(Figures, BoxesStandAtValuesInTheUnitOfTheAxis) {
  const BuiltFigure built = figure_of("kind = 'box'\nx = 'x'\ny = 'y'\nx_unit = 'ms'\n");
  EXPECT_EQ(texts_of(built, Role::axis_label).at(0), "x [ms]");
  const auto labels = texts_of(built, Role::tick_label);
  for (const char* place : {"1000", "2000", "3000", "4000"})
    EXPECT_EQ(std::count(labels.begin(), labels.end(), place), 1) << place;
  const auto same = texts_of(
      figure_of("kind = 'box'\nx = 'x'\ny = 'y'\n", "x [s],y [kg]\n4,1\n4.0,2\n4.00,3\n"), Role::tick_label);
  EXPECT_EQ(std::count_if(same.begin(), same.end(), [](const std::string& t) { return t.starts_with("4"); }),
            1);
}

// A fit by one column says nothing of series by another, however many groups each has.
TEST(Figures, CurvesOfOtherGroupsBelongToNoSeries) {
  const auto figures = figures_of(
      "equations = 'late = if(x > 2 [s], \"late\", \"early\")'\n[fit.f]\nx = 'x'\ny = 'z'\nby = 'late'\n"
      "[plot.p]\nx = 'x'\ny = 'z'\nby = 'site'\nfit = 'f'\n");
  ASSERT_EQ(figures.size(), 1U);
  const auto legend = texts_of(figures[0], Role::legend);
  EXPECT_EQ(std::count_if(legend.begin(), legend.end(),
                          [](const std::string& t) { return t.starts_with("early: "); }),
            1);
  EXPECT_EQ(std::count_if(legend.begin(), legend.end(),
                          [](const std::string& t) { return t.starts_with("late: "); }),
            1);
  for (const Mark& curve : of_role(figures[0], Role::curve)) EXPECT_TRUE((curve.color == kInk));
}

// The curve of a dated x counts from the first point: 1 kg and 1 kg more each day.
TEST(Figures, ACurveOverDatesCountsFromTheFirst) {
  const BuiltFigure built = figure_of("x = 'day'\ny = 'y'\ncurve = '1 [kg] + 1 [kg/d] * x'\n",
                                      "day,y [kg]\n2031-03-01,1\n2031-03-03,3\n2031-03-05,5\n");
  const auto curves = of_role(built, Role::curve);
  ASSERT_EQ(curves.size(), 1U);
  const auto points = of_role(built, Role::point);
  EXPECT_NEAR(curves[0].points.front().y, middle_of(points.front()).y, 1e-6);
  EXPECT_NEAR(curves[0].points.back().y, middle_of(points.back()).y, 1e-6);
}

TEST(Figures, SeriesMayBeStyledOneByOne) {
  const BuiltFigure built = figure_of(
      "[[plot.p.series]]\nx = 'x'\ny = 'y'\nlabel = 'of \u00b5'\nmarker = 'diamond'\ncolor = '#102030'\n"
      "[[plot.p.series]]\nx = 'x'\ny = 'z'\naxis = 'right'\nline = 'dashed'\nmarker = 'none'\n");
  const auto points = of_role(built, Role::point);
  ASSERT_EQ(points.size(), 7U);
  EXPECT_TRUE((points[0].color == Color{16, 32, 48}));
  EXPECT_EQ(points[0].points.size(), 4U);
  const auto curves = of_role(built, Role::curve);
  ASSERT_FALSE(curves.empty());
  EXPECT_EQ(curves[0].dash, Dash::dashed);
  EXPECT_EQ(texts_of(built, Role::legend), (std::vector<std::string>{"of \u00b5", "z"}));
}

TEST(Figures, SizesAreInMillimetresOrPixels) {
  const Figure print = figure_of("x = 'x'\ny = 'y'\nsize = '85 mm x 60 mm'\n").figure;
  EXPECT_NEAR(print.width * print.points_per_unit / 72 * 25.4, 85, 1e-9);
  EXPECT_NEAR(print.height * print.points_per_unit / 72 * 25.4, 60, 1e-9);
  EXPECT_NEAR(20 * print.points_per_unit, 7, 1e-9) << "letters of ticks are 7 points high";
  const Figure screen = figure_of("x = 'x'\ny = 'y'\nsize = '640 × 400 px'\n").figure;
  EXPECT_NEAR(screen.width * screen.pixels_per_unit, 640, 1e-9);
  EXPECT_NEAR(screen.height * screen.pixels_per_unit, 400, 1e-9);
}

TEST(Figures, PanelsShowOtherPlots) {
  const auto figures = figures_of(
      "[plot.one]\ntitle = 'One'\nx = 'x'\ny = 'y'\n[plot.two]\nx = 'x'\ny = 'z'\n[plot.both]\npanels = "
      "['one', 'two']\n");
  ASSERT_EQ(figures.size(), 3U);
  EXPECT_EQ(of_role(figures[2], Role::point).size(), 15U);
  EXPECT_EQ(texts_of(figures[2], Role::letter), (std::vector<std::string>{"(a)", "(b)"}));
}

TEST(Figures, AwkwardColumnsAreSaid) {
  const std::string data = "x [s],y [kg],one [kg]\n1,,4\n1,,4\n1,,4\n";
  const BuiltFigure nothing = figure_of("x = 'x'\ny = 'y'\n", data);
  EXPECT_TRUE(of_role(nothing, Role::point).empty());
  EXPECT_EQ(nothing.notes, std::vector<std::string>{"plot p: 3 of 3 points of y not drawn: a value is null"});
  EXPECT_EQ(of_role(figure_of("x = 'x'\ny = 'one'\n", data), Role::point).size(), 3U) << "all points equal";
  for (const char* kind : {"line", "bars", "box"}) {
    for (const char* column : {"y", "one"}) {
      EXPECT_FALSE(figure_of("kind = '" + std::string(kind) + "'\nx = 'x'\ny = '" + column + "'\n", data)
                       .figure.marks.empty())
          << kind << ' ' << column;
    }
  }
  for (const char* column : {"y", "one"})
    EXPECT_FALSE(
        figure_of("kind = 'histogram'\nx = '" + std::string(column) + "'\n", data).figure.marks.empty());
}

}  // namespace
}  // namespace opensum
