// Third stage of an equation: standard uncertainties as quantities, and quantiles.
#include "equation/checker_impl.h"
#include "equation/operation.h"

namespace opensum {

CheckedPtr Checker::check_uncertainty(const Node& node) {
  const Node& argument = *node.children[0];
  if (context_.standing != Standing::equation || context_.others == nullptr)
    return fail(Code::uncertainty_too_early, node.span, {written(node)});
  CheckedPtr value = check(argument);
  if (!value) return nullptr;
  if (!has_differences(value->type.kind))
    return fail(Code::uncertainty_of_kind, argument.span, {written(argument), kind_name(value->type.kind)});
  if (value->op == Op::fit_parameter && std::holds_alternative<ParameterIndex>(value->setting)) {
    value->op = Op::fit_parameter_error;
    value->type.unit = difference_unit(value->type.unit);
    return value;
  }
  if (value->op != Op::column) return fail(Code::uncertainty_of_column, argument.span, {written(argument)});
  const std::size_t index = context_.others->uncertainty_of(value->column, passage_.place(node.span));
  value->column = index;
  value->type = context_.scope.columns[index].type;
  return value;
}

CheckedPtr Checker::check_plain_numbers(const Node& node, const Signature& signature) {
  std::vector<CheckedPtr> args;
  for (const NodePtr& child : node.children) {
    CheckedPtr value = require_plain(check(*child), *child, signature.name);
    if (!value) return nullptr;
    args.push_back(std::move(value));
  }
  return operation(signature.op, plain_number(), node.span, std::move(args));
}

}  // namespace opensum
