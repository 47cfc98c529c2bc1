// Which row of another sheet belongs to each row here.
#include "compute/links.h"

#include <algorithm>
#include <cmath>
#include <optional>

#include "base/parallel.h"
#include "compute/row_hash.h"
#include "table/decimal.h"

namespace opensum {
namespace {

constexpr std::size_t kListedRepeats = 5;

// Numbers are treated as instants without a rest.
//
// The value by which rows are matched: of a number its decimal.
Instant matched(const Column& column, const Instant& value) {
  return column.kind == Kind::date ? value : Instant{as_typed(value.seconds), 0};
}

// The value of a key there as one here.
Instant converted_value(const LinkKey& key, std::size_t row) {
  const Instant value = key.there->instant(row);
  return key.there->kind == Kind::date ? value : Instant{key.conversion(value.seconds), 0};
}

Instant value_of(const LinkKey& key, std::size_t row) {
  return matched(*key.there, converted_value(key, row));
}

Instant value_here(const Column& here, std::size_t row) { return matched(here, here.instant(row)); }

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

void RowMap::append(const RowMap& next) {
  const std::size_t rows = first.size();
  const auto add = [](auto& to, const auto& from) { to.insert(to.end(), from.begin(), from.end()); };
  add(first, next.first);
  add(second, next.second);
  add(part, next.part);
  add(why, next.why);
  if (!next.key_nulls.empty() || !key_nulls.empty()) {
    key_nulls.resize(rows);
    add(key_nulls, next.key_nulls);
    key_nulls.resize(first.size());
  }
  matched += next.matched;
  unmatched += next.unmatched;
}

class RowFinder::Index {
  using Entry = std::pair<Instant, std::size_t>;

 public:
  Index(const std::vector<LinkKey>& keys, LinkHow how, std::optional<double> within, std::size_t rows)
      : keys_(keys),
        how_(how),
        within_(within),
        exact_(how == LinkHow::equal ? keys.size() : keys.size() - 1),
        hash_(exact_ > 0 ? rows : 0) {
    if (how == LinkHow::equal) {
      add_unique(rows);
    } else {
      add_sorted(rows);
    }
    // In the order of the rows, whatever the order in which they were met.
    std::sort(repeated_.pairs.begin(), repeated_.pairs.end());
    repeated_.count = repeated_.pairs.size();
    if (repeated_.count > kListedRepeats) repeated_.pairs.resize(kListedRepeats);
  }

  const RepeatedKeys& repeated() const { return repeated_; }

  // Finds the rows there of rows here from `begin` to `end`.
  void find(const std::vector<const Column*>& here, std::size_t begin, std::size_t end, RowMap& map) const {
    for (std::size_t row = begin; row < end; ++row) find(here, row, map);
  }

  std::pair<std::size_t, std::size_t> around(const std::vector<const Column*>& here, std::size_t row) const {
    std::pair<std::size_t, std::size_t> found{RowMap::kNone, RowMap::kNone};
    const std::size_t exact = exact_ > 0 ? exact_row(here, row) : 0;
    if (exact == RowHash::kNone) return found;
    const std::vector<Entry>& sorted = groups_[exact_ > 0 ? group_of_[exact] : 0];
    const Instant wanted = value_here(*here.back(), row);
    const auto at = std::lower_bound(sorted.begin(), sorted.end(), Entry(wanted, 0));
    if (at == sorted.end() || at->first != wanted) return found;
    if (at != sorted.begin() && !too_far(wanted, std::prev(at)->first)) found.first = std::prev(at)->second;
    const auto next = std::next(at);
    if (next != sorted.end() && !too_far(next->first, wanted)) found.second = next->second;
    return found;
  }

 private:
  const LinkKey& last() const { return keys_.back(); }

  bool same_there(std::size_t a, std::size_t b) const {
    for (std::size_t k = 0; k < exact_; ++k) {
      const Column& column = *keys_[k].there;
      const bool same = column.kind == Kind::text ? column.text(a) == column.text(b)
                                                  : value_of(keys_[k], a) == value_of(keys_[k], b);
      if (!same) return false;
    }
    return true;
  }

  // The hash of the exact keys of a row there; nothing where one is null.
  std::optional<std::uint64_t> hash_there(std::size_t row) const {
    std::uint64_t hash = 0;
    for (std::size_t k = 0; k < exact_; ++k) {
      const Column& column = *keys_[k].there;
      if (column.null(row)) return std::nullopt;
      hash = hash_of(
          hash, column.kind == Kind::text ? hash_of(column.text(row)) : hash_of(value_of(keys_[k], row)));
    }
    return hash;
  }

  void add_unique(std::size_t rows) {
    std::unordered_map<std::size_t, std::size_t> latest;  // of repeated keys, by the first row
    for (std::size_t row = 0; row < rows; ++row) {
      const auto hash = hash_there(row);
      if (!hash) continue;
      const std::size_t first =
          hash_.find_or_add(*hash, row, [&](std::size_t other) { return same_there(other, row); });
      if (first == RowHash::kNone) continue;
      const auto before = latest.try_emplace(first, first).first;
      repeated_.pairs.emplace_back(before->second, row);
      before->second = row;
    }
  }

  // Rows of the same exact keys stand together, in the order of the last one.
  void add_sorted(std::size_t rows) {
    std::vector<std::vector<Entry>> groups(exact_ > 0 ? 0 : 1);
    group_of_.resize(exact_ > 0 ? rows : 0);
    for (std::size_t row = 0; row < rows; ++row) {
      const auto hash = hash_there(row);
      if (!hash || last().there->null(row)) continue;
      std::size_t group = 0;
      if (exact_ > 0) {
        const std::size_t first =
            hash_.find_or_add(*hash, row, [&](std::size_t other) { return same_there(other, row); });
        group = first == RowHash::kNone ? groups.size() : group_of_[first];
        if (group == groups.size()) groups.emplace_back();
        group_of_[row] = group;
      }
      groups[group].emplace_back(value_of(last(), row), row);
    }
    for (std::vector<Entry>& group : groups) {
      if (!std::is_sorted(group.begin(), group.end())) std::sort(group.begin(), group.end());
      for (std::size_t i = 1; i < group.size(); ++i) {
        if (group[i].first == group[i - 1].first)
          repeated_.pairs.emplace_back(group[i - 1].second, group[i].second);
      }
    }
    groups_ = std::move(groups);
  }

  // The row there of the exact keys of a row here; for the first such one where there are several.
  std::size_t exact_row(const std::vector<const Column*>& here, std::size_t row) const {
    std::uint64_t hash = 0;
    for (std::size_t k = 0; k < exact_; ++k) {
      hash = hash_of(hash, here[k]->kind == Kind::text ? hash_of(here[k]->text(row))
                                                       : hash_of(value_here(*here[k], row)));
    }
    return hash_.find(hash, [&](std::size_t there) {
      for (std::size_t k = 0; k < exact_; ++k) {
        const bool same = here[k]->kind == Kind::text
                              ? here[k]->text(row) == keys_[k].there->text(there)
                              : value_here(*here[k], row) == value_of(keys_[k], there);
        if (!same) return false;
      }
      return true;
    });
  }

  void find(const std::vector<const Column*>& here, std::size_t row, RowMap& map) const {
    for (const Column* key : here) {
      if (const Null null = key->null(row)) {
        map.key_nulls[row] = null;
        return;
      }
    }
    std::size_t exact = 0;
    if (exact_ > 0) exact = exact_row(here, row);
    if (exact == RowHash::kNone) return;
    if (how_ == LinkHow::equal) {
      map.first[row] = exact;
      return;
    }
    const std::vector<Entry>& sorted = groups_[exact_ > 0 ? group_of_[exact] : 0];
    if (sorted.empty()) return;
    const Instant wanted = value_here(*here.back(), row);
    const auto above = std::lower_bound(sorted.begin(), sorted.end(), Entry(wanted, 0));
    if (how_ == LinkHow::interpolate) {
      between(row, here.back()->instant(row), wanted, sorted, above, map);
    } else {
      choose(row, wanted, sorted, above, map);
    }
  }

  bool of_dates() const { return last().there->kind == Kind::date; }

  bool too_far(const Instant& a, const Instant& b) const {
    if (!within_) return false;
    return of_dates() ? !within_typed(seconds_between(a, b), 0, *within_)
                      : !within_typed(a.seconds, b.seconds, *within_);
  }

  // As nearer_typed.
  int nearer(const Instant& wanted, const Instant& below, const Instant& above) const {
    if (!of_dates()) return nearer_typed(wanted.seconds, below.seconds, above.seconds);
    const double to_below = seconds_between(below, wanted);
    const double to_above = seconds_between(wanted, above);
    return to_below < to_above ? -1 : to_below > to_above ? 1 : 0;
  }

  // `exact` is the value that is looked up, `wanted` that by which it is matched.
  void between(std::size_t row, const Instant& exact, const Instant& wanted, const std::vector<Entry>& sorted,
               std::vector<Entry>::const_iterator above, RowMap& map) const {
    if (above == sorted.end() || (above == sorted.begin() && above->first != wanted)) {
      map.why[row] = Reason::out_of_range;
      return;
    }
    if (above->first == wanted) {
      map.first[row] = above->second;
      return;
    }
    const auto below = std::prev(above);
    if (too_far(wanted, below->first) || too_far(above->first, wanted)) return;
    map.first[row] = below->second;
    map.second[row] = above->second;
    const Instant from = converted_value(last(), below->second);
    map.part[row] =
        seconds_between(from, exact) / seconds_between(from, converted_value(last(), above->second));
  }

  void choose(std::size_t row, const Instant& wanted, const std::vector<Entry>& sorted,
              std::vector<Entry>::const_iterator above, RowMap& map) const {
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
      const int side = above == sorted.end() ? -1 : nearer(wanted, below->first, above->first);
      if (side == 0 && !too_far(wanted, below->first)) {
        map.why[row] = Reason::ambiguous;
        return;
      }
      chosen = side < 0 ? below : above;
    }
    if (!too_far(chosen->first, wanted)) map.first[row] = chosen->second;
  }

  std::vector<LinkKey> keys_;
  LinkHow how_;
  std::optional<double> within_;
  std::size_t exact_;  // how many keys must be equal
  RowHash hash_;       // of the exact keys
  std::vector<std::size_t> group_of_;
  std::vector<std::vector<Entry>> groups_;
  RepeatedKeys repeated_;
};

RowFinder::RowFinder(const std::vector<LinkKey>& keys, LinkHow how, std::optional<double> within,
                     std::size_t rows_there)
    : index_(std::make_unique<const Index>(keys, how, within, rows_there)) {}

RowFinder::~RowFinder() = default;
RowFinder::RowFinder(RowFinder&&) noexcept = default;

const RepeatedKeys& RowFinder::repeated() const { return index_->repeated(); }

RowMap RowFinder::find(const std::vector<const Column*>& here, std::size_t rows) const {
  RowMap map = empty_map(rows);
  const auto has_nulls = [](const Column* key) {
    return std::any_of(key->chunks.begin(), key->chunks.end(), [](const Chunk& c) { return c.has_nulls(); });
  };
  if (std::any_of(here.begin(), here.end(), has_nulls)) map.key_nulls.resize(rows);
  if (repeated().count == 0) {
    for_each_part((rows + kChunkRows - 1) / kChunkRows, [&](std::size_t part) {
      const std::size_t begin = part * kChunkRows;
      index_->find(here, begin, std::min(begin + kChunkRows, rows), map);
    });
  }
  count(map);
  return map;
}

std::pair<std::size_t, std::size_t> RowFinder::around(const std::vector<const Column*>& here,
                                                      std::size_t row) const {
  return index_->around(here, row);
}

RowMap match_rows(const std::vector<LinkKey>& keys, LinkHow how, std::optional<double> within,
                  std::size_t rows_here, std::size_t rows_there, RepeatedKeys& repeated) {
  const RowFinder finder(keys, how, within, rows_there);
  repeated = finder.repeated();
  std::vector<const Column*> here;
  here.reserve(keys.size());
  for (const LinkKey& key : keys) here.push_back(key.here);
  return finder.find(here, rows_here);
}

PlaceFinder::PlaceFinder(const RowNumbers& there) {
  for (std::size_t row = 0; row < there.size(); ++row) {
    if (there[row] >= row_at_.size()) row_at_.resize(there[row] + 1, RowMap::kNone);
    row_at_[there[row]] = row;
  }
}

RowMap PlaceFinder::find(const RowNumbers& here) const {
  RowMap map = empty_map(here.size());
  for (std::size_t row = 0; row < here.size(); ++row) {
    if (here[row] < row_at_.size()) map.first[row] = row_at_[here[row]];
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

LinkedValues::LinkedValues(const Column& there, OriginId own, Origins& origins) : there_(there), own_(own) {
  const bool any = std::any_of(there.chunks.begin(), there.chunks.end(),
                               [](const Chunk& chunk) { return chunk.has_nulls(); });
  if (!any) return;
  nulls_.resize(there.rows);
  for (std::size_t row = 0; row < there.rows; ++row) {
    if (const Null null = there.null(row)) nulls_[row] = origins.in_row(null, row);
  }
}

Null LinkedValues::null_at(const RowMap& map, std::size_t row) const {
  if (map.first[row] == RowMap::kNone) {
    const Null key = map.key_nulls.empty() ? Null() : map.key_nulls[row];
    return {map.why[row], key ? key.origin() : own_};
  }
  if (nulls_.empty()) return {};
  const Null first = nulls_[map.first[row]];
  return first || map.second[row] == RowMap::kNone ? first : nulls_[map.second[row]];
}

Chunk LinkedValues::chunk(const RowMap& map, std::size_t begin, std::size_t size) const {
  Chunk chunk;
  if (!there_.chunks.empty()) chunk.made = there_.chunks.front().made;
  const bool text = there_.kind == Kind::text;
  if (text) {
    chunk.texts.resize(size);
  } else {
    chunk.numbers.resize(size);
  }
  for (std::size_t i = 0; i < size; ++i) {
    const std::size_t row = begin + i;
    if (const Null null = null_at(map, row)) {
      if (chunk.nulls.empty()) chunk.nulls.resize(size);
      chunk.nulls[i] = null;
      // The limit of a null is that of the one row from which it comes.
      if (is_limit(null.reason()) && !text && map.first[row] != RowMap::kNone && there_.null(map.first[row]))
        chunk.numbers[i] = there_.number(map.first[row]);
    } else if (text) {
      chunk.texts[i] = there_.text(map.first[row]);
    } else {
      chunk.set_instant(i, there_.instant(map.first[row]));
      if (map.second[row] == RowMap::kNone) continue;
      if (there_.kind == Kind::date) {
        chunk.set_instant(i, instant_between(there_.instant(map.first[row]), there_.instant(map.second[row]),
                                             map.part[row]));
        continue;
      }
      chunk.numbers[i] += map.part[row] * (there_.number(map.second[row]) - chunk.numbers[i]);
    }
  }
  return chunk;
}

std::vector<Chunk> LinkedValues::of(const RowMap& map) const {
  const std::size_t rows = map.first.size();
  std::vector<Chunk> chunks((rows + kChunkRows - 1) / kChunkRows);
  for_each_part(chunks.size(), [&](std::size_t part) {
    const std::size_t begin = part * kChunkRows;
    chunks[part] = chunk(map, begin, std::min(kChunkRows, rows - begin));
  });
  return chunks;
}

}  // namespace opensum
