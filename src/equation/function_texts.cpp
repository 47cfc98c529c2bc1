// What goes into each function and comes out.
#include "equation/function_texts.h"

namespace opensum {

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
