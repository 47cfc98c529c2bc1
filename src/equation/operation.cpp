// The table of operations.
#include "equation/operation.h"

#include <iterator>
#include <stdexcept>
#include <string>

namespace opensum {
namespace {

struct OpFacts {
  Op op;
  const char* name;
  OpFamily family;
};

constexpr OpFacts kOperations[] = {
    OpFacts{Op::constant, "constant", OpFamily::leaf},
    OpFacts{Op::text_constant, "text_constant", OpFamily::leaf},
    OpFacts{Op::null_constant, "null_constant", OpFamily::leaf},
    OpFacts{Op::column, "column", OpFamily::leaf},
    OpFacts{Op::convert, "convert", OpFamily::arithmetic},
    OpFacts{Op::negate, "negate", OpFamily::arithmetic},
    OpFacts{Op::add, "add", OpFamily::arithmetic},
    OpFacts{Op::subtract, "subtract", OpFamily::arithmetic},
    OpFacts{Op::multiply, "multiply", OpFamily::arithmetic},
    OpFacts{Op::divide, "divide", OpFamily::arithmetic},
    OpFacts{Op::power, "power", OpFamily::arithmetic},
    OpFacts{Op::equal, "equal", OpFamily::comparison},
    OpFacts{Op::not_equal, "not_equal", OpFamily::comparison},
    OpFacts{Op::less, "less", OpFamily::comparison},
    OpFacts{Op::less_equal, "less_equal", OpFamily::comparison},
    OpFacts{Op::greater, "greater", OpFamily::comparison},
    OpFacts{Op::greater_equal, "greater_equal", OpFamily::comparison},
    OpFacts{Op::text_equal, "text_equal", OpFamily::comparison_of_texts},
    OpFacts{Op::text_not_equal, "text_not_equal", OpFamily::comparison_of_texts},
    OpFacts{Op::logical_and, "logical_and", OpFamily::logic},
    OpFacts{Op::logical_or, "logical_or", OpFamily::logic},
    OpFacts{Op::logical_not, "logical_not", OpFamily::logic},
    OpFacts{Op::absolute, "absolute", OpFamily::of_numbers},
    OpFacts{Op::sign, "sign", OpFamily::of_numbers},
    OpFacts{Op::square_root, "square_root", OpFamily::of_numbers},
    OpFacts{Op::cube_root, "cube_root", OpFamily::of_numbers},
    OpFacts{Op::exponential, "exponential", OpFamily::of_numbers},
    OpFacts{Op::exponential_less_1, "exponential_less_1", OpFamily::of_numbers},
    OpFacts{Op::natural_log, "natural_log", OpFamily::of_numbers},
    OpFacts{Op::decimal_log, "decimal_log", OpFamily::of_numbers},
    OpFacts{Op::binary_log, "binary_log", OpFamily::of_numbers},
    OpFacts{Op::log_of_1_more, "log_of_1_more", OpFamily::of_numbers},
    OpFacts{Op::error_function, "error_function", OpFamily::of_numbers},
    OpFacts{Op::sine, "sine", OpFamily::of_numbers},
    OpFacts{Op::cosine, "cosine", OpFamily::of_numbers},
    OpFacts{Op::tangent, "tangent", OpFamily::of_numbers},
    OpFacts{Op::arc_sine, "arc_sine", OpFamily::of_numbers},
    OpFacts{Op::arc_cosine, "arc_cosine", OpFamily::of_numbers},
    OpFacts{Op::arc_tangent, "arc_tangent", OpFamily::of_numbers},
    OpFacts{Op::hyperbolic_sine, "hyperbolic_sine", OpFamily::of_numbers},
    OpFacts{Op::hyperbolic_cosine, "hyperbolic_cosine", OpFamily::of_numbers},
    OpFacts{Op::hyperbolic_tangent, "hyperbolic_tangent", OpFamily::of_numbers},
    OpFacts{Op::arc_tangent2, "arc_tangent2", OpFamily::of_numbers},
    OpFacts{Op::hypotenuse, "hypotenuse", OpFamily::of_numbers},
    OpFacts{Op::modulo, "modulo", OpFamily::of_numbers},
    OpFacts{Op::round_to, "round_to", OpFamily::of_numbers},
    OpFacts{Op::floor_to, "floor_to", OpFamily::of_numbers},
    OpFacts{Op::ceil_to, "ceil_to", OpFamily::of_numbers},
    OpFacts{Op::trunc_to, "trunc_to", OpFamily::of_numbers},
    OpFacts{Op::clamp, "clamp", OpFamily::of_numbers},
    OpFacts{Op::agrees, "agrees", OpFamily::of_numbers},
    OpFacts{Op::t_quantile, "t_quantile", OpFamily::of_numbers},
    OpFacts{Op::normal_quantile, "normal_quantile", OpFamily::of_numbers},
    OpFacts{Op::chi2_quantile, "chi2_quantile", OpFamily::of_numbers},
    OpFacts{Op::select, "select", OpFamily::choice},
    OpFacts{Op::is_any, "is_any", OpFamily::choice},
    OpFacts{Op::is_null, "is_null", OpFamily::choice},
    OpFacts{Op::fallback, "fallback", OpFamily::choice},
    OpFacts{Op::complete, "complete", OpFamily::choice},
    OpFacts{Op::exclude, "exclude", OpFamily::choice},
    OpFacts{Op::ratio, "ratio", OpFamily::choice},
    OpFacts{Op::limit, "limit", OpFamily::choice},
    OpFacts{Op::within_calendar, "within_calendar", OpFamily::of_dates},
    OpFacts{Op::shift_months, "shift_months", OpFamily::of_dates},
    OpFacts{Op::shift_days, "shift_days", OpFamily::of_dates},
    OpFacts{Op::whole_years, "whole_years", OpFamily::of_dates},
    OpFacts{Op::date_time, "date_time", OpFamily::of_dates},
    OpFacts{Op::year_of, "year_of", OpFamily::of_dates},
    OpFacts{Op::quarter_of, "quarter_of", OpFamily::of_dates},
    OpFacts{Op::month_of, "month_of", OpFamily::of_dates},
    OpFacts{Op::week_of, "week_of", OpFamily::of_dates},
    OpFacts{Op::day_of, "day_of", OpFamily::of_dates},
    OpFacts{Op::day_of_year, "day_of_year", OpFamily::of_dates},
    OpFacts{Op::hour_of, "hour_of", OpFamily::of_dates},
    OpFacts{Op::minute_of, "minute_of", OpFamily::of_dates},
    OpFacts{Op::second_of, "second_of", OpFamily::of_dates},
    OpFacts{Op::weekday_of, "weekday_of", OpFamily::of_dates},
    OpFacts{Op::month_name, "month_name", OpFamily::of_dates},
    OpFacts{Op::weekday_name, "weekday_name", OpFamily::of_dates},
    OpFacts{Op::start_of, "start_of", OpFamily::of_dates},
    OpFacts{Op::end_of, "end_of", OpFamily::of_dates},
    OpFacts{Op::concat, "concat", OpFamily::of_texts},
    OpFacts{Op::contains, "contains", OpFamily::of_texts},
    OpFacts{Op::starts_with, "starts_with", OpFamily::of_texts},
    OpFacts{Op::ends_with, "ends_with", OpFamily::of_texts},
    OpFacts{Op::upper, "upper", OpFamily::of_texts},
    OpFacts{Op::lower, "lower", OpFamily::of_texts},
    OpFacts{Op::trim, "trim", OpFamily::of_texts},
    OpFacts{Op::part, "part", OpFamily::of_texts},
    OpFacts{Op::number_of_text, "number_of_text", OpFamily::of_texts},
    OpFacts{Op::row_sum, "row_sum", OpFamily::along_row},
    OpFacts{Op::row_product, "row_product", OpFamily::along_row},
    OpFacts{Op::row_mean, "row_mean", OpFamily::along_row},
    OpFacts{Op::row_median, "row_median", OpFamily::along_row},
    OpFacts{Op::row_min, "row_min", OpFamily::along_row},
    OpFacts{Op::row_max, "row_max", OpFamily::along_row},
    OpFacts{Op::row_range, "row_range", OpFamily::along_row},
    OpFacts{Op::row_sd, "row_sd", OpFamily::along_row},
    OpFacts{Op::row_count, "row_count", OpFamily::along_row},
    OpFacts{Op::row_min_name, "row_min_name", OpFamily::along_row},
    OpFacts{Op::row_max_name, "row_max_name", OpFamily::along_row},
    OpFacts{Op::col_sum, "col_sum", OpFamily::down_column},
    OpFacts{Op::col_mean, "col_mean", OpFamily::down_column},
    OpFacts{Op::col_median, "col_median", OpFamily::down_column},
    OpFacts{Op::col_min, "col_min", OpFamily::down_column},
    OpFacts{Op::col_max, "col_max", OpFamily::down_column},
    OpFacts{Op::col_range, "col_range", OpFamily::down_column},
    OpFacts{Op::col_sd, "col_sd", OpFamily::down_column},
    OpFacts{Op::col_sem, "col_sem", OpFamily::down_column},
    OpFacts{Op::col_count, "col_count", OpFamily::down_column},
    OpFacts{Op::col_quantile, "col_quantile", OpFamily::down_column},
    OpFacts{Op::col_mad, "col_mad", OpFamily::down_column},
    OpFacts{Op::col_rms, "col_rms", OpFamily::down_column},
    OpFacts{Op::col_geometric_mean, "col_geometric_mean", OpFamily::down_column},
    OpFacts{Op::col_weighted_mean, "col_weighted_mean", OpFamily::down_column},
    OpFacts{Op::col_correlation, "col_correlation", OpFamily::down_column},
    OpFacts{Op::col_area, "col_area", OpFamily::down_column},
    OpFacts{Op::col_first, "col_first", OpFamily::cell_of_column},
    OpFacts{Op::col_last, "col_last", OpFamily::cell_of_column},
    OpFacts{Op::col_at, "col_at", OpFamily::cell_of_column},
    OpFacts{Op::col_first_known, "col_first_known", OpFamily::cell_of_column},
    OpFacts{Op::col_last_known, "col_last_known", OpFamily::cell_of_column},
    OpFacts{Op::row_number, "row_number", OpFamily::neighbour},
    OpFacts{Op::previous, "previous", OpFamily::neighbour},
    OpFacts{Op::next, "next", OpFamily::neighbour},
    OpFacts{Op::change, "change", OpFamily::neighbour},
    OpFacts{Op::previous_known, "previous_known", OpFamily::neighbour},
    OpFacts{Op::next_known, "next_known", OpFamily::neighbour},
    OpFacts{Op::sum_so_far, "sum_so_far", OpFamily::so_far},
    OpFacts{Op::mean_so_far, "mean_so_far", OpFamily::so_far},
    OpFacts{Op::min_so_far, "min_so_far", OpFamily::so_far},
    OpFacts{Op::max_so_far, "max_so_far", OpFamily::so_far},
    OpFacts{Op::moving_mean, "moving_mean", OpFamily::moving},
    OpFacts{Op::moving_median, "moving_median", OpFamily::moving},
    OpFacts{Op::moving_sd, "moving_sd", OpFamily::moving},
    OpFacts{Op::derivative, "derivative", OpFamily::along_column},
    OpFacts{Op::area_so_far, "area_so_far", OpFamily::along_column},
    OpFacts{Op::interpolated, "interpolated", OpFamily::along_column},
    OpFacts{Op::rank, "rank", OpFamily::ranking},
    OpFacts{Op::fit_parameter, "fit_parameter", OpFamily::of_fit},
    OpFacts{Op::fit_parameter_error, "fit_parameter_error", OpFamily::of_fit},
    OpFacts{Op::fit_value, "fit_value", OpFamily::of_fit},
    OpFacts{Op::fit_solve, "fit_solve", OpFamily::of_fit},
};

constexpr bool in_order_and_complete() {
  if (std::size(kOperations) != static_cast<std::size_t>(Op::count_)) return false;
  for (std::size_t i = 0; i < std::size(kOperations); ++i) {
    if (static_cast<std::size_t>(kOperations[i].op) != i) return false;
  }
  return true;
}
static_assert(in_order_and_complete(), "each operation has its line, in the order of Op");

}  // namespace

const char* name_of(Op op) { return kOperations[static_cast<std::size_t>(op)].name; }

OpFamily family_of(Op op) { return kOperations[static_cast<std::size_t>(op)].family; }

bool is_reduction(Op op) {
  return family_of(op) == OpFamily::down_column || family_of(op) == OpFamily::cell_of_column;
}

bool is_sequence(Op op) {
  switch (family_of(op)) {
    case OpFamily::neighbour:
    case OpFamily::so_far:
    case OpFamily::moving:
    case OpFamily::along_column:
    case OpFamily::ranking:
      return true;
    case OpFamily::leaf:
    case OpFamily::arithmetic:
    case OpFamily::comparison:
    case OpFamily::comparison_of_texts:
    case OpFamily::logic:
    case OpFamily::of_numbers:
    case OpFamily::choice:
    case OpFamily::of_dates:
    case OpFamily::of_texts:
    case OpFamily::along_row:
    case OpFamily::down_column:
    case OpFamily::cell_of_column:
    case OpFamily::of_fit:
      return false;
  }
  return false;
}

bool needs_whole_column(Op op) {
  return is_reduction(op) || is_sequence(op) || family_of(op) == OpFamily::of_fit;
}

void not_computed(Op op, const char* where) {
  throw std::logic_error(std::string("the operation ") + name_of(op) + " is not computed in " + where);
}

}  // namespace opensum
