// The operations that checked equations and programs consist of.
#pragma once

#include <cstdint>

namespace opensum {

enum class Op : std::uint8_t {
  // Leaves.
  constant,
  text_constant,
  null_constant,
  column,
  // Arithmetic.
  convert,  ///< value * multiply / divide + add
  negate,
  add,
  subtract,
  multiply,
  divide,
  power,
  // Comparison of numbers, dates and truths.
  equal,
  not_equal,
  less,
  less_equal,
  greater,
  greater_equal,
  // Comparison of texts.
  text_equal,
  text_not_equal,
  // Logic.
  logical_and,
  logical_or,
  logical_not,
  // Everyday functions of one number.
  absolute,
  sign,
  square_root,
  cube_root,
  exponential,
  exponential_less_1,
  natural_log,
  decimal_log,
  binary_log,
  log_of_1_more,
  error_function,
  sine,
  cosine,
  tangent,
  arc_sine,
  arc_cosine,
  arc_tangent,
  hyperbolic_sine,
  hyperbolic_cosine,
  hyperbolic_tangent,
  // Everyday functions of several.
  arc_tangent2,
  hypotenuse,
  modulo,
  round_to,
  floor_to,
  ceil_to,
  trunc_to,
  clamp,
  agrees,
  t_quantile,
  normal_quantile,
  chi2_quantile,
  // Choice and nulls.
  select,
  is_any,
  is_null,
  fallback,
  complete,
  exclude,
  ratio,
  limit,
  // Dates.
  within_calendar,  ///< a date, null outside the years 0 to 9999
  shift_months,
  shift_days,
  whole_years,
  date_time,
  year_of,
  quarter_of,
  month_of,
  week_of,
  day_of,
  day_of_year,
  hour_of,
  minute_of,
  second_of,
  weekday_of,
  month_name,
  weekday_name,
  start_of,
  end_of,
  // Text.
  concat,
  contains,
  starts_with,
  ends_with,
  upper,
  lower,
  trim,
  part,
  number_of_text,
  // Along the row.
  row_sum,
  row_product,
  row_mean,
  row_median,
  row_min,
  row_max,
  row_range,
  row_sd,
  row_count,
  row_min_name,
  row_max_name,
  // Down the column.
  col_sum,
  col_mean,
  col_median,
  col_min,
  col_max,
  col_range,
  col_sd,
  col_sem,
  col_count,
  col_quantile,
  col_mad,
  col_rms,
  col_geometric_mean,
  col_weighted_mean,
  col_correlation,
  col_area,
  col_first,
  col_last,
  col_at,
  col_first_known,
  col_last_known,
  // Along the sequence of rows.
  row_number,
  previous,
  next,
  change,
  previous_known,
  next_known,
  sum_so_far,
  mean_so_far,
  min_so_far,
  max_so_far,
  moving_mean,
  moving_median,
  moving_sd,
  derivative,
  area_so_far,
  interpolated,
  rank,
  // Of fitted curves.
  fit_parameter,
  fit_parameter_error,  ///< its standard uncertainty
  fit_value,
  fit_solve,
  count_,  ///< how many there are
};

/// What kind of operands an operation has, and where its results come from.
enum class OpFamily : std::uint8_t {
  leaf,
  arithmetic,
  comparison,
  comparison_of_texts,
  logic,
  of_numbers,  ///< functions of one or several numbers
  choice,      ///< one of the operands, or whether they are null
  of_dates,
  of_texts,
  along_row,
  down_column,     ///< a value of all rows of a group
  cell_of_column,  ///< the value in one row of a group
  neighbour,       ///< from the rows around, one by one
  so_far,
  moving,
  along_column,  ///< beside a second column that increases
  ranking,
  of_fit,
};

/// The name of an operation, for dumps and faults of the program.
const char* name_of(Op op);

OpFamily family_of(Op op);

/// Whether it gives one value for all rows of a group.
bool is_reduction(Op op);

/// Whether it gives each row a value of its own, from its place among the others.
bool is_sequence(Op op);

/// Whether it needs all rows of its operands before it can give a value.
bool needs_whole_column(Op op);

/// Ends the work where an operation reaches a place that has no case for it.
[[noreturn]] void not_computed(Op op, const char* where);

}  // namespace opensum
