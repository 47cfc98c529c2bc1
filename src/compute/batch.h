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
  const std::string_view* texts = nullptr;
  const Null* nulls = nullptr;

  Null null(std::size_t i) const { return nulls == nullptr ? Null() : nulls[i]; }
};

/// A result of up to kBatchRows rows.
struct Register {
  std::vector<double> numbers = std::vector<double>(kBatchRows);
  std::vector<std::string_view> texts;
  std::vector<Null> nulls = std::vector<Null>(kBatchRows);
  bool has_nulls = false;
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
  /// Marks nothing null.
  void clear() { has_nulls = false; }
  View view() const {
    return {numbers.data(), texts.empty() ? nullptr : texts.data(), has_nulls ? nulls.data() : nullptr};
  }
};

}  // namespace opensum
