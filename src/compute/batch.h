// The rows that an instruction works on at a time, and what kernels read and write.
#pragma once

#include <cstddef>
#include <memory>
#include <string_view>
#include <vector>

#include "table/column.h"
#include "table/null.h"

namespace opensum {

/// Rows per step: a handful of registers of this length fit into the first-level cache. Divides kChunkRows.
constexpr std::size_t kBatchRows = 1024;

/// Read-only values of up to kBatchRows rows. `nulls` is a null pointer where no row is null.
struct View {
  const double* numbers = nullptr;
  const float* rests = nullptr;  ///< of dates; a null pointer where all are 0
  const std::string_view* texts = nullptr;
  const Null* nulls = nullptr;

  Null null(std::size_t i) const { return nulls == nullptr ? Null() : nulls[i]; }
  Instant instant(std::size_t i) const { return {numbers[i], rests == nullptr ? 0 : rests[i]}; }
};

/// The values of a chunk from a row on.
inline View view_of(const Chunk& chunk, std::size_t begin) {
  View view;
  if (!chunk.numbers.empty()) view.numbers = chunk.numbers.data() + begin;
  if (!chunk.rests.empty()) view.rests = chunk.rests.data() + begin;
  if (!chunk.texts.empty()) view.texts = chunk.texts.data() + begin;
  if (!chunk.nulls.empty()) view.nulls = chunk.nulls.data() + begin;
  return view;
}

/// The same value in all rows of a batch.
struct Repeated {
  Repeated(double number, float rest)
      : numbers(kBatchRows, number), rests(rest == 0 ? std::size_t{0} : kBatchRows, rest) {}
  View view() const { return {numbers.data(), rests.empty() ? nullptr : rests.data()}; }

  std::vector<double> numbers;
  std::vector<float> rests;  ///< empty for one that is no date, or has none
};

/// A result of up to kBatchRows rows.
struct Register {
  std::vector<double> numbers = std::vector<double>(kBatchRows);
  std::vector<float> rests;  ///< of dates
  std::vector<std::string_view> texts;
  std::vector<Null> nulls = std::vector<Null>(kBatchRows);
  bool has_nulls = false;
  bool has_rests = false;
  /// Where texts live that stand in no source.
  std::shared_ptr<MadeTexts> made;
  /// Nulls that a reduction left out of results, since the register was made, and the rows of the batch in
  /// which this or another register of the program did so.
  std::size_t left_out = 0;
  std::vector<bool>* rows_left_out = nullptr;

  /// Marks a row null.
  void mark(std::size_t i, Null null) {
    if (!has_nulls) {
      nulls.assign(kBatchRows, Null());
      has_nulls = true;
    }
    nulls[i] = null;
  }
  void set_instant(std::size_t i, const Instant& instant) {
    numbers[i] = instant.seconds;
    if (!has_rests && instant.rest == 0) return;
    if (!has_rests) rests.assign(kBatchRows, 0);
    has_rests = true;
    rests[i] = instant.rest;
  }
  /// Marks nothing null.
  void clear() { has_nulls = has_rests = false; }
  View view() const {
    return {numbers.data(), has_rests ? rests.data() : nullptr, texts.empty() ? nullptr : texts.data(),
            has_nulls ? nulls.data() : nullptr};
  }
};

}  // namespace opensum
