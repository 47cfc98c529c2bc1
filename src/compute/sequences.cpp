// Functions of the sequence of rows.
#include "compute/sequences.h"

#include <algorithm>
#include <cmath>

#include "compute/kernels.h"

namespace opensum {
namespace {

// The rows of one group in order, and the results that are written for them.
class Sequence {
 public:
  Sequence(const Stage& stage, const std::vector<Chunk>& values, std::vector<Chunk>& results, OriginId own,
           Origins& origins)
      : stage_(stage), values_(values), results_(results), own_(own), origins_(origins) {}

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
      default:
        return windows();
    }
  }

 private:
  std::size_t size() const { return rows_->size(); }
  const Chunk& chunk(std::size_t i) const { return values_[(*rows_)[i] / kChunkRows]; }
  std::size_t place(std::size_t i) const { return (*rows_)[i] % kChunkRows; }
  Null null(std::size_t i) const { return chunk(i).null_at(place(i)); }
  double number(std::size_t i) const { return chunk(i).numbers[place(i)]; }
  // A null of row i as another row meets it.
  Null null_elsewhere(std::size_t i) { return origins_.in_row(null(i), (*rows_)[i]); }
  Null no_neighbour() const { return {Reason::no_neighbour, own_}; }

  Chunk& result(std::size_t i) { return results_[(*rows_)[i] / kChunkRows]; }
  void set(std::size_t i, double value) {
    if (std::isfinite(value)) {
      result(i).numbers[place(i)] = value;
    } else {
      set_null(i, Null(Reason::overflow, own_));
    }
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
      set(i, number(j));
    }
  }

  void neighbours() {
    const auto distance = static_cast<std::size_t>(stage_.parameter);
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
        set(i, number(i) - number(i - 1));
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

  void so_far() {
    CompensatedSum sum;
    double least = 0;
    double greatest = 0;
    double count = 0;
    Null stopped;
    for (std::size_t i = 0; i < size(); ++i) {
      if (!null(i)) {
        const double value = number(i);
        least = count == 0 ? value : std::min(least, value);
        greatest = count == 0 ? value : std::max(greatest, value);
        sum.add(value);
        ++count;
      } else if (!stage_.nulls.skip && !stopped) {
        stopped = null_elsewhere(i);
      }
      if (stopped) {
        set_null(i, stopped);
      } else if (count == 0) {
        set_null(i, Null(Reason::too_few, own_));
      } else {
        set(i, stage_.op == Op::sum_so_far    ? sum.value()
               : stage_.op == Op::mean_so_far ? sum.value() / count
               : stage_.op == Op::min_so_far  ? least
                                              : greatest);
      }
    }
  }

  static double sum_of(const std::vector<double>& values) {
    CompensatedSum sum;
    for (const double value : values) sum.add(value);
    return sum.value();
  }

  double window_value(std::vector<double>& window) const {
    const double count = static_cast<double>(window.size());
    if (stage_.op == Op::moving_median) {
      std::sort(window.begin(), window.end());
      const std::size_t middle = window.size() / 2;
      return window.size() % 2 == 1 ? window[middle] : window[middle - 1] / 2 + window[middle] / 2;
    }
    const double mean = sum_of(window) / count;
    if (stage_.op == Op::moving_mean) return mean;
    for (double& value : window) value = (value - mean) * (value - mean);
    return std::sqrt(sum_of(window) / (count - 1));
  }

  void windows() {
    const auto half = static_cast<std::size_t>(stage_.parameter) / 2;
    std::vector<double> window;
    for (std::size_t i = 0; i < size(); ++i) {
      if (i < half || i + half >= size()) {
        set_null(i, no_neighbour());
        continue;
      }
      window.clear();
      Null first;
      for (std::size_t j = i - half; j <= i + half; ++j) {
        if (!null(j)) {
          window.push_back(number(j));
        } else if (!first) {
          first = null_elsewhere(j);
        }
      }
      if (first && !stage_.nulls.skip) {
        set_null(i, first);
      } else if (window.size() < (stage_.op == Op::moving_sd ? 2U : 1U)) {
        set_null(i, Null(Reason::too_few, own_));
      } else {
        set(i, window_value(window));
      }
    }
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
                     [&](std::size_t a, std::size_t b) { return number(a) < number(b); });
    for (std::size_t begin = 0; begin < known.size();) {
      std::size_t end = begin + 1;
      while (end < known.size() && number(known[end]) == number(known[begin])) ++end;
      const double shared = static_cast<double>(begin + 1 + end) / 2;
      for (; begin < end; ++begin) set(known[begin], shared);
    }
  }

  const Stage& stage_;
  const std::vector<Chunk>& values_;
  std::vector<Chunk>& results_;
  OriginId own_;
  Origins& origins_;
  const std::vector<std::size_t>* rows_ = nullptr;
};

}  // namespace

std::vector<Chunk> sequence_values(const Stage& stage, const std::vector<Chunk>& values,
                                   const std::vector<std::size_t>& group_of_row, std::size_t groups,
                                   OriginId own, Origins& origins) {
  std::vector<std::vector<std::size_t>> rows(groups);
  for (std::size_t row = 0; row < group_of_row.size(); ++row) rows[group_of_row[row]].push_back(row);
  std::vector<Chunk> results(values.size());
  for (std::size_t i = 0; i < results.size(); ++i) {
    const std::size_t size = std::max(values[i].numbers.size(), values[i].texts.size());
    if (stage.kind == Kind::text) {
      results[i].texts.resize(size);
    } else {
      results[i].numbers.resize(size);
    }
  }
  Sequence sequence(stage, values, results, own, origins);
  for (const std::vector<std::size_t>& group : rows) sequence.run(group);
  return results;
}

}  // namespace opensum
