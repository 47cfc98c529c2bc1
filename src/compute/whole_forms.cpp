// How functions of whole columns depend on each of the rows that they look at.
#include "compute/whole_forms.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>

#include "compute/statistics.h"
#include "equation/operation.h"

namespace opensum {
namespace {

// How much a result moves with the values of a row, and with those beside them.
struct Weight {
  std::size_t row = 0;
  double by_value = 0;
  double by_beside = 0;
};
using Weights = std::vector<Weight>;

std::vector<std::vector<std::size_t>> rows_of_groups(const RowsOver& rows) {
  std::vector<std::vector<std::size_t>> groups(rows.groups);
  for (std::size_t row = 0; row < rows.value.values.size(); ++row) {
    if (rows.takes_part(row)) groups[rows.group_of_row.empty() ? 0 : rows.group_of_row[row]].push_back(row);
  }
  return groups;
}

// Puts the deviation of a result into terms, in place of those that are there.
void take_terms(const RowsOver& rows, std::span<const Weight> weights, std::vector<Term>& terms) {
  terms.clear();
  for (const Weight& weight : weights) {
    add_times(terms, rows.value.form(weight.row), weight.by_value);
    add_times(terms, rows.beside.form(weight.row), weight.by_beside);
  }
  gather_terms(terms);
}

// The values of some rows, with what both kinds of functions need of them.
class Values {
 public:
  explicit Values(const RowsOver& rows) : rows_(rows) {}

  double x(std::size_t row) const { return rows_.value.values[row]; }
  double beside(std::size_t row) const { return rows_.beside.values[row]; }
  bool has_beside() const { return !rows_.beside.values.empty(); }
  bool known(std::size_t row) const {
    return !std::isnan(x(row)) && (!has_beside() || !std::isnan(beside(row)));
  }

  double mean(const std::vector<std::size_t>& known, bool of_beside = false) const {
    CompensatedSum sum;
    for (const std::size_t row : known) sum.add(of_beside ? beside(row) : x(row));
    return sum.over(static_cast<double>(known.size()));
  }

  Weights each(const std::vector<std::size_t>& known, double by) const {
    Weights weights;
    for (const std::size_t row : known) weights.push_back({row, by, 0});
    return weights;
  }

  // Of the value at a fraction between the least and the greatest.
  Weights quantile(std::vector<std::size_t> known, double p) const {
    const auto smaller = [&](std::size_t a, std::size_t b) { return x(a) < x(b); };
    std::stable_sort(known.begin(), known.end(), smaller);
    const double at = static_cast<double>(known.size() - 1) * p;
    const auto below = static_cast<std::size_t>(std::floor(at));
    const double part = at - std::floor(at);
    Weights weights = {{known[below], 1 - part, 0}};
    if (part > 0) weights.push_back({known[below + 1], part, 0});
    return weights;
  }

  Weights extreme(const std::vector<std::size_t>& known, bool greatest, double by) const {
    const auto smaller = [&](std::size_t a, std::size_t b) { return greatest ? x(a) > x(b) : x(a) < x(b); };
    return {{*std::min_element(known.begin(), known.end(), smaller), by, 0}};
  }

  Weights deviation(const std::vector<std::size_t>& known, double divide_by) const {
    std::vector<double> numbers;
    numbers.reserve(known.size());
    for (const std::size_t row : known) numbers.push_back(x(row));
    const double sd = deviation_of(numbers);
    const double middle = mean(known);
    const double n = static_cast<double>(known.size());
    Weights weights;
    for (const std::size_t row : known)
      weights.push_back({row, (x(row) - middle) / ((n - 1) * sd * divide_by), 0});
    return weights;
  }

 private:
  const RowsOver& rows_;
};

// Reductions: one result for each group.
class OfGroup {
 public:
  OfGroup(const Stage& stage, const RowsOver& rows) : stage_(stage), values_(rows) {}

  Weights run(const std::vector<std::size_t>& group) const {
    if (family_of(stage_.op) == OpFamily::cell_of_column) return cell(group);
    std::vector<std::size_t> known;
    for (const std::size_t row : group) {
      if (values_.known(row)) known.push_back(row);
    }
    if (known.empty()) return {};
    const double n = static_cast<double>(known.size());
    switch (stage_.op) {
      case Op::col_sum:
        return values_.each(known, 1);
      case Op::col_mean:
        return values_.each(known, 1 / n);
      case Op::col_median:
        return values_.quantile(known, 0.5);
      case Op::col_quantile:
        return values_.quantile(known, std::get<QuantileFraction>(stage_.setting).share);
      case Op::col_min:
        return values_.extreme(known, false, 1);
      case Op::col_max:
        return values_.extreme(known, true, 1);
      case Op::col_range: {
        Weights weights = values_.extreme(known, true, 1);
        const Weights least = values_.extreme(known, false, -1);
        weights.insert(weights.end(), least.begin(), least.end());
        return weights;
      }
      case Op::col_sd:
        return n < 2 ? Weights() : values_.deviation(known, 1);
      case Op::col_sem:
        return n < 2 ? Weights() : values_.deviation(known, std::sqrt(n));
      case Op::col_mad:
        return median_distance(known);
      case Op::col_rms:
        return root_mean_square(known, n);
      case Op::col_geometric_mean:
        return geometric(known, n);
      case Op::col_weighted_mean:
        return weighted(known);
      case Op::col_correlation:
        return n < 2 ? Weights() : correlation(known);
      case Op::col_area:
        return area(known);
      case Op::col_count:
        return {};
      default:
        not_computed(stage_.op, "OfGroup");
    }
  }

 private:
  double x(std::size_t row) const { return values_.x(row); }

  Weights cell(const std::vector<std::size_t>& group) const {
    const bool of_known = stage_.op == Op::col_first_known || stage_.op == Op::col_last_known;
    const bool last = stage_.op == Op::col_last || stage_.op == Op::col_last_known;
    std::vector<std::size_t> rows;
    for (const std::size_t row : group) {
      if (!of_known || values_.known(row)) rows.push_back(row);
    }
    const std::size_t place = last                      ? rows.size() - 1
                              : stage_.op == Op::col_at ? std::get<RowNumber>(stage_.setting).number - 1
                                                        : 0;
    return place < rows.size() ? Weights{{rows[place], 1, 0}} : Weights();
  }

  // The median of the distances from the median.
  Weights median_distance(const std::vector<std::size_t>& known) const {
    const Weights middle = values_.quantile(known, 0.5);
    double median = 0;
    for (const Weight& weight : middle) median += weight.by_value * x(weight.row);
    // Of rows that are as far on both sides but for rounding, the first is chosen on any scale.
    double largest = 0;
    for (const std::size_t row : known) largest = std::max(largest, std::fabs(x(row)));
    const double rounding = 8 * std::numeric_limits<double>::epsilon() * largest;
    const auto distance = [&](std::size_t row) { return std::fabs(x(row) - median); };
    std::vector<std::size_t> by_distance = known;
    std::stable_sort(by_distance.begin(), by_distance.end(),
                     [&](std::size_t a, std::size_t b) { return distance(a) < distance(b); });
    for (auto begin = by_distance.begin(); begin != by_distance.end();) {
      const double reach = distance(*begin) + rounding;
      const auto end =
          std::find_if(begin, by_distance.end(), [&](std::size_t row) { return distance(row) > reach; });
      std::sort(begin, end);
      begin = end;
    }
    Weights weights;
    for (const std::size_t place : {(known.size() - 1) / 2, known.size() / 2}) {
      const std::size_t row = by_distance[place];
      const double sign = distance(row) <= rounding ? 0 : x(row) > median ? 0.5 : -0.5;
      weights.push_back({row, sign, 0});
      for (const Weight& weight : middle) weights.push_back({weight.row, -sign * weight.by_value, 0});
    }
    return weights;
  }

  Weights root_mean_square(const std::vector<std::size_t>& known, double n) const {
    SumOfSquares squares;
    for (const std::size_t row : known) squares.add(x(row));
    const double result = squares.root_mean(n);
    Weights weights;
    for (const std::size_t row : known) weights.push_back({row, x(row) / (n * result), 0});
    return weights;
  }

  Weights geometric(const std::vector<std::size_t>& known, double n) const {
    CompensatedSum logs;
    for (const std::size_t row : known) logs.add(std::log(x(row)));
    const double result = std::exp(logs.over(n));
    Weights weights;
    for (const std::size_t row : known) weights.push_back({row, result / (n * x(row)), 0});
    return weights;
  }

  Weights weighted(const std::vector<std::size_t>& known) const {
    CompensatedSum sum;
    CompensatedSum products;
    const double first = x(known.front());
    for (const std::size_t row : known) {
      sum.add(values_.beside(row));
      products.add(values_.beside(row) * (x(row) - first));
    }
    const double mean = first + products.value() / sum.value();
    Weights weights;
    for (const std::size_t row : known)
      weights.push_back({row, values_.beside(row) / sum.value(), (x(row) - mean) / sum.value()});
    return weights;
  }

  Weights correlation(const std::vector<std::size_t>& known) const {
    const double mean_x = values_.mean(known);
    const double mean_y = values_.mean(known, true);
    double xx = 0;
    double yy = 0;
    double xy = 0;
    for (const std::size_t row : known) {
      const double dx = x(row) - mean_x;
      const double dy = values_.beside(row) - mean_y;
      xx += dx * dx;
      yy += dy * dy;
      xy += dx * dy;
    }
    const double scale = std::sqrt(xx) * std::sqrt(yy);
    Weights weights;
    for (const std::size_t row : known) {
      const double dx = x(row) - mean_x;
      const double dy = values_.beside(row) - mean_y;
      weights.push_back({row, (dy - xy / xx * dx) / scale, (dx - xy / yy * dy) / scale});
    }
    return weights;
  }

  // Straight lines between the rows: each end of a strip counts half its width.
  Weights area(const std::vector<std::size_t>& known) const {
    Weights weights = values_.each(known, 0);
    for (std::size_t k = 1; k < known.size(); ++k) {
      const double width = values_.beside(known[k]) - values_.beside(known[k - 1]);
      const double height = x(known[k]) / 2 + x(known[k - 1]) / 2;
      for (const std::size_t end : {k - 1, k}) weights[end].by_value += width / 2;
      weights[k].by_beside += height;
      weights[k - 1].by_beside -= height;
    }
    return weights;
  }

  const Stage& stage_;
  Values values_;
};

// Sequence functions: one result for each row.
class OfSequence {
 public:
  OfSequence(const Stage& stage, const RowsOver& rows)
      : stage_(stage), rows_(rows), values_(rows), forms_(rows.value.values.size()) {}

  // Gives each row of a group what its result depends on, or the step of a sum that runs along them.
  void run(const std::vector<std::size_t>& group) {
    switch (stage_.op) {
      case Op::row_number:
      case Op::rank:
        // Steps.
        return;
      case Op::previous:
      case Op::next:
        return neighbours(group);
      case Op::change:
        for (std::size_t i = 1; i < group.size(); ++i)
          set(group[i], {{group[i], 1, 0}, {group[i - 1], -1, 0}});
        return;
      case Op::previous_known:
      case Op::next_known:
        return known_neighbours(group);
      case Op::min_so_far:
      case Op::max_so_far:
        return extremes_so_far(group);
      case Op::sum_so_far:
      case Op::mean_so_far:
        for (const std::size_t row : group) {
          if (!std::isnan(values_.x(row))) set(row, {{row, 1, 0}});
        }
        return;
      case Op::moving_mean:
      case Op::moving_median:
      case Op::moving_sd:
        return windows(group);
      case Op::derivative:
        return slopes(used_along(group));
      case Op::area_so_far:
        return areas(used_along(group));
      case Op::interpolated:
        return interpolate(group);
      default:
        not_computed(stage_.op, "OfSequence");
    }
  }

  /// The deviations of all rows.
  FormRows& forms() { return forms_; }

 private:
  void set(std::size_t row, std::span<const Weight> weights) {
    take_terms(rows_, weights, terms_);
    forms_.put(row, terms_);
  }
  void set(std::size_t row, std::initializer_list<Weight> weights) {
    set(row, std::span<const Weight>(weights.begin(), weights.size()));
  }

  double x(std::size_t row) const { return values_.x(row); }
  double along(std::size_t row) const { return values_.beside(row); }

  // Without the rows that a null rule leaves out.
  std::vector<std::size_t> used_along(const std::vector<std::size_t>& group) const {
    if (!stage_.nulls.skip) return group;
    std::vector<std::size_t> used;
    for (const std::size_t row : group) {
      if (values_.known(row)) used.push_back(row);
    }
    return used;
  }

  void neighbours(const std::vector<std::size_t>& group) {
    const std::size_t distance = rows_of_setting(stage_.setting);
    for (std::size_t i = distance; i < group.size(); ++i) {
      const bool back = stage_.op == Op::previous;
      const std::size_t from = back ? i - distance : i;
      set(group[back ? i : i - distance], {{group[from], 1, 0}});
    }
  }

  void known_neighbours(const std::vector<std::size_t>& group) {
    const bool back = stage_.op == Op::previous_known;
    std::optional<std::size_t> last;
    for (std::size_t step = 0; step < group.size(); ++step) {
      const std::size_t row = group[back ? step : group.size() - 1 - step];
      if (last) set(row, {{*last, 1, 0}});
      if (!std::isnan(x(row))) last = row;
    }
  }

  void extremes_so_far(const std::vector<std::size_t>& group) {
    std::optional<std::size_t> chosen;
    for (const std::size_t row : group) {
      const bool better =
          !chosen || (stage_.op == Op::min_so_far ? x(row) < x(*chosen) : x(row) > x(*chosen));
      if (!std::isnan(x(row)) && better) chosen = row;
      if (chosen) set(row, {{*chosen, 1, 0}});
    }
  }

  void windows(const std::vector<std::size_t>& group) {
    const std::size_t half = rows_of_setting(stage_.setting) / 2;
    std::vector<std::size_t> window;
    for (std::size_t i = half; i + half < group.size(); ++i) {
      window.clear();
      for (std::size_t j = i - half; j <= i + half; ++j) {
        if (!std::isnan(x(group[j]))) window.push_back(group[j]);
      }
      if (window.size() < (stage_.op == Op::moving_sd ? 2U : 1U)) continue;
      set(group[i], stage_.op == Op::moving_mean
                        ? values_.each(window, 1 / static_cast<double>(window.size()))
                    : stage_.op == Op::moving_median ? values_.quantile(window, 0.5)
                                                     : values_.deviation(window, 1));
    }
  }

  // The parabola through three rows (Newton's form), or the line through two: its slope moves with the value
  // of each by the slope of Lagrange's polynomial, and with the place of each by that times the slope there.
  void slopes(const std::vector<std::size_t>& rows) {
    if (rows.size() < 2) return;
    const std::size_t width = std::min<std::size_t>(rows.size(), 3);
    for (std::size_t k = 0; k < rows.size(); ++k) {
      const std::size_t first = std::min(k == 0 ? 0 : k - 1, rows.size() - width);
      const auto t = [&](std::size_t j) { return along(rows[first + j]); };
      const auto y = [&](std::size_t j) { return x(rows[first + j]); };
      const double left = (y(1) - y(0)) / (t(1) - t(0));
      const double bend = width == 2 ? 0 : ((y(2) - y(1)) / (t(2) - t(1)) - left) / (t(2) - t(0));
      const auto slope_at = [&](double at) { return left + bend * ((at - t(0)) + (at - t(1))); };
      const double at = along(rows[k]);
      Weights weights;
      for (std::size_t j = 0; j < width; ++j) {
        // Of the product of (t - t(l)) over the others, divided by its value at t(j).
        double by_value = width == 2 ? 1 : 0;
        double divisor = 1;
        for (std::size_t l = 0; l < width; ++l) {
          if (l == j) continue;
          divisor *= t(j) - t(l);
          if (width == 3) by_value += at - t(l);
        }
        by_value /= divisor;
        const bool own = first + j == k;
        weights.push_back({rows[first + j], by_value, -by_value * slope_at(t(j)) + (own ? 2 * bend : 0)});
      }
      set(rows[k], weights);
    }
  }

  void areas(const std::vector<std::size_t>& rows) {
    for (std::size_t k = 1; k < rows.size(); ++k) {
      const double width = along(rows[k]) - along(rows[k - 1]);
      const double height = x(rows[k]) / 2 + x(rows[k - 1]) / 2;
      set(rows[k], {{rows[k - 1], width / 2, -height}, {rows[k], width / 2, height}});
    }
  }

  // Known values stay; a gap moves with the known ones before and after it, and with the places of all three.
  void interpolate(const std::vector<std::size_t>& group) {
    std::vector<std::size_t> anchors;
    for (const std::size_t row : group) {
      if (values_.known(row)) anchors.push_back(row);
    }
    std::size_t after = 0;
    for (const std::size_t row : group) {
      while (after < anchors.size() && anchors[after] < row) ++after;
      if (!std::isnan(x(row))) {
        set(row, {{row, 1, 0}});
      } else if (after > 0 && after < anchors.size() && !std::isnan(along(row))) {
        const std::size_t a = anchors[after - 1];
        const std::size_t b = anchors[after];
        const double part = (along(row) - along(a)) / (along(b) - along(a));
        const double slope = (x(b) - x(a)) / (along(b) - along(a));
        set(row, {{a, 1 - part, -slope * (1 - part)}, {b, part, -slope * part}, {row, 0, slope}});
      }
    }
  }

  const Stage& stage_;
  const RowsOver& rows_;
  Values values_;
  FormRows forms_;
  std::vector<Term> terms_;
};

bool runs_along(Op op) { return op == Op::sum_so_far || op == Op::mean_so_far || op == Op::area_so_far; }

WholeForms forms_of_sequence(const Stage& stage, const RowsOver& rows, Unknowns& unknowns) {
  const std::size_t count = rows.value.values.size();
  const std::vector<std::vector<std::size_t>> groups = rows_of_groups(rows);
  OfSequence sequence(stage, rows);
  for (const std::vector<std::size_t>& group : groups) sequence.run(group);
  WholeForms result;
  if (!runs_along(stage.op)) {
    result.rows = std::move(sequence.forms());
    return result;
  }
  std::vector<std::size_t> before(count, Unknowns::kNone);
  std::vector<double> known(count, 0);
  for (const std::vector<std::size_t>& group : groups) {
    for (std::size_t i = 0; i < group.size(); ++i) {
      if (i > 0) before[group[i]] = group[i - 1];
      known[group[i]] = (i > 0 ? known[group[i - 1]] : 0) + (std::isnan(rows.value.values[group[i]]) ? 0 : 1);
    }
  }
  const std::size_t family = unknowns.add_running(std::move(sequence.forms()), before);
  for (std::size_t row = 0; row < count; ++row) {
    const Term term{unknown_of(family, row), stage.op == Op::mean_so_far ? 1 / known[row] : 1};
    result.rows.add({&term, 1});
  }
  return result;
}

}  // namespace

WholeForms whole_forms(const Stage& stage, const RowsOver& rows, Unknowns& unknowns) {
  if (is_sequence(stage.op)) return forms_of_sequence(stage, rows, unknowns);
  const OfGroup reduction(stage, rows);
  FormRows sums;
  std::vector<Term> terms;
  for (const std::vector<std::size_t>& group : rows_of_groups(rows)) {
    take_terms(rows, reduction.run(group), terms);
    sums.add(terms);
  }
  WholeForms result;
  result.sums = unknowns.add_sums(std::move(sums));
  return result;
}

}  // namespace opensum
