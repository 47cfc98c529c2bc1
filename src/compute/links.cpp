// Which row of another sheet belongs to each row here.
#include "compute/links.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <string>
#include <unordered_map>

namespace opensum {
namespace {

constexpr std::size_t kListedRepeats = 5;

// The bytes of a value: equal values have equal bytes. False for a null.
bool append_value(std::string& bytes, const Column& column, std::size_t row, const Conversion& conversion) {
  if (column.null(row)) return false;
  if (column.kind == Kind::text) {
    const std::string_view text = column.text(row);
    bytes += std::to_string(text.size()) + ':';
    bytes += text;
    return true;
  }
  double number = conversion(column.number(row));
  if (number == 0) number = 0;  // -0 is 0
  char raw[sizeof number];
  std::memcpy(raw, &number, sizeof number);
  bytes.append(raw, sizeof raw);
  return true;
}

// The rows there of one exact key, in order of the last key where that is not exact.
struct Bucket {
  std::vector<std::pair<double, std::size_t>> sorted;
};

class Matcher {
 public:
  Matcher(const std::vector<LinkKey>& keys, LinkHow how, double within)
      : keys_(keys),
        how_(how),
        within_(within),
        exact_(how == LinkHow::equal ? keys.size() : keys.size() - 1) {}

  void index(std::size_t rows, RepeatedKeys& repeated) {
    std::string bytes;
    for (std::size_t row = 0; row < rows; ++row) {
      if (!exact_key(row, false, bytes)) continue;
      if (how_ != LinkHow::equal && last().there->null(row)) continue;
      Bucket& bucket = buckets_[bytes];
      const double value = how_ == LinkHow::equal ? 0 : last().conversion(last().there->number(row));
      bucket.sorted.emplace_back(value, row);
    }
    for (auto& [key, bucket] : buckets_) {
      std::sort(bucket.sorted.begin(), bucket.sorted.end());
      for (std::size_t i = 1; i < bucket.sorted.size(); ++i) {
        if (bucket.sorted[i].first != bucket.sorted[i - 1].first) continue;
        repeated.pairs.emplace_back(bucket.sorted[i - 1].second, bucket.sorted[i].second);
      }
    }
    // In the order of the rows, whatever the order of the buckets.
    std::sort(repeated.pairs.begin(), repeated.pairs.end());
    repeated.count = repeated.pairs.size();
    if (repeated.count > kListedRepeats) repeated.pairs.resize(kListedRepeats);
  }

  void match(std::size_t row, RowMap& map) {
    std::string bytes;
    if (!exact_key(row, true, bytes)) return;
    const auto found = buckets_.find(bytes);
    if (found == buckets_.end()) return;
    const auto& sorted = found->second.sorted;
    if (how_ == LinkHow::equal) {
      map.first[row] = sorted.front().second;
      return;
    }
    if (last().here->null(row)) return;
    const double wanted = last().here->number(row);
    const auto above = std::lower_bound(sorted.begin(), sorted.end(), std::pair(wanted, std::size_t{0}));
    if (how_ == LinkHow::interpolate) {
      between(row, wanted, sorted, above, map);
    } else {
      choose(row, wanted, sorted, above, map);
    }
  }

 private:
  using Sorted = std::vector<std::pair<double, std::size_t>>;

  const LinkKey& last() const { return keys_.back(); }

  bool exact_key(std::size_t row, bool here, std::string& bytes) const {
    bytes.clear();
    for (std::size_t k = 0; k < exact_; ++k) {
      const bool known = here ? append_value(bytes, *keys_[k].here, row, Conversion())
                              : append_value(bytes, *keys_[k].there, row, keys_[k].conversion);
      if (!known) return false;
    }
    return true;
  }

  bool too_far(double distance) const { return within_ >= 0 && distance > within_; }

  void between(std::size_t row, double wanted, const Sorted& sorted, Sorted::const_iterator above,
               RowMap& map) const {
    if (above == sorted.end() || (above == sorted.begin() && above->first != wanted)) {
      map.why[row] = Reason::out_of_range;
      return;
    }
    if (above->first == wanted) {
      map.first[row] = above->second;
      return;
    }
    const auto below = std::prev(above);
    if (too_far(wanted - below->first) || too_far(above->first - wanted)) return;
    map.first[row] = below->second;
    map.second[row] = above->second;
    map.part[row] = (wanted - below->first) / (above->first - below->first);
  }

  void choose(std::size_t row, double wanted, const Sorted& sorted, Sorted::const_iterator above,
              RowMap& map) const {
    const bool exact = above != sorted.end() && above->first == wanted;
    const bool has_below = above != sorted.begin();
    auto chosen = above;
    if (how_ == LinkHow::previous) {
      if (!exact && !has_below) {
        map.why[row] = Reason::out_of_range;
        return;
      }
      if (!exact) chosen = std::prev(above);
    } else if (!exact && has_below) {
      const auto below = std::prev(above);
      const double to_below = wanted - below->first;
      const double to_above = above == sorted.end() ? HUGE_VAL : above->first - wanted;
      if (to_below == to_above && !too_far(to_below)) {
        map.why[row] = Reason::ambiguous;
        return;
      }
      chosen = to_below < to_above ? below : above;
    }
    if (!too_far(std::fabs(chosen->first - wanted))) map.first[row] = chosen->second;
  }

  const std::vector<LinkKey>& keys_;
  LinkHow how_;
  double within_;
  std::size_t exact_;  // how many keys must be equal
  std::unordered_map<std::string, Bucket> buckets_;
};

RowMap empty_map(std::size_t rows) {
  RowMap map;
  map.first.assign(rows, RowMap::kNone);
  map.second.assign(rows, RowMap::kNone);
  map.part.assign(rows, 0);
  map.why.assign(rows, Reason::no_match);
  return map;
}

void count(RowMap& map) {
  map.unmatched = static_cast<std::size_t>(std::count(map.first.begin(), map.first.end(), RowMap::kNone));
  map.matched = map.first.size() - map.unmatched;
}

}  // namespace

RowMap match_rows(const std::vector<LinkKey>& keys, LinkHow how, double within, std::size_t rows_here,
                  std::size_t rows_there, RepeatedKeys& repeated) {
  Matcher matcher(keys, how, within);
  matcher.index(rows_there, repeated);
  RowMap map = empty_map(rows_here);
  if (repeated.count == 0) {
    for (std::size_t row = 0; row < rows_here; ++row) matcher.match(row, map);
  }
  count(map);
  return map;
}

RowMap match_places(const std::vector<std::size_t>& here, const std::vector<std::size_t>& there) {
  std::unordered_map<std::size_t, std::size_t> places;
  for (std::size_t row = 0; row < there.size(); ++row) places.emplace(there[row], row);
  RowMap map = empty_map(here.size());
  for (std::size_t row = 0; row < here.size(); ++row) {
    if (const auto found = places.find(here[row]); found != places.end()) map.first[row] = found->second;
  }
  count(map);
  return map;
}

RowMap given_rows(const std::vector<std::size_t>& there) {
  RowMap map = empty_map(there.size());
  map.first = there;
  count(map);
  return map;
}

std::vector<Chunk> linked_values(const Column& there, const RowMap& map, OriginId own, Origins& origins) {
  std::vector<Chunk> chunks;
  const std::size_t rows = map.first.size();
  for (std::size_t begin = 0; begin < rows; begin += kChunkRows) {
    const std::size_t size = std::min(kChunkRows, rows - begin);
    Chunk chunk;
    if (!there.chunks.empty()) chunk.made = there.chunks.front().made;
    if (there.kind == Kind::text) {
      chunk.texts.resize(size);
    } else {
      chunk.numbers.resize(size);
    }
    for (std::size_t i = 0; i < size; ++i) {
      const std::size_t row = begin + i;
      Null null;
      for (const std::size_t from : {map.first[row], map.second[row]}) {
        if (from == RowMap::kNone || null) continue;
        if (const Null met = there.null(from)) null = origins.in_row(met, from);
      }
      if (map.first[row] == RowMap::kNone) null = Null(map.why[row], own);
      if (null) {
        if (chunk.nulls.empty()) chunk.nulls.resize(size);
        chunk.nulls[i] = null;
      } else if (there.kind == Kind::text) {
        chunk.texts[i] = there.text(map.first[row]);
      } else {
        chunk.numbers[i] = there.number(map.first[row]);
        if (map.second[row] == RowMap::kNone) continue;
        chunk.numbers[i] += map.part[row] * (there.number(map.second[row]) - chunk.numbers[i]);
      }
    }
    chunks.push_back(std::move(chunk));
  }
  return chunks;
}

}  // namespace opensum
