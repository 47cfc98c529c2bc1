// The functions of the equation language: one table of signatures.
#pragma once

#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "equation/op.h"

namespace opensum {

/// How a function's arguments and result are checked.
enum class Rule : std::uint8_t {
  same_unit,     ///< a quantity in, the same unit out
  to_sign,       ///< a quantity in, a plain number out
  root,          ///< the unit's root
  plain,         ///< a plain number in and out
  of_angle,      ///< an angle or a plain number of radians in, a plain number out
  to_angle,      ///< a plain number in, radians out
  angle_of_two,  ///< two quantities of one dimension in, radians out
  alike,         ///< two quantities of one dimension in, the first one's unit out
  rounding,
  clamp,
  agrees,
  value,
  kelvin,
  choice,
  is_any,
  is_null,
  fallback,
  complete,
  exclude,
  ratio,
  measured,
  limit,
  date_literal,  ///< a text in, a constant date out
  date_part,     ///< a date in, a plain number out
  date_name,     ///< a date in, text out
  shift,
  whole_years,
  date_time,
  period,  ///< a date and the name of a period in, a date out
  concat,
  text_test,       ///< two texts in, true or false out
  part,            ///< a text and a whole number in, text out
  number_of_text,  ///< a text in, a number out
  text_same,       ///< a text in, a text out
  row_alike,       ///< columns of one dimension in, the first one's unit out
  row_sum,         ///< as row_alike, readings refused
  row_difference,  ///< columns of one dimension in, a difference out
  row_product,
  row_count,
  row_name,
  col_alike,        ///< a column in, its unit out
  col_sum,          ///< as col_alike, readings refused
  col_difference,   ///< a column in, a difference out
  col_product,      ///< as col_sum, for what multiplies values
  col_correlation,  ///< two number columns in, a plain number out
  col_area,         ///< two number columns in, the product of their units out
  col_count,
  sequence_same,    ///< a column of any kind in, the same out
  sequence_alike,   ///< a number column in, its unit out
  sequence_sum,     ///< as sequence_alike, readings refused
  sequence_change,  ///< a number or date column in, a difference out
  sequence_plain,   ///< a number column or nothing in, a plain number out
  sequence_slope,   ///< two number columns in, the quotient of their differences out
  sequence_area,    ///< two number columns in, the product of their units out
  fit_value,        ///< a fit and a quantity like its x in, one like its y out
  fit_solve,        ///< a fit and a quantity like its y in, one like its x out
  uncertainty,      ///< a column or a parameter of a fit in, a difference out
  plain_numbers,    ///< plain numbers in, a plain number out
};

enum class Family : std::uint8_t {
  everyday,
  choice,
  nulls,
  dates,
  text,
  row,
  column,
  sequence,
  fits,
  uncertainty
};

constexpr int kAnyNumber = 1'000'000;

struct Signature {
  const char* name;
  Op op;
  Rule rule;
  Family family;
  int least;  ///< arguments without name
  int most;
  /// Arguments with a name, separated by blanks.
  const char* named;
  /// The call as shown in messages and help.
  const char* usage;
  /// What it is for, in a few words.
  std::string_view purpose;
};

std::span<const Signature> signatures();
const Signature* find_signature(std::string_view name);
std::vector<std::string> function_names();

}  // namespace opensum
