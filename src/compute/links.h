// Which row of another sheet belongs to each row here, and the values found there.
#pragma once

#include <cstdint>
#include <memory>
#include <vector>

#include "compute/link_how.h"
#include "table/column.h"

namespace opensum {

/// A pair of keys: a column here and a column there, whose numbers are converted to the unit here.
struct LinkKey {
  const Column* here = nullptr;
  const Column* there = nullptr;
  Conversion conversion;
};

/// Row by row the row there, or why there is none.
struct RowMap {
  static constexpr std::size_t kNone = SIZE_MAX;
  std::vector<std::size_t> first;
  /// Of interpolation: the row after, and how far on the way to it; kNone where the first row is met exactly.
  std::vector<std::size_t> second;
  std::vector<double> part;
  std::vector<Reason> why;
  /// The null of a key of the row, with which the trouble began; empty where no key is null.
  std::vector<Null> key_nulls;
  std::size_t matched = 0;
  std::size_t unmatched = 0;

  /// Appends the rows that follow.
  void append(const RowMap& next);
};

/// Rows there that have the same key, in order: the first such pairs.
struct RepeatedKeys {
  std::vector<std::pair<std::size_t, std::size_t>> pairs;
  std::size_t count = 0;
};

/// Finds rows there by their keys; several threads may do so at a time.
class RowFinder {
 public:
  /// `within` is the greatest distance of the last key, in the unit here (s for dates); nothing for any.
  RowFinder(const std::vector<LinkKey>& keys, LinkHow how, std::optional<double> within,
            std::size_t rows_there);
  ~RowFinder();
  RowFinder(RowFinder&&) noexcept;
  RowFinder& operator=(RowFinder&&) = delete;

  /// Keys there must be unique; with repeated ones no row is found.
  const RepeatedKeys& repeated() const;
  /// The rows there of rows here, by the columns of the keys here.
  RowMap find(const std::vector<const Column*>& here, std::size_t rows) const;
  /// Of interpolation: the rows there before and after the one that a row here meets exactly, as far as lines
  /// go to them; kNone where there is none.
  std::pair<std::size_t, std::size_t> around(const std::vector<const Column*>& here, std::size_t row) const;

 private:
  class Index;
  std::unique_ptr<const Index> index_;
};

/// Matches all rows by keys. Repeated keys are reported and the map is empty.
RowMap match_rows(const std::vector<LinkKey>& keys, LinkHow how, std::optional<double> within,
                  std::size_t rows_here, std::size_t rows_there, RepeatedKeys& repeated);

/// Finds rows there by their place in their source.
class PlaceFinder {
 public:
  /// `there` are the places of the rows there in their source.
  explicit PlaceFinder(const RowNumbers& there);
  /// The rows there of rows here, by the places of those in their source.
  RowMap find(const RowNumbers& here) const;

 private:
  std::vector<std::size_t> row_at_;  ///< by place
};

/// The rows there that are given.
RowMap given_rows(const std::vector<std::size_t>& there);

/// The values of a column there for rows here. A null there keeps its cell as origin; rows without partner
/// are nulls that begin in `own`. Interpolation is for numbers and dates only.
class LinkedValues {
 public:
  LinkedValues(const Column& there, OriginId own, Origins& origins);
  std::vector<Chunk> of(const RowMap& map) const;

 private:
  Chunk chunk(const RowMap& map, std::size_t begin, std::size_t size) const;
  Null null_at(const RowMap& map, std::size_t row) const;

  const Column& there_;
  OriginId own_;
  std::vector<Null> nulls_;  ///< by row there, as they are met here; empty where there is none
};

}  // namespace opensum
