// Functions of the sequence of rows.
#include "compute/sequences.h"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <optional>

#include "compute/statistics.h"
#include "equation/operation.h"
#include "table/decimal.h"

namespace opensum {
namespace {

// The rows of one group in order, and the results that are written for them.
class Sequence {
 public:
  Sequence(const Stage& stage, const std::vector<Chunk>& values, const std::vector<Chunk>& along,
           std::vector<Chunk>& results, OriginId own, Origins& origins)
      : stage_(stage), values_(values), along_(along), results_(results), own_(own), origins_(origins) {}

  void run(const std::vector<std::size_t>& rows) {
    rows_ = &rows;
    switch (stage_.op) {
      case Op::row_number:
        for (std::size_t i = 0; i < rows.size(); ++i) set(i, static_cast<double>(i + 1));
        return;
      case Op::previous:
      case Op::next:
        return neighbours();
      case Op::change:
        return changes();
      case Op::previous_known:
      case Op::next_known:
        return known_neighbours();
      case Op::sum_so_far:
      case Op::mean_so_far:
      case Op::min_so_far:
      case Op::max_so_far:
        return so_far();
      case Op::rank:
        return ranks();
      case Op::derivative:
      case Op::area_so_far:
      case Op::interpolated:
        return along_rows();
      case Op::moving_mean:
      case Op::moving_median:
      case Op::moving_sd:
        return windows();
      default:
        not_computed(stage_.op, "SequenceRun");
    }
  }

  const RowList& order_fault() const { return order_fault_; }
  /// Values that were looked at, and those of them that were known, where nulls are left out.
  std::size_t met() const { return met_; }
  std::size_t used() const { return used_; }

 private:
  std::size_t size() const { return rows_->size(); }
  const Chunk& chunk(std::size_t i) const { return values_[(*rows_)[i] / kChunkRows]; }
  std::size_t place(std::size_t i) const { return (*rows_)[i] % kChunkRows; }
  Null null(std::size_t i) const { return chunk(i).null_at(place(i)); }
  double number(std::size_t i) const { return chunk(i).numbers[place(i)]; }
  // Numbers, too: those have no rest, and their differences are plain ones.
  Instant instant(std::size_t i) const { return chunk(i).instant_at(place(i)); }
  double change_between(std::size_t i, std::size_t j) const {
    return seconds_between(instant(i), instant(j));
  }
  // A null of row i as another row meets it.
  Null null_elsewhere(std::size_t i) { return origins_.in_row(null(i), (*rows_)[i], own_); }
  Null no_neighbour() const { return {Reason::no_neighbour, own_}; }

  Chunk& result(std::size_t i) { return results_[(*rows_)[i] / kChunkRows]; }
  void set(std::size_t i, double value) {
    if (std::isfinite(value)) {
      result(i).numbers[place(i)] = value;
    } else {
      set_null(i, Null(Reason::overflow, own_));
    }
  }
  void set_instant(std::size_t i, const Instant& value) {
    set(i, value.seconds);
    if (std::isfinite(value.seconds)) result(i).set_instant(place(i), value);
  }
  void set_null(std::size_t i, Null why) {
    Chunk& out = result(i);
    if (out.nulls.empty()) out.nulls.resize(std::max(out.numbers.size(), out.texts.size()));
    out.nulls[place(i)] = why;
  }
  // Gives row i the value of row j.
  void take(std::size_t i, std::size_t j) {
    if (null(j)) {
      set_null(i, null_elsewhere(j));
    } else if (stage_.kind == Kind::text) {
      result(i).texts[place(i)] = chunk(j).texts[place(j)];
    } else {
      set_instant(i, instant(j));
    }
  }

  void neighbours() {
    const std::size_t distance = rows_of_setting(stage_.setting);
    for (std::size_t i = 0; i < size(); ++i) {
      const bool back = stage_.op == Op::previous;
      if (back ? i < distance : i + distance >= size()) {
        set_null(i, no_neighbour());
      } else {
        take(i, back ? i - distance : i + distance);
      }
    }
  }

  void changes() {
    for (std::size_t i = 0; i < size(); ++i) {
      if (null(i)) {
        set_null(i, null(i));
      } else if (i == 0) {
        set_null(i, no_neighbour());
      } else if (null(i - 1)) {
        set_null(i, null_elsewhere(i - 1));
      } else {
        set(i, change_between(i - 1, i));
      }
    }
  }

  void known_neighbours() {
    const bool back = stage_.op == Op::previous_known;
    std::size_t last = SIZE_MAX;
    for (std::size_t step = 0; step < size(); ++step) {
      const std::size_t i = back ? step : size() - 1 - step;
      if (last == SIZE_MAX) {
        set_null(i, no_neighbour());
      } else {
        take(i, last);
      }
      if (!null(i)) last = i;
    }
  }

  // Counts the values that are left out by the null rule.
  void note_left_out() {
    if (!stage_.nulls.skip) return;
    met_ = size();
    for (std::size_t i = 0; i < size(); ++i) used_ += null(i) || along_null(i) ? 0 : 1;
  }

  void so_far() {
    note_left_out();
    CompensatedSum sum;
    Instant origin;
    Instant least;
    Instant greatest;
    double count = 0;
    Null stopped;
    for (std::size_t i = 0; i < size(); ++i) {
      if (!null(i)) {
        const Instant value = instant(i);
        if (count == 0 && of_dates()) origin = value;
        least = count == 0 ? value : std::min(least, value);
        greatest = count == 0 ? value : std::max(greatest, value);
        sum.add(seconds_between(origin, value));
        ++count;
      } else if (!stage_.nulls.skip && !stopped) {
        stopped = null_elsewhere(i);
      }
      if (stopped) {
        set_null(i, stopped);
      } else if (count == 0) {
        set_null(i, Null(Reason::too_few, own_));
      } else {
        set_instant(i, stage_.op == Op::sum_so_far    ? Instant{sum.value(), 0}
                       : stage_.op == Op::mean_so_far ? from_origin(origin, sum.over(count))
                       : stage_.op == Op::min_so_far  ? least
                                                      : greatest);
      }
    }
  }

  bool of_dates() const { return stage_.value.kind == Kind::date; }
  // A mean of distances from an origin, of numbers from 0.
  Instant from_origin(const Instant& origin, double distance) const {
    return of_dates() ? later(origin, distance) : Instant{distance, 0};
  }

  double window_value(std::vector<double>& window) const {
    switch (stage_.op) {
      case Op::moving_mean:
        return mean_of(window);
      case Op::moving_median:
        return median_of(window);
      case Op::moving_sd:
        return deviation_of(window);
      default:
        not_computed(stage_.op, "window_value");
    }
  }

  void windows() {
    note_left_out();
    const std::size_t half = rows_of_setting(stage_.setting) / 2;
    std::vector<double> window;
    std::vector<Instant> dates;
    for (std::size_t i = 0; i < size(); ++i) {
      if (i < half || i + half >= size()) {
        set_null(i, no_neighbour());
        continue;
      }
      window.clear();
      dates.clear();
      Null first;
      for (std::size_t j = i - half; j <= i + half; ++j) {
        if (!null(j)) {
          // A spread is that of distances.
          if (of_dates()) dates.push_back(instant(j));
          window.push_back(of_dates() ? seconds_between(dates.front(), instant(j)) : number(j));
        } else if (!first) {
          first = null_elsewhere(j);
        }
      }
      if (first && !stage_.nulls.skip) {
        set_null(i, first);
      } else if (window.size() < (stage_.op == Op::moving_sd ? 2U : 1U)) {
        set_null(i, Null(Reason::too_few, own_));
      } else {
        const bool gives_date = of_dates() && stage_.op != Op::moving_sd;
        if (gives_date) set_instant(i, stage_.op == Op::moving_mean ? mean_of(dates) : median_of(dates));
        if (!gives_date) set(i, window_value(window));
      }
    }
  }

  bool same(std::size_t a, std::size_t b) const {
    return of_dates() ? instant(a) == instant(b) : same_typed(number(a), number(b));
  }

  // Ranks from 1; equal values share the mean of theirs.
  void ranks() {
    std::vector<std::size_t> known;
    for (std::size_t i = 0; i < size(); ++i) {
      if (null(i)) {
        set_null(i, null(i));
      } else {
        known.push_back(i);
      }
    }
    std::stable_sort(known.begin(), known.end(),
                     [&](std::size_t a, std::size_t b) { return instant(a) < instant(b); });
    for (std::size_t begin = 0; begin < known.size();) {
      std::size_t end = begin + 1;
      while (end < known.size() && same(known[end], known[begin])) ++end;
      const double shared = static_cast<double>(begin + 1 + end) / 2;
      for (; begin < end; ++begin) set(known[begin], shared);
    }
  }

  Null along_null(std::size_t i) const {
    return along_.empty() ? Null() : along_[(*rows_)[i] / kChunkRows].null_at(place(i));
  }
  Null along_elsewhere(std::size_t i) { return origins_.in_row(along_null(i), (*rows_)[i], own_); }
  Instant along(std::size_t i) const { return along_[(*rows_)[i] / kChunkRows].instant_at(place(i)); }
  double step(std::size_t i, std::size_t j) const { return seconds_between(along(i), along(j)); }

  // Functions along another column. A null there is passed on like any other, or its row is left out.
  void along_rows() {
    std::vector<std::size_t> rows;
    std::optional<Instant> before;
    note_left_out();
    for (std::size_t i = 0; i < size(); ++i) {
      const bool left_out =
          stage_.nulls.skip && (along_null(i) || (null(i) && stage_.op != Op::interpolated));
      if (left_out) {
        set_null(i, null(i) ? null(i) : along_null(i));
      } else {
        rows.push_back(i);
      }
      if (left_out || along_null(i)) continue;
      if (before && along(i) <= *before) order_fault_.add((*rows_)[i]);
      before = along(i);
    }
    if (order_fault_.count > 0) {
      for (const std::size_t i : rows) set_null(i, Null(Reason::domain, own_));
    } else if (stage_.op == Op::derivative) {
      slopes(rows);
    } else if (stage_.op == Op::area_so_far) {
      areas(rows);
    } else {
      interpolate(rows);
    }
  }

  // The null of a row, of its value first; as the row itself or as another one meets it.
  Null own_null(std::size_t i) const { return null(i) ? null(i) : along_null(i); }
  Null either_elsewhere(std::size_t i) { return null(i) ? null_elsewhere(i) : along_elsewhere(i); }

  // The derivative of the parabola through a row and its neighbours, which at the ends is that through the
  // first or last three rows; of the straight line where there are only two.
  void slopes(const std::vector<std::size_t>& rows) {
    for (std::size_t k = 0; k < rows.size(); ++k) {
      if (rows.size() < 2) {
        set_null(rows[k], own_null(rows[k]) ? own_null(rows[k]) : no_neighbour());
        continue;
      }
      const std::size_t width = std::min<std::size_t>(rows.size(), 3);
      const std::size_t first = std::min(k == 0 ? 0 : k - 1, rows.size() - width);
      Null missing = own_null(rows[k]);
      for (std::size_t j = first; j < first + width && !missing; ++j) {
        if (own_null(rows[j])) missing = either_elsewhere(rows[j]);
      }
      if (missing) {
        set_null(rows[k], missing);
      } else {
        set(rows[k], slope_at(rows, first, width, k));
      }
    }
  }

  // By divided differences (Newton's form), differentiated at the row k.
  double slope_at(const std::vector<std::size_t>& known, std::size_t first, std::size_t width,
                  std::size_t k) const {
    const std::size_t* rows = &known[first];
    const double left = change_between(rows[0], rows[1]) / step(rows[0], rows[1]);
    if (width == 2) return left;
    const double right = change_between(rows[1], rows[2]) / step(rows[1], rows[2]);
    const double bend = (right - left) / step(rows[0], rows[2]);
    return left + bend * (step(rows[0], known[k]) + step(rows[1], known[k]));
  }

  // The area under the straight lines between the rows, from the first row on.
  void areas(const std::vector<std::size_t>& rows) {
    CompensatedSum sum;
    Null stopped;
    for (std::size_t k = 0; k < rows.size(); ++k) {
      const std::size_t i = rows[k];
      if (stopped) {
        set_null(i, stopped);
      } else if (const Null mine = own_null(i)) {
        set_null(i, mine);
        stopped = either_elsewhere(i);
      } else {
        if (k > 0) {
          const std::size_t before = rows[k - 1];
          sum.add(step(before, i) * (number(before) / 2 + number(i) / 2));
        }
        set(i, sum.value());
      }
    }
  }

  // Known values stay; gaps take the straight line between the known rows before and after them, whose places
  // must be known, too.
  void interpolate(const std::vector<std::size_t>& rows) {
    std::vector<std::size_t> anchors;
    for (const std::size_t i : rows) {
      if (!own_null(i)) anchors.push_back(i);
    }
    std::size_t after = 0;
    for (const std::size_t i : rows) {
      while (after < anchors.size() && anchors[after] < i) ++after;
      if (!null(i)) {
        set_instant(i, instant(i));
      } else if (along_null(i)) {
        set_null(i, null(i));
      } else if (after == 0 || after == anchors.size()) {
        set_null(i, no_neighbour());
      } else {
        const std::size_t a = anchors[after - 1];
        const std::size_t b = anchors[after];
        const double part = step(a, i) / step(a, b);
        set_instant(i, of_dates() ? instant_between(instant(a), instant(b), part)
                                  : Instant{number(a) + part * (number(b) - number(a)), 0});
      }
    }
  }

  const Stage& stage_;
  const std::vector<Chunk>& values_;
  const std::vector<Chunk>& along_;
  std::vector<Chunk>& results_;
  OriginId own_;
  Origins& origins_;
  const std::vector<std::size_t>* rows_ = nullptr;
  RowList order_fault_;
  std::size_t met_ = 0;
  std::size_t used_ = 0;
};

}  // namespace

std::vector<Chunk> sequence_values(const Stage& stage, const std::vector<Chunk>& values,
                                   const std::vector<Chunk>& along, const Grouping& grouping, OriginId own,
                                   Origins& origins, SequenceNotes& notes) {
  std::vector<std::vector<std::size_t>> rows(grouping.groups);
  for (std::size_t row = 0; row < grouping.group_of_row.size(); ++row)
    rows[grouping.group_of_row[row]].push_back(row);
  if (grouping.group_of_row.empty() && !values.empty()) {
    const Chunk& last = values.back();
    rows.front().resize((values.size() - 1) * kChunkRows + std::max(last.numbers.size(), last.texts.size()));
    std::iota(rows.front().begin(), rows.front().end(), std::size_t{0});
  }
  std::vector<Chunk> results(values.size());
  for (std::size_t i = 0; i < results.size(); ++i) {
    const std::size_t size = std::max(values[i].numbers.size(), values[i].texts.size());
    if (stage.kind == Kind::text) {
      results[i].texts.resize(size);
    } else {
      results[i].numbers.resize(size);
    }
  }
  ReductionTally left_out{stage.name, 0, 0};
  for (const std::vector<std::size_t>& group : rows) {
    Sequence sequence(stage, values, along, results, own, origins);
    sequence.run(group);
    left_out.used += sequence.used();
    left_out.met += sequence.met();
    for (const std::size_t row : sequence.order_fault().rows) notes.order_fault.add(row);
    notes.order_fault.count += sequence.order_fault().count - sequence.order_fault().rows.size();
  }
  if (left_out.used < left_out.met) notes.left_out = left_out;
  return results;
}

}  // namespace opensum
