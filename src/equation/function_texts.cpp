// What each function does, in a few words.
#include "equation/function_texts.h"

#include <algorithm>
#include <array>
#include <utility>

namespace opensum {
namespace {

using Purpose = std::pair<std::string_view, std::string_view>;

constexpr std::array kPurposes = {
    Purpose{"abs", "the size of a value, without its sign"},
    Purpose{"sign", "-1, 0 or 1"},
    Purpose{"sqrt", "square root"},
    Purpose{"cbrt", "cube root"},
    Purpose{"exp", "e to the power of x"},
    Purpose{"expm1", "exp(x) - 1, exact near 0"},
    Purpose{"ln", "natural logarithm"},
    Purpose{"log10", "logarithm of base 10"},
    Purpose{"log2", "logarithm of base 2"},
    Purpose{"log1p", "ln(1 + x), exact near 0"},
    Purpose{"erf", "error function"},
    Purpose{"sin", "sine"},
    Purpose{"cos", "cosine"},
    Purpose{"tan", "tangent"},
    Purpose{"asin", "the angle with this sine"},
    Purpose{"acos", "the angle with this cosine"},
    Purpose{"atan", "the angle with this tangent"},
    Purpose{"atan2", "the angle of the point (x, y)"},
    Purpose{"sinh", "hyperbolic sine"},
    Purpose{"cosh", "hyperbolic cosine"},
    Purpose{"tanh", "hyperbolic tangent"},
    Purpose{"hypot", "the square root of a^2 + b^2"},
    Purpose{"mod", "what is left after whole steps, with the sign of the step"},
    Purpose{"round", "to the nearest multiple of a step, halves to the even one"},
    Purpose{"floor", "to the multiple of a step below"},
    Purpose{"ceil", "to the multiple of a step above"},
    Purpose{"trunc", "to the multiple of a step towards zero"},
    Purpose{"clamp", "a value, or the limit that it is beyond"},
    Purpose{"agrees", "whether two values are no farther apart than d"},
    Purpose{"value", "the number of a quantity in a unit, for empirical formulas"},
    Purpose{"kelvin", "a temperature on its absolute scale"},
    Purpose{"if", "a where the condition is true, else b"},
    Purpose{"is_any", "whether a value is one of several"},
    Purpose{"is_null", "whether there is no value"},
    Purpose{"fallback", "the first value that is known"},
    Purpose{"complete", "whether none of several is null"},
    Purpose{"exclude", "a value, but null where the condition is true"},
    Purpose{"ratio", "a / b, with a value of its own where b is 0"},
    Purpose{"measured", "a column as it was measured, without its fills"},
    Purpose{"limit", "the 0.05 of a cell <0.05"},
    Purpose{"date", "a fixed date"},
    Purpose{"shift", "a date so many years, months, weeks or days later"},
    Purpose{"whole_years", "the full years from one date to another"},
    Purpose{"date_time", "a day and a time of day put together"},
    Purpose{"year", "the year of a date"},
    Purpose{"quarter", "its quarter, 1 to 4"},
    Purpose{"month", "its month, 1 to 12"},
    Purpose{"week", "its week by ISO 8601"},
    Purpose{"day_of_year", "its day in the year, from 1"},
    Purpose{"day", "its day in the month"},
    Purpose{"hour", "the hour of a time"},
    Purpose{"minute", "the minute of a time"},
    Purpose{"second", "the second of a time"},
    Purpose{"weekday", "the day in the week, Monday is 1"},
    Purpose{"month_name", "the name of its month"},
    Purpose{"weekday_name", "the name of its weekday"},
    Purpose{"start_of", "the first day of its week, month, quarter or year"},
    Purpose{"end_of", "the last day of its week, month, quarter or year"},
    Purpose{"concat", "texts put together; numbers and dates become text"},
    Purpose{"contains", "whether a text holds another"},
    Purpose{"starts_with", "whether a text begins with another"},
    Purpose{"ends_with", "whether a text ends with another"},
    Purpose{"upper", "in capital letters"},
    Purpose{"lower", "in small letters"},
    Purpose{"trim", "without blanks around it"},
    Purpose{"part", "the first, second … part between separators"},
    Purpose{"number", "a text read as a number"},
    Purpose{"row_sum", "sum along the row"},
    Purpose{"row_product", "product along the row"},
    Purpose{"row_mean", "mean along the row"},
    Purpose{"row_median", "median along the row"},
    Purpose{"row_min", "the least in the row"},
    Purpose{"row_max", "the greatest in the row"},
    Purpose{"row_range", "the greatest less the least in the row"},
    Purpose{"row_sd", "standard deviation (n - 1) along the row"},
    Purpose{"row_count", "how many in the row are known"},
    Purpose{"row_min_name", "which column holds the least in the row"},
    Purpose{"row_max_name", "which column holds the greatest in the row"},
    Purpose{"col_sum", "sum of a column"},
    Purpose{"col_mean", "mean of a column, weighted where weights are given"},
    Purpose{"col_median", "median of a column"},
    Purpose{"col_min", "the least of a column"},
    Purpose{"col_max", "the greatest of a column"},
    Purpose{"col_range", "the greatest less the least of a column"},
    Purpose{"col_sd", "standard deviation (n - 1) of a column"},
    Purpose{"col_sem", "standard error of the mean of a column"},
    Purpose{"col_count", "how many of a column are known"},
    Purpose{"col_quantile", "the value below which a part of a column lies"},
    Purpose{"col_mad", "median distance from the median"},
    Purpose{"col_rms", "square root of the mean of squares"},
    Purpose{"col_geometric_mean", "geometric mean of a column"},
    Purpose{"col_correlation", "correlation of two columns"},
    Purpose{"col_area", "the area under y along x, by trapezia"},
    Purpose{"col_at", "the value in a row by its number"},
    Purpose{"col_first", "the value in the first row"},
    Purpose{"col_last", "the value in the last row"},
    Purpose{"col_first_known", "the first value that is known"},
    Purpose{"col_last_known", "the last value that is known"},
    Purpose{"row_number", "the number of the row, from 1"},
    Purpose{"previous", "the value some rows before"},
    Purpose{"next", "the value some rows after"},
    Purpose{"change", "the value less the one before"},
    Purpose{"previous_known", "the last known value at or before the row"},
    Purpose{"next_known", "the next known value at or after the row"},
    Purpose{"sum_so_far", "sum of the rows up to here"},
    Purpose{"mean_so_far", "mean of the rows up to here"},
    Purpose{"min_so_far", "the least of the rows up to here"},
    Purpose{"max_so_far", "the greatest of the rows up to here"},
    Purpose{"moving_mean", "mean of the rows around"},
    Purpose{"moving_median", "median of the rows around"},
    Purpose{"moving_sd", "standard deviation of the rows around"},
    Purpose{"derivative", "the slope of y along x from row to row"},
    Purpose{"area_so_far", "the area under y along x up to here, by trapezia"},
    Purpose{"interpolated", "the straight line across gaps"},
    Purpose{"rank", "the place of a value among all, the least is 1"},
    Purpose{"fit_value", "the y of a fitted curve at x"},
    Purpose{"fit_solve", "the x at which a fitted curve is y: a calibration read backwards"},
    Purpose{"u", "the standard uncertainty of a column or of a fit's parameter"},
    Purpose{"t_quantile", "the value that Student's t does not exceed with probability p"},
    Purpose{"normal_quantile", "the same for the normal distribution"},
    Purpose{"chi2_quantile", "the same for the chi-squared distribution"},
};

}  // namespace

std::string_view purpose_of(std::string_view function) {
  const auto* found =
      std::find_if(kPurposes.begin(), kPurposes.end(), [&](const Purpose& p) { return p.first == function; });
  return found == kPurposes.end() ? std::string_view() : found->second;
}

std::string_view in_and_out(const Signature& signature) {
  switch (signature.rule) {
    case Rule::same_unit:
      return "a quantity → the same unit";
    case Rule::to_sign:
      return "a quantity → a plain number";
    case Rule::root:
      return "a quantity → the root of its unit";
    case Rule::plain:
      return "a plain number → a plain number";
    case Rule::of_angle:
      return "an angle → a plain number";
    case Rule::to_angle:
      return "a plain number → rad";
    case Rule::angle_of_two:
      return "two of one dimension → rad";
    case Rule::alike:
    case Rule::rounding:
    case Rule::clamp:
      return "quantities of one dimension → the first one's unit";
    case Rule::agrees:
      return "quantities of one dimension → true or false";
    case Rule::value:
      return "a quantity and a unit → a plain number";
    case Rule::kelvin:
      return "a temperature → K";
    case Rule::choice:
      return "true or false, two alike → the same";
    case Rule::is_any:
      return "values of one kind → true or false";
    case Rule::is_null:
    case Rule::complete:
      return "anything → true or false";
    case Rule::fallback:
      return "values of one kind → the same";
    case Rule::exclude:
    case Rule::measured:
      return "a column → the same";
    case Rule::ratio:
      return "two quantities → the quotient of their units";
    case Rule::limit:
      return "a column → its unit";
    case Rule::date_literal:
      return "a text → a date";
    case Rule::date_part:
      return "a date → a plain number";
    case Rule::date_name:
      return "a date → a text";
    case Rule::shift:
    case Rule::period:
      return "a date → a date";
    case Rule::whole_years:
      return "two dates → a plain number";
    case Rule::date_time:
      return "a date and a duration → a date";
    case Rule::concat:
      return "anything → a text";
    case Rule::text_test:
      return "two texts → true or false";
    case Rule::part:
    case Rule::text_same:
      return "a text → a text";
    case Rule::number_of_text:
      return "a text → a number";
    case Rule::row_alike:
    case Rule::row_sum:
      return "columns of one dimension → the first one's unit";
    case Rule::row_difference:
      return "columns of one dimension → a difference";
    case Rule::row_product:
      return "columns → the product of their units";
    case Rule::row_count:
      return "columns → a plain number";
    case Rule::row_name:
      return "columns of one dimension → a text";
    case Rule::col_alike:
    case Rule::col_sum:
    case Rule::col_product:
      return "a column → its unit";
    case Rule::col_difference:
      return "a column → a difference in its unit";
    case Rule::col_correlation:
      return "two columns → a plain number";
    case Rule::col_area:
    case Rule::sequence_area:
      return "two columns → the product of their units";
    case Rule::col_count:
      return "a column → a plain number";
    case Rule::sequence_same:
    case Rule::sequence_alike:
    case Rule::sequence_sum:
      return "a column → its unit";
    case Rule::sequence_change:
      return "a column → a difference in its unit";
    case Rule::sequence_plain:
      return "a column → a plain number";
    case Rule::sequence_slope:
      return "two columns → the quotient of their units";
    case Rule::fit_value:
      return "a fit and its x → its y";
    case Rule::fit_solve:
      return "a fit and its y → its x";
    case Rule::uncertainty:
      return "a column or a fit's parameter → a difference in its unit";
    case Rule::plain_numbers:
      return "plain numbers → a plain number";
  }
  return {};
}

std::string_view nulls_in(const Signature& signature) {
  switch (signature.family) {
    case Family::row:
      return signature.rule == Rule::row_count ? "are not counted" : "propagate; nulls: skip leaves them out";
    case Family::column:
      return signature.rule == Rule::col_count ? "are not counted" : "are left out; nulls: propagate";
    case Family::sequence:
      return std::string_view(signature.named).find("nulls") == std::string_view::npos
                 ? "are values of their row"
                 : "propagate; nulls: skip leaves them out";
    case Family::nulls:
      return "are what it is for";
    default:
      return "propagate";
  }
}

std::string_view family_name(Family family) {
  switch (family) {
    case Family::everyday:
      return "everyday";
    case Family::choice:
      return "choice";
    case Family::nulls:
      return "nulls";
    case Family::dates:
      return "dates";
    case Family::text:
      return "text";
    case Family::row:
      return "along the row";
    case Family::column:
      return "down the column";
    case Family::sequence:
      return "the sequence of rows";
    case Family::fits:
      return "fits";
    case Family::uncertainty:
      return "uncertainty";
  }
  return {};
}

}  // namespace opensum
