// Third stage of an equation: named formulas, checked anew at each use with what is passed to them.
#include <fmt/format.h>

#include <algorithm>
#include <utility>

#include "equation/checker_impl.h"
#include "message/nearest.h"

namespace opensum {

CheckedPtr Checker::check_formula(const Node& node, const Formula& formula) {
  if (!node.named().empty()) {
    return fail(Code::unknown_argument, node.named().front().span,
                {node.function(), node.named().front().name, "", ""});
  }
  if (node.children.size() != formula.parameters.size()) {
    std::string usage = formula.name + "(";
    for (const std::string& parameter : formula.parameters) {
      usage += (usage.back() == '(' ? "" : ", ") + parameter;
    }
    const std::size_t count = formula.parameters.size();
    return fail(Code::argument_count, node.mark,
                {node.function(), fmt::format("{} value{}", count, count == 1 ? "" : "s"),
                 std::to_string(node.children.size()), usage + ")"});
  }
  for (const Bindings* outer = bindings_; outer != nullptr; outer = outer->caller.bindings_) {
    if (&outer->formula == &formula) return fail(Code::formula_recursion, node.mark, {formula.name});
  }
  // What is passed is reported where it stands, once, whatever the formula does with it.
  bool good = true;
  for (const NodePtr& argument : node.children) good = check(*argument) != nullptr && good;
  if (!good) return nullptr;
  Diagnostics inside;
  Checker body(formula.passage, context_, inside);
  const Bindings bindings{formula, node, *this};
  body.bind(bindings);
  CheckedPtr result = body.check(*formula.body);
  const Place use = passage_.place(node.span);
  const Position position = use.source->position(use.span.begin);
  for (const Diagnostic& diagnostic : inside.all()) {
    Diagnostic& added = diagnostics_.add(diagnostic);
    if (!added.context.empty()) added.context += "; ";
    added.context += fmt::format("{} as used at {}:{}:{}", written(node), use.source->name(), position.line,
                                 position.column);
  }
  return result;
}

CheckedPtr Checker::check_name_in_formula(const Node& node) {
  const std::string& symbol = node.as<tree::Name>().symbol;
  const std::vector<std::string>& parameters = bindings_->formula.parameters;
  const auto found = std::find(parameters.begin(), parameters.end(), symbol);
  if (found != parameters.end()) {
    const auto index = static_cast<std::size_t>(found - parameters.begin());
    CheckedPtr value = bindings_->caller.check(*bindings_->call.children[index]);
    // In messages on the formula it is the parameter that is at fault.
    if (value) value->span = node.span;
    return value;
  }
  if (const ScopeConstant* constant = context_.scope.find_constant(symbol)) {
    return constant_value(*constant, node);
  }
  if (context_.scope.find_column(node).has_value()) {
    return fail(Code::formula_sees_column, node.span, {symbol});
  }
  std::vector<std::string> known = parameters;
  for (const ScopeConstant& constant : context_.scope.constants) known.push_back(constant.name);
  return fail(Code::unknown_name, node.span, {symbol, nearest_name(symbol, known)});
}

}  // namespace opensum
