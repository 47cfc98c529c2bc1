// Third stage of an equation: reductions down the column.
#include <cmath>
#include <utility>

#include "equation/checker_impl.h"

namespace opensum {

// The fraction of col_quantile and the row of col_at are constants.
bool Checker::check_column_parameter(const Node& node, const Signature& signature, double& parameter) {
  if (signature.most < 2) return true;
  const Node& given = *node.children[1];
  const auto value = exact_value(given);
  const bool quantile = signature.op == Op::col_quantile;
  const bool good = value && (quantile ? !(*value < 0) && !(Rational(1) < *value)
                                       : value->is_integer() && Rational(0) < *value);
  if (!good) {
    fail(quantile ? Code::quantile_range : Code::row_range, given.span, {written(given)});
    return false;
  }
  parameter = value->value();
  return true;
}

CheckedPtr Checker::check_column(const Node& node, const Signature& signature) {
  const Node& argument = *node.children[0];
  CheckedPtr value = check(argument);
  double parameter = 0;
  bool good = check_column_parameter(node, signature, parameter);
  const auto rule = null_rule(node, 0);
  CheckedPtr where;
  if (const NamedArgument* condition = named(node, "where")) {
    where = require_condition(check(*condition->value), *condition->value);
    good = where != nullptr && good;
  }
  std::vector<CheckedPtr> keys;
  if (const NamedArgument* by = named(node, "by")) {
    const Node& list = *by->value;
    const std::size_t count = list.kind == NodeKind::list ? list.children.size() : 1;
    for (std::size_t i = 0; i < count; ++i) {
      CheckedPtr key = check(list.kind == NodeKind::list ? *list.children[i] : list);
      good = key != nullptr && good;
      keys.push_back(std::move(key));
    }
  }
  if (!value || !rule || !good) return nullptr;
  const bool any_kind = signature.op == Op::col_first || signature.op == Op::col_last ||
                        signature.op == Op::col_at || signature.op == Op::col_first_known ||
                        signature.op == Op::col_last_known || signature.rule == Rule::col_count;
  const bool of_dates = value->type.kind == Kind::date && signature.rule != Rule::col_sum;
  if (!any_kind && !of_dates && !(value = require_number(std::move(value), argument))) return nullptr;
  value = settled(std::move(value));
  Type type = value->type;
  type.any = false;
  if (signature.rule == Rule::col_sum && type.unit.is_reading()) {
    return fail(Code::readings_summed, argument.span, {node.text, type.unit.text()});
  }
  if (signature.rule == Rule::col_count) type = plain_number();
  if (signature.rule == Rule::col_difference) {
    if (type.kind == Kind::date) {
      type = Type();
      type.unit = second();
    } else if (type.unit.dimension == kelvin().dimension) {
      type.difference = true;
    }
  }
  std::vector<CheckedPtr> args;
  args.push_back(std::move(value));
  const bool has_where = where != nullptr;
  if (has_where) args.push_back(std::move(where));
  for (CheckedPtr& key : keys) args.push_back(std::move(key));
  CheckedPtr result = operation(signature.op, type, node.span, std::move(args));
  result->nulls = *rule;
  result->number = parameter;
  result->text = node.text;
  result->has_where = has_where;
  if (signature.rule == Rule::col_difference && type.unit.is_reading()) {
    return converted(std::move(result), kelvin(), true);
  }
  return result;
}

}  // namespace opensum
