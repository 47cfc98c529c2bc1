// Why a cell holds no value, and where that began.
#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace opensum {

/// Why a value is null.
enum class Reason : std::uint8_t {
  none,
  missing,
  unreadable,
  below_limit,
  above_limit,
  excluded,
  divide_by_zero,
  domain,
  overflow,
  no_match,
  out_of_range,
  ambiguous,
  too_few,
  no_neighbour,
  failed_fit,
};
constexpr int kReasons = 15;

/// Whether nulls of a reason keep a limit.
constexpr bool is_limit(Reason reason) {
  return reason == Reason::below_limit || reason == Reason::above_limit;
}

/// The name that researchers meet, such as `divide_by_zero`.
const char* reason_name(Reason reason);

/// How many rows are null by reason: `2 missing, 1 divide_by_zero`; empty when none is.
std::string null_counts_text(const std::map<std::string, std::size_t>& nulls);

/// Where a null began: a column of the study; the row is the null's own unless the origin says otherwise.
using OriginId = std::uint32_t;

/// Either nothing (the value is known) or a reason and the origin. One such mark stands beside each value
/// of a chunk that has nulls: the low byte is the reason, the rest the origin, so that passing a null on is
/// a copy of 32 bits. Of several null inputs the leftmost is passed on.
class Null {
 public:
  constexpr Null() = default;
  constexpr Null(Reason reason, OriginId origin)
      : bits_((origin << 8U) | static_cast<std::uint32_t>(reason)) {}

  constexpr Reason reason() const { return static_cast<Reason>(bits_ & 0xFFU); }
  constexpr OriginId origin() const { return bits_ >> 8U; }
  constexpr explicit operator bool() const { return bits_ != 0; }
  friend constexpr bool operator==(const Null&, const Null&) = default;

 private:
  std::uint32_t bits_ = 0;
};

/// The places where nulls of a study can begin.
class Origins {
 public:
  struct Origin {
    std::string sheet;
    std::string column;
    /// The row (from 0) where the null began, if not the row of the null itself.
    std::optional<std::size_t> row;
  };
  /// The origin of nulls that begin in a column, in their own row. Throws std::length_error past 16 million.
  OriginId add(const std::string& sheet, const std::string& column);
  const Origin& operator[](OriginId id) const { return origins_.at(id); }
  std::size_t count() const { return origins_.size(); }
  /// The null of a cell as it is met in other rows: its origin names the row in which it began.
  Null in_row(Null null, std::size_t row);
  /// The same for a function of whole columns of the column with the origin `own`: what began in its own
  /// operands stands in no cell, so that its own cell is the first that is null.
  Null in_row(Null null, std::size_t row, OriginId own) {
    return null.origin() == own ? null : in_row(null, row);
  }

 private:
  std::vector<Origin> origins_;
  /// The origins made by in_row, by the origin in its own row and the row.
  std::map<std::pair<OriginId, std::size_t>, OriginId> in_rows_;
};

}  // namespace opensum
