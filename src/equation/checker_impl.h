// The checker's inside, shared by its files: names and literals in checker.cpp, operators in
// checker_operators.cpp, functions in checker_functions.cpp, those of dates and text in
// checker_dates_text.cpp, those of whole columns in checker_columns.cpp.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "equation/check_context.h"
#include "equation/functions.h"
#include "equation/names_used.h"

namespace opensum {

class Checker {
 public:
  Checker(const Passage& passage, const CheckContext& context, Diagnostics& diagnostics)
      : passage_(passage), context_(context), diagnostics_(diagnostics) {}

  /// The checked form of a tree, null after a reported error.
  CheckedPtr check(const Node& node);
  /// The result in a unit that somebody asked for.
  CheckedPtr in_unit(CheckedPtr value, const UnitText& unit);
  /// The result in the unit that follows from the algebra.
  static CheckedPtr settled(CheckedPtr value);
  std::optional<Unit> read_unit(const UnitText& unit);
  CheckedPtr check_as_condition(const Node& node) { return require_condition(check(node), node); }
  /// The value as one of the column that is filled.
  CheckedPtr fit_for_fill(CheckedPtr value, const Node& node);
  void check_bare_fraction(const Node& literal, const Unit& unit, const UnitText& unit_text);
  /// Warns of a number in a product that does what the conversion to the unit of the definition does.
  void warn_of_needless_factor(const Node& expression, const Type& type, const Unit& unit,
                               const UnitText& unit_text);
  /// Warns of the zero of a scale that is added or taken away by hand.
  void warn_of_needless_offset(const Node& left, const Checked& left_value, const Node& right,
                               const Checked& right_value);

  /// What the parameters of a formula stand for while its body is checked.
  struct Bindings {
    const Formula& formula;
    const Node& call;
    Checker& caller;
  };
  /// Makes this the checker of a formula's body.
  void bind(const Bindings& bindings) {
    bindings_ = &bindings;
    operations_ = bindings.caller.operations_;
    depth_ = bindings.caller.depth_;
  }

 private:
  using Args = std::vector<std::string>;

  CheckedPtr fail(Code code, Span span, Args args = {});
  CheckedPtr fail_pair(Code code, const Node& left, const Node& right, Args args);
  /// A reading on a scale where a quantity is needed that can be multiplied.
  CheckedPtr fail_reading(const Checked& value, const Node& node);
  /// A value that counts something else than the unit that it is to be given in.
  CheckedPtr fail_counted(CountFault fault, const Checked& value, const Unit& unit, Span span);
  /// The same for the two sides of a sum, comparison or choice.
  CheckedPtr fail_sides(const Mismatch& wrong, Code dimension, const Node& left, const Checked& left_value,
                        const Node& right, const Checked& right_value);
  /// What counts turns in a product, as written.
  std::string counting(const Checked& value) const;
  std::string written(const Node& node) const;
  std::string in_words(const Node& node, const Type& type) const;
  /// What a message on two operands says of them: each in words, and a statement of each.
  Args pair_args(const Node& left, const Type& left_type, const Node& right, const Type& right_type) const;

  CheckedPtr check_number(const Node& node);
  CheckedPtr check_name(const Node& node);
  CheckedPtr check_member(const Node& node);
  CheckedPtr column_node(std::size_t index, const Node& node);
  CheckedPtr check_unary(const Node& node);
  CheckedPtr check_binary(const Node& node);
  CheckedPtr check_sum(const Node& node, CheckedPtr left, CheckedPtr right);
  CheckedPtr check_date_sum(const Node& node, CheckedPtr left, CheckedPtr right);
  CheckedPtr check_product(const Node& node, CheckedPtr left, CheckedPtr right);
  CheckedPtr check_power(const Node& node, CheckedPtr left, CheckedPtr right);
  CheckedPtr check_comparison(const Node& node, CheckedPtr left, CheckedPtr right);
  bool keeps_limits(const Checked& value) const;
  CheckedPtr check_logic(const Node& node, CheckedPtr left, CheckedPtr right);

  CheckedPtr check_call(const Node& node);
  CheckedPtr check_formula(const Node& node, const Formula& formula);
  /// A name in the body of a formula: a parameter or a constant.
  CheckedPtr check_name_in_formula(const Node& node);
  CheckedPtr constant_value(const ScopeConstant& constant, const Node& node);
  CheckedPtr check_rule(const Node& node, const Signature& signature);
  CheckedPtr check_one_number(const Node& node, const Signature& signature);
  CheckedPtr check_alike(const Node& node, const Signature& signature);
  CheckedPtr check_rounding(const Node& node, const Signature& signature);
  CheckedPtr check_clamp(const Node& node, const Signature& signature);
  CheckedPtr check_agrees(const Node& node, const Signature& signature);
  CheckedPtr check_value(const Node& node);
  CheckedPtr check_kelvin(const Node& node);
  CheckedPtr check_choice(const Node& node);
  CheckedPtr check_is_any(const Node& node);
  CheckedPtr check_is_null(const Node& node);
  CheckedPtr check_fallback(const Node& node);
  CheckedPtr check_complete(const Node& node);
  CheckedPtr check_exclude(const Node& node);
  CheckedPtr check_ratio(const Node& node);
  CheckedPtr check_measured(const Node& node);
  CheckedPtr check_row(const Node& node, const Signature& signature);
  CheckedPtr check_column(const Node& node, const Signature& signature);
  /// A reduction of a column of another sheet, over the rows of that sheet; `others` are those it names.
  CheckedPtr check_foreign(const Node& node, const Signature& signature,
                           const std::vector<MemberUse>& others);
  /// A reduction over the rows of the group that each row of the sheet stands for.
  CheckedPtr check_grouped(const Node& node, const Signature& signature, const OtherScope& source);
  /// Warns of a reduction over the rows of a group that names columns of the groups alone.
  void warn_of_group_columns(const Node& node, const OtherScope& source);
  /// Inside such a reduction: a column of the groups by its name; null where there is none.
  CheckedPtr group_column(const std::string& symbol, bool quoted, const Node& node);
  /// A reduction over the rows of another sheet, all of them or those of each group.
  CheckedPtr check_over(const OtherRows& rows, const CheckContext& inside, const Node& node,
                        const Signature& signature);
  /// Inside a reduction over the rows of a group: one over the whole sheet, whose name it gives.
  CheckedPtr check_whole(const Node& node, const Signature& signature);
  void say_whole_source(const Node& node, const std::string& source, OtherSheets& others);
  /// A text where a column is meant.
  CheckedPtr fail_text_for_column(const Node& node, const Checked& text, const std::string& before,
                                  const std::string& after);
  CheckedPtr check_sequence(const Node& node, const Signature& signature);
  /// The value of `along:`, a number or date; null after a reported error.
  CheckedPtr check_along(const Node& node, const Signature& signature);
  CheckedPtr check_fit_parameter(const Node& node);
  CheckedPtr check_fit_call(const Node& node, const Signature& signature);
  std::optional<FitView> find_fit(const std::string& name, const std::string& sheet, Span span,
                                  const std::string& written_with_sheet);
  static CheckedPtr fitted(Op op, const Type& type, const Node& node, const FitView& view,
                           std::vector<CheckedPtr> args);
  CheckedPtr check_limit(const Node& node);
  CheckedPtr check_uncertainty(const Node& node);
  CheckedPtr check_plain_numbers(const Node& node, const Signature& signature);
  CheckedPtr check_date_literal(const Node& node);
  CheckedPtr check_date_function(const Node& node, const Signature& signature);
  CheckedPtr check_whole_years(const Node& node);
  CheckedPtr check_count(const NamedArgument& argument);
  CheckedPtr check_shift(const Node& node, const Signature& signature);
  CheckedPtr check_date_time(const Node& node);
  CheckedPtr check_period(const Node& node, const Signature& signature);
  CheckedPtr check_concat(const Node& node);
  CheckedPtr check_part(const Node& node);
  CheckedPtr check_number_of_text(const Node& node);
  CheckedPtr check_text_function(const Node& node, const Signature& signature);
  bool check_rows(const Node& node, const Signature& signature, std::size_t& rows);
  /// The keys of `by:`, and before them those of the group around it, but for the reduction `over_groups`
  /// itself. False after a reported error.
  bool check_keys(const Node& node, bool over_groups, std::vector<CheckedPtr>& keys);
  bool check_column_setting(const Node& node, const Signature& signature, OpSetting& setting);
  /// The second operand of a reduction: weights, another column, or what it goes along. False after a
  /// reported error; a null pointer where there is none.
  bool check_beside(const Node& node, const Signature& signature, CheckedPtr& beside);

  /// One item of a list of columns, with the node that named it.
  struct Item {
    CheckedPtr value;
    const Node* node;
    std::string name;
    /// Stands for a column that a range or pattern named.
    NodePtr own = nullptr;
  };
  Item named_item(CheckedPtr value, const std::string& symbol, Span span) const;
  std::optional<std::vector<Item>> check_list(const Node& call);
  bool add_range(const Node& range, std::vector<Item>& items);
  bool add_pattern(const Node& pattern, std::vector<Item>& items);
  bool unify_list(std::vector<Item>& items, const Node& call);
  /// The rule of a reduction; `length` is that of a row's list, 0 for a whole column, whose rule is `skips`
  /// unless the call says otherwise.
  std::optional<NullRule> null_rule(const Node& call, std::size_t length, bool skips);
  const NamedArgument* named(const Node& call, const char* name) const;

  /// Makes sure that a value is a number with which one can calculate.
  CheckedPtr require_number(CheckedPtr value, const Node& node);
  CheckedPtr require_plain(CheckedPtr value, const Node& node, const char* function);
  CheckedPtr require_condition(CheckedPtr value, const Node& node);
  CheckedPtr require_date(CheckedPtr value, const Node& node);
  CheckedPtr require_text(CheckedPtr value, const Node& node);
  /// Converts the right value so that both are of one kind and scale; false after a reported error.
  bool unify(CheckedPtr& left, const Node& left_node, CheckedPtr& right, const Node& right_node, Code code);

  /// Whether another operation is one too many, or too deep, which is reported once.
  bool is_beyond_limits(const Node& node);
  CheckedPtr check_kind(const Node& node);

  const Passage& passage_;
  const CheckContext& context_;
  Diagnostics& diagnostics_;
  /// The operations checked so far, those in the bodies of formulas included.
  std::size_t own_operations_ = 0;
  std::size_t* operations_ = &own_operations_;
  int depth_ = 0;  ///< of what is checked, in that of the formulas it is part of
  /// Inside measured(…), where names mean columns as measured.
  bool as_measured_ = false;
  /// The next reduction is the one over the rows of a group, and not one inside it.
  bool over_groups_ = false;
  const Bindings* bindings_ = nullptr;
};

/// The type of differences of values of a type: durations in s between dates; between readings on the scale
/// of the readings, to be handed to `as_difference`.
Type difference_type(const Type& type);
/// A difference that was calculated on the scale of readings, given in K; others as they are.
CheckedPtr as_difference(CheckedPtr result);
/// A new node with arguments.
CheckedPtr operation(Op op, Type type, Span span, std::vector<CheckedPtr> args);
CheckedPtr operation(Op op, Type type, Span span, CheckedPtr a);
CheckedPtr operation(Op op, Type type, Span span, CheckedPtr a, CheckedPtr b);
/// The value in another unit of the same dimension; constants are converted at once.
CheckedPtr converted(CheckedPtr value, const Unit& unit, bool difference = false);
/// Whether the result may lie between the values: the mean of two days is a time of day.
bool is_average(Op op);
/// The number pi, which is an angle beside turns.
CheckedPtr pi_node(Span span);
/// The literal 0 without a unit, which fits any dimension.
bool is_literal_zero(const Node& node);
/// The value of a constant as checked, converted or not; nothing for what depends on rows.
std::optional<double> known_constant(const Checked& value);
/// The exact value of an expression of literals.
std::optional<Rational> exact_value(const Node& node);
Type plain_number();
/// `a plain number`, or the unit.
std::string unit_in_words(const Unit& unit);
/// `a number`, `text`, ….
const char* kind_in_words(Kind kind);
/// The unit as it will be shown: that of a raw product in its coherent form.
Unit settled_unit(const Type& type);
Type truth();

}  // namespace opensum
