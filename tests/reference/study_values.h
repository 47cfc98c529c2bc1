// Values of the plain interpreter of whole studies: numbers as exact fractions in coherent units, with how
// far a calculation in doubles may be off, and nulls with the cell in which they began.
#pragma once

#include <boost/multiprecision/cpp_int.hpp>
#include <optional>
#include <string>

#include "table/column.h"

namespace opensum::reference {

using Exact = boost::multiprecision::cpp_rational;

/// A cell of a sheet, whose rows count in the order of its source, from 0.
struct CellName {
  std::string sheet;
  std::string column;
  std::size_t row = 0;

  bool operator==(const CellName&) const = default;
};

/// Why there is no value, and where that began; without a cell in the result that is being calculated.
struct Absent {
  Reason reason = Reason::missing;
  std::optional<CellName> began;
};

/// What a cell or expression comes to. Quantities are in kg, s, K, dates in seconds since 1970.
struct Worth {
  Kind kind = Kind::number;
  Exact number = 0;
  double error = 0;  ///< how far a calculation in doubles may be off
  std::string text;
  std::optional<Absent> null;
  /// Of a measured cell such as `<0.5`.
  std::optional<Exact> limit;
  /// It hangs on whether two numbers are the same that differ by no more than doubles are off.
  bool unsure = false;

  bool truth() const { return number != 0; }
};

double to_double(const Exact& number);
/// The decimal number of a text, such as `-1.5e3`.
Exact exact_decimal(const std::string& digits);

Worth worth(Exact number, double error = 0);
/// A date, to the nanosecond: one that doubles lead to without doubt has no error.
Worth date_worth(const Exact& seconds, double error = 0);
Worth truth_worth(bool truth);
Worth text_worth(std::string text);
Worth null_worth(Reason reason);

/// The order of two numbers: below 0, 0 or above. Sets `unsure` where doubles could tell it otherwise.
int order(const Worth& a, const Worth& b, bool& unsure);

}  // namespace opensum::reference
