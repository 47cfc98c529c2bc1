// Which rows a function of whole columns looked at.
#include "compute/rows_used.h"

#include <algorithm>
#include <functional>

#include "equation/operation.h"

namespace opensum {
namespace {

Null null_at(const std::vector<Chunk>& chunks, std::size_t row) {
  return chunks[row / kChunkRows].null_at(row % kChunkRows);
}

// Places in a group from `first` to `last`.
std::vector<std::size_t> between(std::size_t first, std::size_t last) {
  std::vector<std::size_t> places;
  for (std::size_t place = first; place <= last; ++place) places.push_back(place);
  return places;
}

// The places in its group that a sequence function looks at for the row at `place`.
std::vector<std::size_t> places_of(const Stage& stage, const std::vector<std::size_t>& group,
                                   std::size_t place, const std::function<bool(std::size_t)>& is_null) {
  const std::size_t last = group.size() - 1;
  const auto distance = rows_of_setting(stage.setting);
  const auto known = [&](std::size_t p) { return !is_null(group[p]); };
  switch (stage.op) {
    case Op::row_number:
      return {};
    case Op::previous:
      return place >= distance ? between(place - distance, place - distance) : between(1, 0);
    case Op::next:
      return place + distance <= last ? between(place + distance, place + distance) : between(1, 0);
    case Op::change:
      return between(place == 0 ? 0 : place - 1, place);
    case Op::previous_known:
      for (std::size_t p = place; p-- > 0;) {
        if (known(p)) return {p};
      }
      return {};
    case Op::next_known:
      for (std::size_t p = place + 1; p <= last; ++p) {
        if (known(p)) return {p};
      }
      return {};
    case Op::moving_mean:
    case Op::moving_median:
    case Op::moving_sd: {
      const std::size_t half = distance / 2;
      return place >= half && place + half <= last ? between(place - half, place + half) : between(1, 0);
    }
    case Op::derivative: {
      const std::size_t first = place == 0 ? 0 : std::min(place - 1, last < 2 ? 0 : last - 2);
      return between(first, std::min(first + 2, last));
    }
    case Op::interpolated: {
      if (known(place)) return {place};
      std::size_t before = place;
      std::size_t after = place;
      while (before > 0 && !known(before)) --before;
      while (after < last && !known(after)) ++after;
      return {before, after};
    }
    case Op::rank:
      return between(0, last);
    case Op::sum_so_far:
    case Op::mean_so_far:
    case Op::min_so_far:
    case Op::max_so_far:
    case Op::area_so_far:
      return between(0, place);
    default:
      not_computed(stage.op, "places_of");
  }
}

std::vector<std::size_t> rows_of_reduction(const Stage& stage, const std::vector<std::size_t>& group,
                                           const std::vector<Chunk>& values) {
  const auto first_known =
      std::find_if(group.begin(), group.end(), [&](std::size_t row) { return !null_at(values, row); });
  const auto last_known =
      std::find_if(group.rbegin(), group.rend(), [&](std::size_t row) { return !null_at(values, row); });
  switch (stage.op) {
    case Op::col_first:
      return group.empty() ? group : std::vector{group.front()};
    case Op::col_last:
      return group.empty() ? group : std::vector{group.back()};
    case Op::col_at: {
      const std::size_t at = std::get<RowNumber>(stage.setting).number;
      return at > group.size() ? std::vector<std::size_t>() : std::vector{group[at - 1]};
    }
    case Op::col_first_known:
      return first_known == group.end() ? std::vector<std::size_t>() : std::vector{*first_known};
    case Op::col_last_known:
      return last_known == group.rend() ? std::vector<std::size_t>() : std::vector{*last_known};
    default:
      return group;
  }
}

}  // namespace

RowsUsed rows_used(const Stage& stage, std::size_t row, const WholeColumns& whole) {
  RowsUsed used;
  // A curve is fitted to rows of its own.
  if (stage.curve) return used;
  used.values = evaluate_column(stage.value, whole);
  const bool in_groups = stage.over && stage.over->groups_of;
  const Grouping grouping =
      in_groups ? whole.study->groups_of(*stage.over->groups_of) : group_rows(stage.keys, whole);
  std::vector<Chunk> where;
  if (!stage.where.empty()) where = evaluate_column(stage.where.front(), whole);
  std::vector<Chunk> beside;
  if (!stage.beside.empty()) beside = evaluate_column(stage.beside.front(), whole);
  const auto is_null = [&](std::size_t other) {
    return null_at(used.values, other) || (!beside.empty() && null_at(beside, other));
  };
  const bool along_without_nulls = is_sequence(stage.op) && !beside.empty() && stage.nulls.skip;
  std::vector<std::size_t> group;
  for (std::size_t other = 0; other < whole.rows; ++other) {
    if (grouping.group_of_row[other] != grouping.group_of_row[row]) continue;
    const std::size_t i = other % kChunkRows;
    if (!where.empty() && (null_at(where, other) || where[other / kChunkRows].numbers[i] == 0)) continue;
    if (along_without_nulls && is_null(other)) continue;
    group.push_back(other);
  }
  std::vector<std::size_t> looked_at;
  if (is_sequence(stage.op)) {
    const auto place = static_cast<std::size_t>(std::find(group.begin(), group.end(), row) - group.begin());
    // A row that is left out has no value.
    if (place == group.size()) return used;
    for (const std::size_t p : places_of(stage, group, place, is_null)) looked_at.push_back(group[p]);
  } else {
    looked_at = rows_of_reduction(stage, group, used.values);
  }
  for (const std::size_t other : looked_at) {
    if (is_null(other)) {
      ++used.nulls;
    } else {
      used.rows.push_back(other);
    }
  }
  return used;
}

}  // namespace opensum
