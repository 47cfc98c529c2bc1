// The table of functions. A new function is a line here and a kernel for its operation.
#include "equation/functions.h"

#include <algorithm>
#include <array>

namespace opensum {
namespace {

using enum Family;

constexpr std::array kSignatures = {
    Signature{"abs", Op::absolute, Rule::same_unit, everyday, 1, 1, "", "abs(x)"},
    Signature{"sign", Op::sign, Rule::to_sign, everyday, 1, 1, "", "sign(x)"},
    Signature{"sqrt", Op::square_root, Rule::root, everyday, 1, 1, "", "sqrt(x)"},
    Signature{"cbrt", Op::cube_root, Rule::root, everyday, 1, 1, "", "cbrt(x)"},
    Signature{"exp", Op::exponential, Rule::plain, everyday, 1, 1, "", "exp(x)"},
    Signature{"ln", Op::natural_log, Rule::plain, everyday, 1, 1, "", "ln(x)"},
    Signature{"log10", Op::decimal_log, Rule::plain, everyday, 1, 1, "", "log10(x)"},
    Signature{"log2", Op::binary_log, Rule::plain, everyday, 1, 1, "", "log2(x)"},
    Signature{"sin", Op::sine, Rule::of_angle, everyday, 1, 1, "", "sin(angle)"},
    Signature{"cos", Op::cosine, Rule::of_angle, everyday, 1, 1, "", "cos(angle)"},
    Signature{"tan", Op::tangent, Rule::of_angle, everyday, 1, 1, "", "tan(angle)"},
    Signature{"asin", Op::arc_sine, Rule::to_angle, everyday, 1, 1, "", "asin(x)"},
    Signature{"acos", Op::arc_cosine, Rule::to_angle, everyday, 1, 1, "", "acos(x)"},
    Signature{"atan", Op::arc_tangent, Rule::to_angle, everyday, 1, 1, "", "atan(x)"},
    Signature{"atan2", Op::arc_tangent2, Rule::angle_of_two, everyday, 2, 2, "", "atan2(y, x)"},
    Signature{"sinh", Op::hyperbolic_sine, Rule::plain, everyday, 1, 1, "", "sinh(x)"},
    Signature{"cosh", Op::hyperbolic_cosine, Rule::plain, everyday, 1, 1, "", "cosh(x)"},
    Signature{"tanh", Op::hyperbolic_tangent, Rule::plain, everyday, 1, 1, "", "tanh(x)"},
    Signature{"hypot", Op::hypotenuse, Rule::alike, everyday, 2, 2, "", "hypot(a, b)"},
    Signature{"mod", Op::modulo, Rule::alike, everyday, 2, 2, "", "mod(x, step)"},
    Signature{"round", Op::round_to, Rule::rounding, everyday, 1, 1, "to", "round(x, to: 0.1 [g])"},
    Signature{"floor", Op::floor_to, Rule::rounding, everyday, 1, 1, "to", "floor(x, to: 1 [yr])"},
    Signature{"ceil", Op::ceil_to, Rule::rounding, everyday, 1, 1, "to", "ceil(x, to: 1 [min])"},
    Signature{"trunc", Op::trunc_to, Rule::rounding, everyday, 1, 1, "to", "trunc(x, to: 1 [mm])"},
    Signature{"clamp", Op::clamp, Rule::clamp, everyday, 3, 3, "", "clamp(x, low, high)"},
    Signature{"agrees", Op::agrees, Rule::agrees, everyday, 2, 2, "within", "agrees(a, b, within: d)"},
    Signature{"value", Op::convert, Rule::value, everyday, 2, 2, "", "value(t, [degC])"},
    Signature{"kelvin", Op::convert, Rule::kelvin, everyday, 1, 1, "", "kelvin(t)"},
    Signature{"if", Op::select, Rule::choice, choice, 3, 3, "", "if(condition, a, b)"},
    Signature{"is_any", Op::is_any, Rule::is_any, choice, 2, kAnyNumber, "", "is_any(x, \"a\", \"b\")"},
    Signature{"is_null", Op::is_null, Rule::is_null, nulls, 1, 1, "", "is_null(x)"},
    Signature{"fallback", Op::fallback, Rule::fallback, nulls, 2, kAnyNumber, "", "fallback(a, b)"},
    Signature{"complete", Op::complete, Rule::complete, nulls, 1, kAnyNumber, "", "complete(a..d)"},
    Signature{"exclude", Op::exclude, Rule::exclude, nulls, 1, 1, "where", "exclude(x, where: condition)"},
    Signature{"ratio", Op::ratio, Rule::ratio, nulls, 2, 2, "zero", "ratio(a, b, zero: 0)"},
    Signature{"measured", Op::column, Rule::measured, nulls, 1, 1, "", "measured(x)"},
    Signature{"limit", Op::limit, Rule::limit, nulls, 1, 1, "", "limit(x)"},
    Signature{"date", Op::constant, Rule::date_literal, dates, 1, 1, "", "date(\"2031-04-02\")"},
    Signature{"shift", Op::shift_months, Rule::shift, dates, 1, 1, "months", "shift(d, months: 12)"},
    Signature{"whole_years", Op::whole_years, Rule::whole_years, dates, 2, 2, "", "whole_years(from, to)"},
    Signature{"date_time", Op::date_time, Rule::date_time, dates, 2, 2, "", "date_time(day, clock)"},
    Signature{"year", Op::year_of, Rule::date_part, dates, 1, 1, "", "year(d)"},
    Signature{"month", Op::month_of, Rule::date_part, dates, 1, 1, "", "month(d)"},
    Signature{"day", Op::day_of, Rule::date_part, dates, 1, 1, "", "day(d)"},
    Signature{"hour", Op::hour_of, Rule::date_part, dates, 1, 1, "", "hour(d)"},
    Signature{"weekday", Op::weekday_of, Rule::date_part, dates, 1, 1, "", "weekday(d)"},
    Signature{"month_name", Op::month_name, Rule::date_name, dates, 1, 1, "", "month_name(d)"},
    Signature{"weekday_name", Op::weekday_name, Rule::date_name, dates, 1, 1, "", "weekday_name(d)"},
    Signature{"start_of", Op::start_of, Rule::period, dates, 2, 2, "", "start_of(d, \"month\")"},
    Signature{"end_of", Op::end_of, Rule::period, dates, 2, 2, "", "end_of(d, \"quarter\")"},
    Signature{"concat", Op::concat, Rule::concat, text, 2, kAnyNumber, "", "concat(a, \"-\", b)"},
    Signature{"contains", Op::contains, Rule::text_test, text, 2, 2, "", "contains(x, \"part\")"},
    Signature{"starts_with", Op::starts_with, Rule::text_test, text, 2, 2, "", "starts_with(x, \"part\")"},
    Signature{"ends_with", Op::ends_with, Rule::text_test, text, 2, 2, "", "ends_with(x, \"part\")"},
    Signature{"upper", Op::upper, Rule::text_same, text, 1, 1, "", "upper(x)"},
    Signature{"lower", Op::lower, Rule::text_same, text, 1, 1, "", "lower(x)"},
    Signature{"trim", Op::trim, Rule::text_same, text, 1, 1, "", "trim(x)"},
    Signature{"row_sum", Op::row_sum, Rule::row_sum, row, 1, kAnyNumber, "nulls at_least", "row_sum(a, b)"},
    Signature{"row_product", Op::row_product, Rule::row_product, row, 1, kAnyNumber, "nulls at_least",
              "row_product(a, b)"},
    Signature{"row_mean", Op::row_mean, Rule::row_alike, row, 1, kAnyNumber, "nulls at_least",
              "row_mean(a, b)"},
    Signature{"row_median", Op::row_median, Rule::row_alike, row, 1, kAnyNumber, "nulls at_least",
              "row_median(a, b)"},
    Signature{"row_min", Op::row_min, Rule::row_alike, row, 1, kAnyNumber, "nulls at_least", "row_min(a, b)"},
    Signature{"row_max", Op::row_max, Rule::row_alike, row, 1, kAnyNumber, "nulls at_least", "row_max(a, b)"},
    Signature{"row_range", Op::row_range, Rule::row_difference, row, 1, kAnyNumber, "nulls at_least",
              "row_range(a, b)"},
    Signature{"row_sd", Op::row_sd, Rule::row_difference, row, 1, kAnyNumber, "nulls at_least",
              "row_sd(a, b)"},
    Signature{"row_count", Op::row_count, Rule::row_count, row, 1, kAnyNumber, "", "row_count(a, b)"},
    Signature{"row_min_name", Op::row_min_name, Rule::row_name, row, 1, kAnyNumber, "nulls at_least",
              "row_min_name(a, b)"},
    Signature{"row_max_name", Op::row_max_name, Rule::row_name, row, 1, kAnyNumber, "nulls at_least",
              "row_max_name(a, b)"},
    Signature{"col_sum", Op::col_sum, Rule::col_sum, column, 1, 1, "by where nulls at_least", "col_sum(x)"},
    Signature{"col_mean", Op::col_mean, Rule::col_alike, column, 1, 1, "by where nulls at_least",
              "col_mean(x)"},
    Signature{"col_median", Op::col_median, Rule::col_alike, column, 1, 1, "by where nulls at_least",
              "col_median(x)"},
    Signature{"col_min", Op::col_min, Rule::col_alike, column, 1, 1, "by where nulls at_least", "col_min(x)"},
    Signature{"col_max", Op::col_max, Rule::col_alike, column, 1, 1, "by where nulls at_least", "col_max(x)"},
    Signature{"col_range", Op::col_range, Rule::col_difference, column, 1, 1, "by where nulls at_least",
              "col_range(x)"},
    Signature{"col_sd", Op::col_sd, Rule::col_difference, column, 1, 1, "by where nulls at_least",
              "col_sd(x)"},
    Signature{"col_sem", Op::col_sem, Rule::col_difference, column, 1, 1, "by where nulls at_least",
              "col_sem(x)"},
    Signature{"col_count", Op::col_count, Rule::col_count, column, 1, 1, "by where", "col_count(x)"},
    Signature{"col_quantile", Op::col_quantile, Rule::col_alike, column, 2, 2, "by where nulls at_least",
              "col_quantile(x, 0.9)"},
    Signature{"col_at", Op::col_at, Rule::col_alike, column, 2, 2, "by where", "col_at(x, 1)"},
    Signature{"col_first", Op::col_first, Rule::col_alike, column, 1, 1, "by where", "col_first(x)"},
    Signature{"col_last", Op::col_last, Rule::col_alike, column, 1, 1, "by where", "col_last(x)"},
    Signature{"col_first_known", Op::col_first_known, Rule::col_alike, column, 1, 1, "by where",
              "col_first_known(x)"},
    Signature{"col_last_known", Op::col_last_known, Rule::col_alike, column, 1, 1, "by where",
              "col_last_known(x)"},
    Signature{"row_number", Op::row_number, Rule::sequence_plain, sequence, 0, 0, "by", "row_number()"},
    Signature{"previous", Op::previous, Rule::sequence_same, sequence, 1, 1, "rows by",
              "previous(x, rows: 1)"},
    Signature{"next", Op::next, Rule::sequence_same, sequence, 1, 1, "rows by", "next(x, rows: 1)"},
    Signature{"change", Op::change, Rule::sequence_change, sequence, 1, 1, "by", "change(x)"},
    Signature{"previous_known", Op::previous_known, Rule::sequence_same, sequence, 1, 1, "by",
              "previous_known(x)"},
    Signature{"next_known", Op::next_known, Rule::sequence_same, sequence, 1, 1, "by", "next_known(x)"},
    Signature{"sum_so_far", Op::sum_so_far, Rule::sequence_sum, sequence, 1, 1, "by nulls", "sum_so_far(x)"},
    Signature{"mean_so_far", Op::mean_so_far, Rule::sequence_alike, sequence, 1, 1, "by nulls",
              "mean_so_far(x)"},
    Signature{"min_so_far", Op::min_so_far, Rule::sequence_alike, sequence, 1, 1, "by nulls",
              "min_so_far(x)"},
    Signature{"max_so_far", Op::max_so_far, Rule::sequence_alike, sequence, 1, 1, "by nulls",
              "max_so_far(x)"},
    Signature{"moving_mean", Op::moving_mean, Rule::sequence_alike, sequence, 1, 1, "rows by nulls",
              "moving_mean(x, rows: 5)"},
    Signature{"moving_median", Op::moving_median, Rule::sequence_alike, sequence, 1, 1, "rows by nulls",
              "moving_median(x, rows: 5)"},
    Signature{"moving_sd", Op::moving_sd, Rule::sequence_change, sequence, 1, 1, "rows by nulls",
              "moving_sd(x, rows: 5)"},
    Signature{"derivative", Op::derivative, Rule::sequence_slope, sequence, 1, 1, "along by", "derivative(y, along: x)"},
    Signature{"area_so_far", Op::area_so_far, Rule::sequence_area, sequence, 1, 1, "along by", "area_so_far(y, along: x)"},
    Signature{"interpolated", Op::interpolated, Rule::sequence_alike, sequence, 1, 1, "along by",
              "interpolated(x, along: t)"},
    Signature{"rank", Op::rank, Rule::sequence_plain, sequence, 1, 1, "by", "rank(x)"},
    Signature{"fit_value", Op::fit_value, Rule::fit_value, Family::fits, 2, 2, "", "fit_value(line, x)"},
    Signature{"fit_solve", Op::fit_solve, Rule::fit_solve, Family::fits, 2, 2, "", "fit_solve(line, y)"},
};

}  // namespace

std::span<const Signature> signatures() { return kSignatures; }

const Signature* find_signature(std::string_view name) {
  const auto* found = std::find_if(kSignatures.begin(), kSignatures.end(),
                                   [&](const Signature& s) { return name == s.name; });
  return found == kSignatures.end() ? nullptr : found;
}

std::vector<std::string> function_names() {
  std::vector<std::string> names;
  names.reserve(kSignatures.size());
  for (const Signature& signature : kSignatures) names.emplace_back(signature.name);
  return names;
}

}  // namespace opensum
