// What is on a figure, read from its marks.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <random>
#include <set>

#include "figure/draw.h"
#include "figure/layout.h"
#include "figure/marks_in.h"
#include "figure/text_size.h"

namespace opensum {
namespace {

Series series_of(const std::string& label, std::vector<double> x, std::vector<double> y) {
  Series series{label, std::move(x), std::move(y)};
  series.rows = series.x.size();
  series.look = look_of(0);
  return series;
}

Chart chart_of(std::vector<double> x, std::vector<double> y) {
  Chart chart;
  chart.title = "Title";
  chart.x.label = "x [m]";
  chart.y.label = "y [kg]";
  chart.series.push_back(series_of("run", std::move(x), std::move(y)));
  return chart;
}

Figure figure_of(const Chart& chart) {
  Page page;
  page.charts.push_back(chart);
  return build_page(page).figure;
}

// The room that a text takes on the page.
Box extent_of(const Mark& mark) {
  const double width = text_width(mark.text, mark.size, mark.strong);
  const Point& at = mark.points.front();
  const double before = mark.align * width;
  if (mark.upward) return {at.x - mark.size / 2, at.x + mark.size / 2, at.y - before, at.y - before + width};
  return {at.x - before, at.x - before + width, at.y - mark.size / 2, at.y + mark.size / 2};
}

bool overlap(const Box& a, const Box& b) {
  return a.left < b.right && b.left < a.right && a.bottom < b.top && b.bottom < a.top;
}

// No text leaves the page, and none covers another.
void expect_texts_apart(const Figure& figure, const std::string& what) {
  std::vector<std::pair<Box, std::string>> extents;
  for (const Mark& mark : figure.marks) {
    if (mark.kind != MarkKind::text || mark.text.empty()) continue;
    extents.emplace_back(extent_of(mark), mark.text);
  }
  ASSERT_FALSE(extents.empty());
  for (std::size_t i = 0; i < extents.size(); ++i) {
    const auto& [box, text] = extents[i];
    EXPECT_TRUE(box.left >= 0 && box.right <= figure.width && box.bottom >= 0 && box.top <= figure.height)
        << what << ": `" << text << "` leaves the page";
    for (std::size_t k = 0; k < i; ++k) {
      EXPECT_FALSE(overlap(box, extents[k].first))
          << what << ": `" << text << "` covers `" << extents[k].second << "`";
    }
  }
}

TEST(Chart, CountsWhatItCannotDraw) {
  Chart chart = chart_of({1, 2, 3, 40}, {1, 2, 3, 4});
  chart.series[0].rows = 7;
  chart.series[0].not_positive = 2;
  chart.x.wish.high = 10;
  const Figure figure = figure_of(chart);
  EXPECT_EQ(of_role(figure, Role::point).size(), 3U);
  EXPECT_EQ(
      texts_of(figure, Role::note).at(0),
      "1 of 7 points not drawn: a value is null; 2 not above 0 on a logarithmic axis; 1 outside the axes");
}

TEST(Chart, JoinsPointsInPiecesWhereRowsAreMissing) {
  Chart chart = chart_of({1, 2, 3, 4, 5, 6}, {1, 2, 1, 2, 1, 90});
  chart.series[0].joined = true;
  chart.series[0].breaks = {2};
  chart.y.wish.high = 3;
  const Figure figure = figure_of(chart);
  const auto curves = of_role(figure, Role::curve);
  ASSERT_EQ(curves.size(), 2U);
  EXPECT_EQ(curves[0].points.size(), 2U);
  // The last piece goes up to the border of the axes, where the point beyond it would lie.
  EXPECT_EQ(curves[1].points.size(), 4U);
  double top = 0;
  for (const Mark& mark : of_role(figure, Role::frame)) {
    for (const Point& point : mark.points) top = std::max(top, point.y);
  }
  EXPECT_NEAR(curves[1].points.back().y, top, 1e-9);
}

TEST(Chart, DrawsAFittedCurveAndNamesItInTheLegend) {
  Chart chart = chart_of({1, 2, 3}, {1, 2, 3});
  EXPECT_TRUE(of_role(figure_of(chart), Role::legend).empty());
  chart.series[0].curves.push_back({{1, 3}, {1, 3}, {0, 2}, {2, 4}, {}, "y = x"});
  const Figure figure = figure_of(chart);
  ASSERT_EQ(of_role(figure, Role::curve).size(), 1U);
  EXPECT_EQ(of_role(figure, Role::band).size(), 1U);
  EXPECT_EQ(texts_of(figure, Role::legend), (std::vector<std::string>{"run", "y = x"}));
}

TEST(Chart, DrawsEveryPointInsideTheFrame) {
  const Figure figure = figure_of(chart_of({1, 2, 3}, {10, 30, 20}));
  const auto points = of_role(figure, Role::point);
  ASSERT_EQ(points.size(), 3U);
  for (const Mark& mark : figure.marks) {
    for (const Point& point : mark.points) {
      EXPECT_TRUE(point.x >= 0 && point.x <= figure.width && point.y >= 0 && point.y <= figure.height);
    }
  }
  // Equal steps in x are equal steps on the page, and larger y stands higher.
  EXPECT_NEAR(middle_of(points[2]).x - middle_of(points[1]).x,
              middle_of(points[1]).x - middle_of(points[0]).x, 1e-6);
  EXPECT_GT(middle_of(points[1]).y, middle_of(points[2]).y);
  EXPECT_TRUE(of_role(figure, Role::legend).empty());
  EXPECT_TRUE(of_role(figure, Role::note).empty());
  EXPECT_EQ(texts_of(figure, Role::axis_label), (std::vector<std::string>{"x [m]", "y [kg]"}));
  EXPECT_EQ(texts_of(figure, Role::title).at(0), "Title");
}

TEST(Chart, TellsSeventySeriesApart) {
  std::set<std::tuple<int, int, int, int, bool>> looks;
  for (std::size_t i = 0; i < 70; ++i) {
    const Look look = look_of(i);
    looks.insert(
        {look.color.red, look.color.green, look.color.blue, static_cast<int>(look.marker), look.hollow});
  }
  EXPECT_EQ(looks.size(), 70U);
}

TEST(Chart, DrawsErrorBarsOfTheirLength) {
  Chart chart = chart_of({1, 2, 3}, {10, 20, 30});
  chart.series[0].y_error = {5, 5, std::nan("")};
  const Figure figure = figure_of(chart);
  const auto points = of_role(figure, Role::point);
  const double per_unit = (middle_of(points[1]).y - middle_of(points[0]).y) / 10;
  std::vector<Mark> bars = of_role(figure, Role::error_bar);
  std::erase_if(bars, [](const Mark& mark) { return mark.points[0].x != mark.points[1].x; });
  ASSERT_EQ(bars.size(), 2U);
  for (const Mark& bar : bars) EXPECT_NEAR(bar.points[1].y - bar.points[0].y, 10 * per_unit, 1e-6);
}

TEST(Chart, AHistogramShowsEveryValueOnce) {
  std::mt19937 random(7);
  std::normal_distribution<double> normal(20, 3);
  std::vector<double> values(1000);
  for (double& value : values) value = normal(random);
  Chart chart = chart_of(values, {});
  chart.kind = ChartKind::histogram;
  const Figure figure = figure_of(chart);
  // Heights on the page, in counts: the ticks tell how long a count is.
  const auto labels = of_role(figure, Role::tick_label);
  std::vector<Mark> up;
  std::copy_if(labels.begin(), labels.end(), std::back_inserter(up),
               [](const Mark& m) { return m.align == 1; });
  ASSERT_GE(up.size(), 2U);
  const double per_count =
      (up[1].points[0].y - up[0].points[0].y) / (std::stod(up[1].text) - std::stod(up[0].text));
  double sum = 0;
  for (const Mark& bar : of_role(figure, Role::bar))
    sum += std::fabs(bar.points[1].y - bar.points[0].y) / per_count;
  EXPECT_NEAR(sum, 1000, 0.01);
}

TEST(Chart, ABoxSpansTheMiddleHalf) {
  Chart chart = chart_of({0, 0, 0, 0, 0, 0}, {1, 2, 3, 4, 5, 40});
  chart.kind = ChartKind::box;
  chart.x.kind = AxisKind::names;
  chart.x.names = {"only"};
  const Figure figure = figure_of(chart);
  EXPECT_EQ(of_role(figure, Role::point).size(), 1U) << "40 lies beyond the whiskers";
  const auto labels = texts_of(figure, Role::tick_label);
  EXPECT_NE(std::find(labels.begin(), labels.end(), "only"), labels.end());
  EXPECT_EQ(texts_of(figure, Role::note).at(0), "boxes: quartiles; whiskers: values within 1.5 box lengths");
}

TEST(Chart, ManyPointsBecomeDotsAndThenADensityThatLosesNone) {
  std::mt19937 random(11);
  std::normal_distribution<double> normal(0, 1);
  for (const std::size_t count : {std::size_t{3000}, std::size_t{60000}}) {
    std::vector<double> x(count);
    std::vector<double> y(count);
    for (std::size_t i = 0; i < count; ++i) {
      x[i] = normal(random);
      y[i] = normal(random);
    }
    const Figure figure = figure_of(chart_of(x, y));
    if (count < 50000) {
      const auto dots = of_role(figure, Role::point);
      ASSERT_EQ(dots.size(), 1U);
      EXPECT_EQ(dots[0].points.size(), count);
    } else {
      EXPECT_LE(of_role(figure, Role::density).size(), 6U);
      EXPECT_TRUE(texts_of(figure, Role::note).at(0).starts_with("60000 points as a density"));
    }
  }
}

TEST(Chart, ALineThroughManyPointsKeepsItsExtremes) {
  std::vector<double> x(100000);
  std::vector<double> y(100000);
  for (std::size_t i = 0; i < x.size(); ++i) {
    x[i] = static_cast<double>(i);
    y[i] = i == 54321 ? 100 : std::sin(static_cast<double>(i));
  }
  Chart chart = chart_of(x, y);
  chart.series[0].joined = true;
  const auto curves = of_role(figure_of(chart), Role::curve);
  ASSERT_EQ(curves.size(), 1U);
  EXPECT_LT(curves[0].points.size(), 6000U);
  const auto highest = std::max_element(curves[0].points.begin(), curves[0].points.end(),
                                        [](const Point& a, const Point& b) { return a.y < b.y; });
  const auto second = std::count_if(curves[0].points.begin(), curves[0].points.end(),
                                    [&](const Point& p) { return p.y > highest->y - 100; });
  EXPECT_EQ(second, 1) << "one point stands far above the others";
}

TEST(Chart, TextsStandApartWhateverTheyAre) {
  const std::string longest(300, 'w');
  std::string words;
  for (int i = 0; i < 60; ++i) words += "label ";
  for (const auto& [width, height] :
       {std::pair(1280.0, 800.0), {688.0, 486.0}, {486.0, 688.0}, {1500.0, 400.0}}) {
    for (const std::string& label : {std::string("Flow [m³/s]"), longest, words}) {
      for (const int count : {1, 2, 60}) {
        Page page;
        page.width = width;
        page.height = height;
        Chart chart = chart_of({1e-7, 2e-7, 3e-7}, {-1e9, 2e9, 7e9});
        chart.title = label;
        chart.x.label = label;
        chart.y.label = label;
        chart.right = AxisRequest{label};
        chart.series[0].rows = 5;
        for (int i = 1; i < count; ++i) {
          chart.series.push_back(series_of(label, {1e-7, 3e-7}, {1e9, 2e9 + i * 1e8}));
          chart.series.back().look = look_of(static_cast<std::size_t>(i));
          chart.series.back().right_axis = i % 2 == 1;
        }
        page.charts.push_back(chart);
        expect_texts_apart(build_page(page).figure, std::to_string(static_cast<int>(width)) + " wide, " +
                                                        std::to_string(count) + " series, " +
                                                        label.substr(0, 12));
      }
    }
  }
}

TEST(Chart, PanelsStandInAGridWithAxesAtOneHeight) {
  Page page;
  page.title = "Both";
  page.columns = 2;
  for (int i = 0; i < 4; ++i) page.charts.push_back(chart_of({1, 2, 3}, {1, 10.0 * i, 1e5 * i}));
  const Figure figure = build_page(page).figure;
  EXPECT_EQ(texts_of(figure, Role::letter), (std::vector<std::string>{"(a)", "(b)", "(c)", "(d)"}));
  std::set<long> left;
  std::set<long> bottom;
  for (const Mark& mark : of_role(figure, Role::frame)) {
    const Point& one = mark.points[0];
    left.insert(std::lround(one.x));
    bottom.insert(std::lround(one.y));
  }
  EXPECT_EQ(left.size(), 2U);
  EXPECT_EQ(bottom.size(), 2U);
  expect_texts_apart(figure, "panels");
}

TEST(Chart, ResidualsStandUnderThePointsOnTheSameX) {
  Chart chart = chart_of({1, 2, 3}, {1, 2.2, 3});
  Chart below = chart_of({1, 2, 3}, {-0.1, 0.2, -0.1});
  below.zero_line = true;
  below.title.clear();
  chart.below = std::make_shared<const Chart>(below);
  const Figure figure = figure_of(chart);
  const auto points = of_role(figure, Role::point);
  ASSERT_EQ(points.size(), 6U);
  for (std::size_t i = 0; i < 3; ++i) {
    EXPECT_NEAR(middle_of(points[i]).x, middle_of(points[i + 3]).x, 1e-9);
    EXPECT_GT(middle_of(points[i]).y, middle_of(points[i + 3]).y);
  }
  expect_texts_apart(figure, "residuals");
}

TEST(Chart, SurvivesHardNumbers) {
  const double most = 1.7e308;
  for (const auto& [x, y] : {std::pair(std::vector<double>{}, std::vector<double>{}),
                             {{5}, {5}},
                             {{3, 3, 3}, {-7, -7, -7}},
                             {{-most, most}, {most, -most}},
                             {{0, 5e-324}, {5e-324, 0}},
                             {{1e15, 1e15 + 1}, {1e300, 1e-300}}}) {
    for (const ChartKind kind : {ChartKind::points, ChartKind::bars, ChartKind::histogram, ChartKind::box}) {
      Chart chart = chart_of(x, y);
      chart.kind = kind;
      const Figure figure = figure_of(chart);
      for (const Mark& mark : figure.marks) {
        for (const Point& point : mark.points)
          ASSERT_TRUE(std::isfinite(point.x) && std::isfinite(point.y)) << static_cast<int>(kind);
      }
      ASSERT_LT(figure.marks.size(), 500U);
    }
  }
}

TEST(Chart, AReversedAxisRunsTheOtherWay) {
  Chart chart = chart_of({1, 2, 3}, {10, 20, 40});
  const auto there = of_role(figure_of(chart), Role::point);
  chart.y.wish.reversed = chart.x.wish.reversed = true;
  const auto back = of_role(figure_of(chart), Role::point);
  ASSERT_EQ(there.size(), back.size());
  for (std::size_t i = 1; i < there.size(); ++i) {
    EXPECT_GT(middle_of(there[i]).y, middle_of(there[i - 1]).y);
    EXPECT_LT(middle_of(back[i]).y, middle_of(back[i - 1]).y);
    EXPECT_LT(middle_of(back[i]).x, middle_of(back[i - 1]).x);
  }
  expect_texts_apart(figure_of(chart), "reversed");
}

TEST(Chart, MarksValuesAndRangesAtTheirPlace) {
  Chart chart = chart_of({0, 10}, {0, 10});
  chart.markings = {{false, false, 5, 5, "limit"}, {true, false, 2, 4, "open"}};
  const Figure figure = figure_of(chart);
  const auto points = of_role(figure, Role::point);
  const Point low = middle_of(points[0]);
  const Point high = middle_of(points[1]);
  std::size_t found = 0;
  for (const Mark& mark : of_role(figure, Role::marking)) {
    if (mark.kind == MarkKind::line) {
      EXPECT_NEAR(mark.points[0].y, (low.y + high.y) / 2, 1e-6);
      ++found;
    } else if (mark.kind == MarkKind::boxes) {
      EXPECT_NEAR(mark.points[0].x, low.x + 0.2 * (high.x - low.x), 1e-6);
      EXPECT_NEAR(mark.points[1].x, low.x + 0.4 * (high.x - low.x), 1e-6);
      ++found;
    }
  }
  EXPECT_EQ(found, 2U);
  EXPECT_EQ(texts_of(figure, Role::marking), (std::vector<std::string>{"limit", "open"}));
  expect_texts_apart(figure, "marked");
  // A mark beyond the points widens the axis.
  chart.markings = {{false, false, 100, 100, "far"}};
  EXPECT_EQ(texts_of(figure_of(chart), Role::marking), std::vector<std::string>{"far"});
}

TEST(Chart, CellsFillTheAxesAndAreColouredByTheirValue) {
  Chart chart;
  chart.kind = ChartKind::cells;
  chart.x.label = "column";
  chart.y.kind = AxisKind::names;
  chart.y.names = {"A", "B", "C"};
  chart.shade = ShadeRequest{"Absorbance", {}};
  Series series;
  for (int row = 0; row < 3; ++row) {
    for (int column = 1; column <= 4; ++column) {
      series.x.push_back(column);
      series.y.push_back(row);
      series.shade.push_back(row * 10 + column);
    }
  }
  series.rows = series.x.size();
  chart.series.push_back(series);
  const Figure figure = figure_of(chart);
  std::size_t cells = 0;
  double area = 0;
  Box all{1e9, 0, 1e9, 0};
  for (const Mark& mark : of_role(figure, Role::cell)) {
    for (std::size_t i = 0; i + 1 < mark.points.size(); i += 2) {
      const double width = mark.points[i + 1].x - mark.points[i].x;
      if (width < 50) continue;  // the scale of colours
      ++cells;
      area += width * (mark.points[i + 1].y - mark.points[i].y);
      all = {std::min(all.left, mark.points[i].x), std::max(all.right, mark.points[i + 1].x),
             std::min(all.bottom, mark.points[i].y), std::max(all.top, mark.points[i + 1].y)};
    }
  }
  EXPECT_EQ(cells, 12U);
  // Each reaches a unit under its neighbours.
  EXPECT_NEAR(area, all.width() * all.height(), 0.02 * area);
  const auto labels = texts_of(figure, Role::tick_label);
  for (const char* label : {"A", "B", "C", "10", "20"})
    EXPECT_NE(std::find(labels.begin(), labels.end(), label), labels.end()) << label;
  expect_texts_apart(figure, "cells");
}

TEST(Chart, StepsHoldEachValueUntilTheNext) {
  Chart chart = chart_of({0, 1, 2, 3}, {1, 3, 2, 2});
  chart.series[0].joined = chart.series[0].steps = true;
  const auto lines = of_role(figure_of(chart), Role::curve);
  ASSERT_EQ(lines.size(), 1U);
  // Every piece runs along one of the axes.
  for (std::size_t i = 1; i < lines[0].points.size(); ++i) {
    const Point& a = lines[0].points[i - 1];
    const Point& b = lines[0].points[i];
    EXPECT_TRUE(a.x == b.x || a.y == b.y) << i;
  }
  EXPECT_EQ(lines[0].points.size(), 7U);
}

TEST(Chart, PointsUnderOthersShowARim) {
  Chart chart = chart_of({1, 2}, {1, 2});
  chart.series.push_back(series_of("other", {1, 3}, {1, 1}));
  chart.series[1].look = look_of(1);
  std::vector<double> widths;
  for (const Mark& mark : of_role(figure_of(chart), Role::point)) {
    double left = 1e9;
    double right = 0;
    for (const Point& p : mark.points) {
      left = std::min(left, p.x);
      right = std::max(right, p.x);
    }
    widths.push_back(right - left);
  }
  ASSERT_EQ(widths.size(), 4U);
  EXPECT_NEAR(widths[0], 1.5 * widths[1], 1e-6) << "the first lies under a point of the other series";
}

TEST(Chart, TwoAxesDoNotPutTheirPointsOnTheSameSpots) {
  std::vector<double> x(20);
  std::vector<double> y(20);
  for (std::size_t i = 0; i < x.size(); ++i) {
    x[i] = double(i);
    y[i] = 5 + double(i);
  }
  Chart chart = chart_of(x, y);
  chart.right = AxisRequest{"right [W]"};
  for (double& value : y) value *= 100;
  chart.series.push_back(series_of("other", x, y));
  chart.series[1].right_axis = true;
  chart.series[1].look = look_of(1);
  const auto points = of_role(figure_of(chart), Role::point);
  ASSERT_EQ(points.size(), 40U);
  for (std::size_t i = 0; i < 20; ++i) {
    for (std::size_t k = 20; k < 40; ++k) {
      const Point a = middle_of(points[i]);
      const Point b = middle_of(points[k]);
      EXPECT_GT(std::hypot(a.x - b.x, a.y - b.y), 10) << i << " " << k;
    }
  }
}

TEST(Chart, CountsHaveWholeTicksAndSeveralHaveOutlines) {
  Chart chart = chart_of({1, 2, 3}, {});
  chart.kind = ChartKind::histogram;
  chart.y.wish.whole = true;
  const auto marks = of_role(figure_of(chart), Role::tick_label);
  for (const Mark& mark : marks) {
    if (mark.align != 1) continue;
    EXPECT_EQ(mark.text.find('.'), std::string::npos) << mark.text;
  }
  chart.series.push_back(series_of("other", {2, 3, 4}, {}));
  chart.series[1].look = look_of(1);
  std::size_t outlines = 0;
  for (const Mark& mark : of_role(figure_of(chart), Role::bar))
    outlines += mark.kind == MarkKind::line ? 1 : 0;
  EXPECT_EQ(outlines, 2U);
}

TEST(Chart, FilledValuesAreHollow) {
  Chart chart = chart_of({1, 2, 3}, {1, 2, 3});
  chart.series[0].filled = {false, true, false};
  const Figure figure = figure_of(chart);
  std::vector<bool> hollow;
  for (const Mark& mark : of_role(figure, Role::point)) hollow.push_back(mark.hollow);
  EXPECT_EQ(hollow, (std::vector<bool>{false, true, false}));
  EXPECT_EQ(texts_of(figure, Role::note).at(0), "hollow: a value that was filled");
}

TEST(Text, RaisesWhatIsRaisedAndEscapesTheRest) {
  const std::string up = "<span size=\"14336\" rise=\"7373\">";
  const std::string down = "<span size=\"14336\" rise=\"-3277\">";
  EXPECT_EQ(text_markup("m³ s⁻¹", 20), "m" + up + "3</span> s" + up + "−1</span>");
  EXPECT_EQ(text_markup("10^{−3}, CO_{2}, a < b & c", 20),
            "10" + up + "−3</span>, CO" + down + "2</span>, a &lt; b &amp; c");
  EXPECT_EQ(text_markup("x^{", 20), "x^{");
  EXPECT_LT(text_width("x^{2}", 20), text_width("x2", 20));
}

TEST(Text, IsCutWhereThereIsNoRoom) {
  const std::string text = "Wärmeübergang an der Platte";
  for (const double width : {30.0, 100.0, 200.0}) {
    const std::string cut = cut_text(text, 20, width);
    EXPECT_LE(text_width(cut, 20), width);
    EXPECT_TRUE(cut.ends_with("…"));
  }
  EXPECT_EQ(cut_text(text, 20, 2000), text);
  for (const std::string& line : wrap_text(text, 20, 150, 3)) EXPECT_LE(text_width(line, 20), 150);
}

TEST(Drawing, WritesTheSameBytesEachTime) {
  const Figure figure = figure_of(chart_of({1, 2, 3}, {10, 30, 20}));
  for (const auto& [format, magic] : {std::pair("png", "\x89PNG"), {"svg", "<?xml"}, {"pdf", "%PDF"}}) {
    const std::string one = drawn_figure(figure, format);
    EXPECT_EQ(one.substr(0, std::string(magic).size()), magic);
    EXPECT_TRUE(one == drawn_figure(figure, format)) << format;
  }
  const std::string element = svg_element(drawn_figure(figure, "svg"), "first-");
  EXPECT_TRUE(element.starts_with("<svg"));
  EXPECT_EQ(element.find("id=\"glyph"), std::string::npos);
  EXPECT_NE(element.find("id=\"first-glyph"), std::string::npos);
}

}  // namespace
}  // namespace opensum
