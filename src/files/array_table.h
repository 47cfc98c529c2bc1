// A table made of arrays of one length, with the attributes that say what their numbers mean (CF
// conventions).
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "base/result.h"
#include "files/spooled_table.h"

namespace opensum {

/// A unit such as `seconds since 2031-04-02 10:00`.
struct TimeUnit {
  std::int64_t nanoseconds = 0;  ///< in one
  Instant begin;

  /// A whole number of them, and any number, after the beginning: the second to the microsecond.
  Instant after(std::int64_t count) const;
  Instant after(double count) const;
};
std::optional<TimeUnit> read_time_unit(const std::string& unit);

/// A unit with exponents as other programs write them, `m s-1`, as ours: `m s^-1`.
std::string usual_unit(const std::string& unit);

/// What the attributes of an array say of its numbers.
struct ArrayMeaning {
  std::string unit;
  std::string label;
  double scale = 1;
  double offset = 0;
  std::vector<double> missing;  ///< as stored
  bool single = false;          ///< of 32 bits, whose shortest text is shorter

  bool is_packed() const { return scale != 1 || offset != 0; }
  /// A stored number as a cell, also a whole one of 64 bits.
  std::string cell(double stored, const std::optional<TimeUnit>& time) const;
  std::string cell(std::int64_t stored, const TimeUnit& time) const;
};

/// An array of the table.
struct ArrayColumn {
  std::string name;
  ArrayMeaning meaning;
  bool is_time = false;  ///< its texts are dates
  /// Gives so many of its numbers from a place on; false where they cannot be read.
  std::function<bool(std::size_t begin, std::size_t count, std::vector<double>& numbers)> numbers;
  /// The same of texts, and of whole numbers too long for a double.
  std::function<bool(std::size_t begin, std::size_t count, std::vector<std::string>& texts)> texts;
};

/// The table of arrays of `rows` values each; nothing after a reported error.
Result<RawTable> table_of_arrays(const std::vector<ArrayColumn>& arrays, std::size_t rows,
                                 const std::vector<std::string>& before, const InputFile& file,
                                 const std::string& name, Rows read, Diagnostics& diagnostics);

}  // namespace opensum
