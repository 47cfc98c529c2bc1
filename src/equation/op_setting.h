// What an operation is told by a constant beside its operands: one type for each meaning.
#pragma once

#include <cstddef>
#include <cstdint>
#include <variant>

#include "table/calendar.h"

namespace opensum {

/// Of round and its kin: values go to multiples of it.
struct RoundingStep {
  double size = 1;
};

/// Of col_quantile, from 0 to 1.
struct QuantileFraction {
  double share = 0;
};

/// Of col_at: which row, from 1.
struct RowNumber {
  std::size_t number = 1;
};

/// Of neighbours: how far away; of moving windows: how many.
struct RowCount {
  std::size_t rows = 1;
};

/// Of part: which one, from 1.
struct PartNumber {
  std::size_t number = 1;
};

/// Of a fit: which of its parameters, from 0.
struct ParameterIndex {
  std::size_t index = 0;
};

/// What a fit tells of itself beside its parameters.
enum class FitStatistic : std::uint8_t { residual_sd, reduced_chi2, r2, r, n, degrees_of_freedom };
/// As equations name it.
const char* statistic_name(FitStatistic statistic);

using OpSetting = std::variant<std::monostate, RoundingStep, QuantileFraction, RowNumber, RowCount,
                               PartNumber, Period, ParameterIndex, FitStatistic>;

/// The rows that a neighbour or a window is told; 0 for operations without.
inline std::size_t rows_of_setting(const OpSetting& setting) {
  const auto* const count = std::get_if<RowCount>(&setting);
  return count == nullptr ? 0 : count->rows;
}

}  // namespace opensum
