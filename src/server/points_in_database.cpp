// The points of plots of a sheet that stays in its database.
#include "server/points_in_database.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <functional>
#include <map>

#include "base/split.h"
#include "figure/series_marks.h"
#include "files/copied_rows.h"
#include "plot/plot_columns.h"
#include "server/fetched_column.h"
#include "sql/name.h"

namespace opensum {
namespace {

// Finer than the dots of a large figure, so that a point is drawn where one of those that it stands for would
// be.
constexpr int kSteps = 2400;

// What rows are to a plot.
constexpr int kDrawn = 0;
constexpr int kNull = 1;
constexpr int kNotPositive = 2;  // on a logarithmic axis

double number_in(const std::string& cell) {
  double number = 0;
  std::from_chars(cell.data(), cell.data() + cell.size(), number);
  return number;
}
double number_in(const std::optional<std::string>& cell) { return cell ? number_in(*cell) : 0; }

bool is_scale(const Column& column) { return column.kind == Kind::number || column.kind == Kind::date; }

const ColumnHead& head_of(const Column& column) { return column; }

// One direction of a plot: a column, its axis and where the values there are.
struct Direction {
  const Column* column = nullptr;
  const ScaleWish* wish = nullptr;
  Conversion from_axis;
  double low = 0;  // of the value, or of its logarithm
  double high = 0;

  // What is proportional to the place on the axis; null where there is none.
  std::string along(const char* name) const {
    return wish->logarithmic ? fmt::format("CASE WHEN {0} > 0 THEN ln({0}) END", name) : name;
  }
  double along(double value) const { return wish->logarithmic ? std::log(value) : value; }

  // Takes what a query found and what the axis is told to show.
  void span(double least, double greatest) {
    low = least;
    high = greatest;
    if (wish->low) low = std::max(low, along(from_axis(*wish->low)));
    if (wish->high) high = std::min(high, along(from_axis(*wish->high)));
    if (!(low < high)) high = low + std::max(1.0, std::fabs(low));
  }

  std::string step(const char* name) const {
    // What is beyond the axis is not one with what stands on its end.
    return fmt::format("CASE WHEN {0} > {2} THEN {4} ELSE width_bucket({0}, {1}, {2}, {3}) END", name,
                       sql_number(low), sql_number(high), kSteps, kSteps + 2);
  }
};

class PointsOfPair {
 public:
  PointsOfPair(const SqlSheet& query, const std::string& with, DatabaseConnection& connection,
               const Table& table, const PlotPair& pair)
      : query_(query), with_(with), connection_(connection) {
    points_.x = Column(head_of(*pair.x));
    points_.y = Column(head_of(*pair.y));
    list_ = fmt::format("{} AS x, {} AS y", value_of(table, *pair.x).value, value_of(table, *pair.y).value);
    if (pair.by == nullptr) return;
    points_.by = Column(head_of(*pair.by));
    const SqlColumn& by = column_of(table, *pair.by);
    const CellsBeside beside = {.why = by.value.may_be_null(), .source = !by.as_read.empty()};
    by_.emplace(*points_.by, beside);
    add_key(by.value.value);
    if (beside.why) add_key(by.value.why);
    if (beside.source) add_key(by.as_read);
  }

  bool density(Direction x, Direction y) {
    QueryRows found;
    if (!ask_for_spans(x, y, "", found)) return false;
    if (!found.front()[0]) return true;
    const std::string select = fmt::format(
        "SELECT {0}min(x), min(y), count(*)\nFROM (SELECT *, CASE WHEN kind = {1} THEN {2} END AS sx, CASE "
        "WHEN "
        "kind = {1} THEN {3} END AS sy FROM {4}) AS s\nGROUP BY {0}kind, sx, sy ORDER BY min(min(place)) "
        "OVER ({5})",
        keys("{}, "), kDrawn, x.step("ax"), y.step("ay"), rows(x, y), partition());
    return copy(select, [&](const std::vector<std::string>& cells) {
      add(cells, cells[keys_], cells[keys_ + 1], static_cast<std::size_t>(number_in(cells[keys_ + 2])));
    });
  }

  // `goes_one_way` is false where x goes to and fro: such lines come whole.
  bool line(Direction x, Direction y, bool& goes_one_way) {
    QueryRows found;
    if (!ask_for_spans(x, y, ", bool_and(x >= before), bool_and(x <= before)", found)) return false;
    goes_one_way = found.front()[4] != "f" || found.front()[5] != "f";
    if (!goes_one_way || !found.front()[0]) return true;
    // Where points are missing the line begins anew, so that what is before them is not taken with what
    // follows.
    const std::string in_order = fmt::format(
        "(SELECT *, row_number() OVER (ORDER BY place)::float8 AS n, lag(kind, 1, {}) OVER ({} ORDER BY "
        "place) <> kind AS other FROM {}) AS o",
        kDrawn, partition(), rows(x, y));
    const std::string in_parts = fmt::format(
        "(SELECT *, count(*) FILTER (WHERE other) OVER ({} ORDER BY n) AS part, CASE WHEN kind = {} THEN "
        "{} END AS sx FROM {}) AS s",
        partition(), kDrawn, x.step("ax"), in_order);
    const std::string select = fmt::format(
        "SELECT {0}rows, kind, {1}, {2}, {3}, {4}, {5}, {6}, {7}, {8}, {9}, {10}, {11}, {12}\n"
        "FROM (SELECT {0}kind, part, sx, count(*) AS rows, min(ARRAY[n, x, y]) AS a, max(ARRAY[n, x, y]) AS "
        "b, "
        "min(ARRAY[y, n, x]) AS c, max(ARRAY[y, n, x]) AS d\nFROM {13} GROUP BY {0}kind, part, sx) AS e "
        "ORDER BY a[1]",
        keys("{}, "), "a[1]", "a[2]", "a[3]", "b[1]", "b[2]", "b[3]", "c[2]", "c[3]", "c[1]", "d[2]", "d[3]",
        "d[1]", in_parts);
    return copy(select, [&](const std::vector<std::string>& cells) { add_step(cells); });
  }

  ThinnedPoints points() const { return points_; }

 private:
  const SqlColumn& column_of(const Table& table, const Column& column) const {
    std::size_t index = 0;
    while (&table.columns[index] != &column) ++index;
    return query_.columns.at(index);
  }
  const SqlValue& value_of(const Table& table, const Column& column) const {
    return column_of(table, column).value;
  }

  void add_key(const std::string& value) { list_ += fmt::format(", {} AS k{}", value, ++keys_); }

  // A text for each column by which the points are split.
  std::string keys(const char* form) const {
    std::string all;
    for (std::size_t i = 1; i <= keys_; ++i) all += fmt::format(fmt::runtime(form), fmt::format("k{}", i));
    return all;
  }
  std::string partition() const {
    const std::string all = keys("{}, ");
    return all.empty() ? "" : "PARTITION BY " + all.substr(0, all.size() - 2);
  }
  // The rows with what is proportional to their places, and whether they have one.
  std::string rows(const Direction& x, const Direction& y) const {
    return fmt::format(
        "(SELECT *, CASE WHEN x IS NULL OR y IS NULL THEN {} WHEN ax IS NULL OR ay IS NULL THEN {} ELSE {} "
        "END AS kind\n"
        "FROM (SELECT *, {} AS ax, {} AS ay FROM (SELECT {}, {} AS place FROM {} AS q) AS p) AS t) AS r",
        kNull, kNotPositive, kDrawn, x.along("x"), y.along("y"), list_,
        query_.place.empty() ? "0" : query_.place, query_.name);
  }

  // The least and greatest of both directions among the points.
  bool ask_for_spans(Direction& x, Direction& y, const std::string& more, QueryRows& found) {
    const std::string before =
        more.empty() ? "" : fmt::format(", lag(x) OVER ({} ORDER BY place) AS before", partition());
    const bool asked = connection_.ask(
        fmt::format("{}\nSELECT min(ax), max(ax), min(ay), max(ay){}\nFROM (SELECT *{} FROM {} WHERE "
                    "kind = {}) AS d",
                    with_, more, before, rows(x, y), kDrawn),
        {}, found);
    if (!asked || !found.front()[0]) return asked;
    x.span(number_in(found.front()[0]), number_in(found.front()[1]));
    y.span(number_in(found.front()[2]), number_in(found.front()[3]));
    return true;
  }

  bool copy(const std::string& select, const std::function<void(const std::vector<std::string>&)>& take) {
    return connection_.copy_out(fmt::format("COPY ({}\n{}) TO STDOUT", with_, select),
                                [&](std::string_view line) {
                                  take(split(line, '\t'));
                                  return true;
                                });
  }

  // A step along a line: its first and last, least and greatest point, each once, or what is none.
  void add_step(const std::vector<std::string>& cells) {
    const auto count = static_cast<std::size_t>(number_in(cells[keys_]));
    const bool drawn = static_cast<int>(number_in(cells[keys_ + 1])) == kDrawn;
    constexpr std::size_t kCorners = 4;
    std::map<double, std::size_t> corners;  // by the number of the row
    for (std::size_t corner = 0; corner < (drawn ? kCorners : 1); ++corner) {
      const std::size_t at = keys_ + 2 + 3 * corner;
      corners.emplace(number_in(cells[at]), at);
    }
    std::size_t left = count;
    for (const auto& [row, at] : corners) {
      const bool last = row == corners.rbegin()->first;
      add(cells, cells[at + 1], cells[at + 2], last ? left : 1);
      --left;
    }
  }

  void add(const std::vector<std::string>& cells, const std::string& x, const std::string& y,
           std::size_t count) {
    const std::size_t row = points_.counts.size();
    if (by_) by_->take(cells, 0, row);
    static const std::string kWhy = std::to_string(static_cast<int>(Reason::missing));
    for (const auto& [column, cell] : {std::pair{&x_, &x}, std::pair{&y_, &y}})
      column->take({*cell, *cell == kCopiedNull ? kWhy : kCopiedNull}, 0, row);
    points_.counts.push_back(count);
    points_.x.rows = points_.y.rows = row + 1;
    if (points_.by) points_.by->rows = row + 1;
  }

  const SqlSheet& query_;
  const std::string& with_;
  DatabaseConnection& connection_;
  std::string list_;
  std::size_t keys_ = 0;
  ThinnedPoints points_;
  FetchedColumn x_{points_.x, {.why = true}};
  FetchedColumn y_{points_.y, {.why = true}};
  std::optional<FetchedColumn> by_;
};

// Whether points of a pair may stand for others: nothing but their places is drawn.
bool can_be_thinned(const PlotModel& plot, const PlotPair& pair, const PlotAxes& axes) {
  const bool places =
      plot.kind == PlotKind::points || plot.kind == PlotKind::line || plot.kind == PlotKind::steps;
  if (!places || plot.residuals || axes.x_kind == AxisKind::names || axes.y_kind == AxisKind::names ||
      pair.x == nullptr || pair.y == nullptr)
    return false;
  return is_scale(*pair.x) && is_scale(*pair.y) && pair.x->fills.empty() && pair.y->fills.empty() &&
         pair.y_error == nullptr && pair.x_error == nullptr && pair.shade == nullptr && pair.fits.empty();
}

}  // namespace

bool thin_points(PreparedStudy& prepared, std::size_t sheet, const SqlSheet& query, const std::string& with,
                 DatabaseConnection& connection) {
  const Table& table = prepared.sheets[sheet]->table();
  if (table.rows <= kMostDots) return true;
  Diagnostics reported_before;
  for (std::size_t number = 0; number < prepared.study.plots.size(); ++number) {
    const PlotModel& plot = prepared.study.plots[number];
    if (!plot.panels.empty()) continue;
    const std::vector<PlotPair> pairs = plot_pairs(prepared, plot, reported_before);
    if (pairs.empty()) continue;
    const PlotAxes axes = plot_axes(plot, pairs, prepared.units, reported_before);
    for (std::size_t i = 0; i < pairs.size(); ++i) {
      const PlotPair& pair = pairs[i];
      if (pair.sheet_number != sheet || !can_be_thinned(plot, pair, axes)) continue;
      const auto direction = [](const Column& column, const ScaleWish& wish, const Unit& unit) {
        Direction one{&column, &wish, {}};
        if (column.kind == Kind::number) one.from_axis = conversion(unit, column.unit);
        return one;
      };
      const Direction x = direction(*pair.x, axes.x, axes.x_unit);
      const Direction y = direction(*pair.y, pair.right_axis ? axes.right : axes.y,
                                    pair.right_axis ? axes.right_unit : axes.y_unit);
      PointsOfPair points(query, with, connection, table, pair);
      const bool joined = pair.model != nullptr && pair.model->line ? *pair.model->line != LineStyle::none
                                                                    : plot.kind != PlotKind::points;
      if (!joined) {
        if (!points.density(x, y)) return false;
      } else if (query.place.empty() || query.place != query.order_by) {
        // Without an order there are no neighbours to join.
        continue;
      } else {
        bool goes_one_way = false;
        if (!points.line(x, y, goes_one_way)) return false;
        if (!goes_one_way) continue;
      }
      prepared.thinned[{number, i}] = points.points();
    }
  }
  return true;
}

}  // namespace opensum
