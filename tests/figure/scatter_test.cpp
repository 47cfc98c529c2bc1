// What is on a figure, read from its marks.
#include "figure/scatter.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <set>

#include "figure/draw.h"
#include "figure/scale.h"
#include "files/temp_folder.h"

namespace opensum {
namespace {

std::vector<Mark> of_role(const Figure& figure, Role role) {
  std::vector<Mark> found;
  std::copy_if(figure.marks.begin(), figure.marks.end(), std::back_inserter(found),
               [&](const Mark& m) { return m.role == role; });
  return found;
}

Scatter scatter_of(std::vector<double> x, std::vector<double> y) {
  Scatter scatter{"Title", "x [m]", "y [kg]", {}};
  const std::size_t rows = x.size();
  scatter.series.push_back({"run", std::move(x), std::move(y), rows});
  return scatter;
}

TEST(Scale, HasRoundTicksInsideItsRange) {
  for (const auto& [low, high] : {std::pair(0.0, 1.0),
                                  {4.02, 19.88},
                                  {-3.0, 7e5},
                                  {1e-9, 3e-9},
                                  {5.0, 5.0},
                                  {-2.0, -2.0},
                                  {0.0, 0.0},
                                  {1e12, 1e12 + 1},
                                  {1e-300, 2e-300}}) {
    const Scale scale = make_scale(low, high, 6);
    EXPECT_LT(scale.low, scale.high);
    EXPECT_LE(scale.low, low);
    EXPECT_GE(scale.high, high);
    EXPECT_GE(scale.ticks.size(), 3U) << low << " to " << high;
    EXPECT_LE(scale.ticks.size(), 13U) << low << " to " << high;
    EXPECT_EQ(std::set<std::string>(scale.labels.begin(), scale.labels.end()).size(), scale.labels.size())
        << "each label differs: " << low << " to " << high;
    for (const double tick : scale.ticks) {
      EXPECT_GE(tick, scale.low - 1e-9 * (scale.high - scale.low));
      EXPECT_LE(tick, scale.high + 1e-9 * (scale.high - scale.low));
    }
  }
}

TEST(Scale, LogarithmicOnesHaveTicksAtPowersOfTen) {
  for (const auto& [low, high] :
       {std::pair(0.5, 2000.0), {1e-9, 1e9}, {3.0, 7.0}, {5.0, 5.0}, {1e-300, 1e300}, {0.001, 0.0012}}) {
    const Scale scale = make_scale(low, high, 8, {true, std::nullopt, std::nullopt});
    EXPECT_LT(scale.low, low * (1 + 1e-12));
    EXPECT_GT(scale.high, high * (1 - 1e-12));
    EXPECT_LE(scale.ticks.size(), 18U) << low << " to " << high;
    EXPECT_EQ(std::set<std::string>(scale.labels.begin(), scale.labels.end()).size(), scale.labels.size());
    // Equal ratios are equal lengths.
    const double middle = std::sqrt(low) * std::sqrt(high);
    EXPECT_NEAR(scale.place(middle), (scale.place(low) + scale.place(high)) / 2, 1e-9)
        << low << " to " << high;
    EXPECT_NEAR(scale.place(scale.low), 0, 1e-12);
    EXPECT_NEAR(scale.place(scale.high), 1, 1e-12);
  }
  const Scale decades = make_scale(0.5, 2000, 8, {true, std::nullopt, std::nullopt});
  EXPECT_EQ(decades.labels, (std::vector<std::string>{"1", "10", "100", "1000"}));
}

TEST(Scale, EndsThatAreGivenStay) {
  const Scale both = make_scale(3, 7, 6, {false, 0.0, 25.0});
  EXPECT_EQ(both.low, 0);
  EXPECT_EQ(both.high, 25);
  EXPECT_EQ(both.labels.front(), "0");
  EXPECT_EQ(both.labels.back(), "25");
  const Scale beyond = make_scale(3, 7, 6, {false, 10.0, std::nullopt});
  EXPECT_EQ(beyond.low, 10);
  EXPECT_GT(beyond.high, 10);
  const Scale logarithmic = make_scale(3, 7, 6, {true, 1.0, 100.0});
  EXPECT_EQ(logarithmic.low, 1);
  EXPECT_EQ(logarithmic.high, 100);
}

TEST(Scatter, CountsWhatItCannotDraw) {
  Scatter scatter = scatter_of({1, 2, 3, 40}, {1, 2, 3, 4});
  scatter.series[0].rows = 7;
  scatter.series[0].not_positive = 2;
  scatter.x_wish.high = 10;
  const Figure figure = build_scatter(scatter);
  EXPECT_EQ(of_role(figure, Role::point).size(), 3U);
  EXPECT_EQ(
      of_role(figure, Role::note).at(0).text,
      "1 of 7 points not drawn: a value is null; 2 not above 0 on a logarithmic axis; 1 outside the axes");
}

TEST(Scatter, JoinsPointsInPiecesWhereRowsAreMissing) {
  Scatter scatter = scatter_of({1, 2, 3, 4, 5, 6}, {1, 2, 1, 2, 1, 90});
  scatter.series[0].joined = true;
  scatter.series[0].breaks = {2};
  scatter.y_wish.high = 3;
  const auto curves = of_role(build_scatter(scatter), Role::curve);
  ASSERT_EQ(curves.size(), 2U);
  EXPECT_EQ(curves[0].points.size(), 2U);
  EXPECT_EQ(curves[1].points.size(), 3U);
}

TEST(Scatter, DrawsAFittedCurveAndNamesItInTheLegend) {
  Scatter scatter = scatter_of({1, 2, 3}, {1, 2, 3});
  EXPECT_TRUE(of_role(build_scatter(scatter), Role::legend).empty());
  scatter.series[0].curve_x = {1, 3};
  scatter.series[0].curve_y = {1, 3};
  scatter.series[0].curve_label = "y = x";
  const Figure figure = build_scatter(scatter);
  ASSERT_EQ(of_role(figure, Role::curve).size(), 1U);
  const auto legend = of_role(figure, Role::legend);
  EXPECT_TRUE(std::any_of(legend.begin(), legend.end(), [](const Mark& m) { return m.text == "y = x"; }));
}

TEST(Scatter, DrawsEveryPointInsideTheFrame) {
  const Figure figure = build_scatter(scatter_of({1, 2, 3}, {10, 30, 20}));
  const auto points = of_role(figure, Role::point);
  ASSERT_EQ(points.size(), 3U);
  for (const Mark& mark : figure.marks) {
    for (const Point& point : mark.points) {
      EXPECT_TRUE(point.x >= 0 && point.x <= figure.width && point.y >= 0 && point.y <= figure.height);
    }
  }
  const auto middle = [](const Mark& mark) {
    Point sum;
    for (const Point& p : mark.points)
      sum = {sum.x + p.x / double(mark.points.size()), sum.y + p.y / double(mark.points.size())};
    return sum;
  };
  // Equal steps in x are equal steps on the page, and larger y stands higher.
  EXPECT_NEAR(middle(points[2]).x - middle(points[1]).x, middle(points[1]).x - middle(points[0]).x, 1e-6);
  EXPECT_GT(middle(points[1]).y, middle(points[2]).y);
  EXPECT_TRUE(of_role(figure, Role::legend).empty());
  EXPECT_TRUE(of_role(figure, Role::note).empty());
  EXPECT_EQ(of_role(figure, Role::axis_label).size(), 2U);
  EXPECT_EQ(of_role(figure, Role::title).at(0).text, "Title");
}

TEST(Scatter, TellsSeriesApartByColorAndShape) {
  Scatter scatter = scatter_of({1, 2}, {1, 2});
  scatter.series.push_back({"second", {1, 2}, {2, 3}, 2});
  const Figure figure = build_scatter(scatter);
  const auto points = of_role(figure, Role::point);
  ASSERT_EQ(points.size(), 4U);
  EXPECT_FALSE(points[0].color == points[2].color);
  EXPECT_NE(points[0].points.size(), points[2].points.size());
  std::set<std::string> legend;
  for (const Mark& mark : of_role(figure, Role::legend)) legend.insert(mark.text);
  EXPECT_TRUE(legend.contains("run") && legend.contains("second"));
}

TEST(Scatter, SaysHowManyRowsAreNotDrawn) {
  Scatter scatter = scatter_of({1, 2}, {1, 2});
  scatter.series[0].rows = 5;
  EXPECT_EQ(of_role(build_scatter(scatter), Role::note).at(0).text,
            "3 of 5 points not drawn: a value is null");
  Scatter empty = scatter_of({}, {});
  empty.series[0].rows = 4;
  EXPECT_EQ(of_role(build_scatter(empty), Role::note).size(), 2U);
}

TEST(Drawing, WritesTheSameBytesEachTime) {
  const TempFolder folder;
  const Figure figure = build_scatter(scatter_of({1, 2, 3}, {10, 30, 20}));
  for (const auto& [format, magic] : {std::pair("png", "\x89PNG"), {"svg", "<?xml"}, {"pdf", "%PDF"}}) {
    ASSERT_TRUE(draw_figure(figure, format, folder.path("one")));
    ASSERT_TRUE(draw_figure(figure, format, folder.path("two")));
    EXPECT_EQ(folder.read("one").substr(0, std::string(magic).size()), magic);
    EXPECT_EQ(folder.read("one"), folder.read("two")) << format;
  }
}

}  // namespace
}  // namespace opensum
