// Third stage of an equation: functions of dates and of text.
#include <utility>

#include "equation/checker_impl.h"
#include "message/nearest.h"
#include "table/calendar.h"
#include "table/number_text.h"

namespace opensum {
namespace {

Type type_of(Kind kind) {
  Type type;
  type.kind = kind;
  return type;
}

}  // namespace

CheckedPtr Checker::require_date(CheckedPtr value, const Node& node) {
  if (!value || value->type.any || value->type.kind == Kind::date) return value;
  if (value->op == Op::text_constant) {
    const auto date = read_date(value->text);
    if (!date) return fail(Code::text_is_no_date, node.span, {value->text});
    return constant_node(*date, type_of(Kind::date), node.span);
  }
  return fail(Code::needs_date, node.span, {written(node), kind_in_words(value->type.kind)});
}

CheckedPtr Checker::require_text(CheckedPtr value, const Node& node) {
  if (!value || value->type.any || value->type.kind == Kind::text) return value;
  return fail(Code::needs_text, node.span, {written(node), kind_in_words(value->type.kind)});
}

CheckedPtr Checker::check_date_literal(const Node& node) {
  const Node& argument = *node.children[0];
  if (argument.kind != NodeKind::text) {
    CheckedPtr value = check(argument);
    if (value) fail(Code::date_of_no_text, argument.span, {written(argument)});
    return nullptr;
  }
  return require_date(check(argument), argument);
}

CheckedPtr Checker::check_date_function(const Node& node, const Signature& signature) {
  CheckedPtr date = require_date(check(*node.children[0]), *node.children[0]);
  if (!date) return nullptr;
  const Kind kind = signature.rule == Rule::date_name ? Kind::text : Kind::number;
  return operation(signature.op, type_of(kind), node.span, std::move(date));
}

CheckedPtr Checker::check_shift(const Node& node, const Signature& signature) {
  const NamedArgument* months = named(node, "months");
  if (months == nullptr) return fail(Code::argument_needed, node.mark, {"months", signature.usage});
  CheckedPtr date = require_date(check(*node.children[0]), *node.children[0]);
  CheckedPtr count = require_plain(check(*months->value), *months->value, "months:");
  if (!date || !count) return nullptr;
  if (const auto exact = exact_value(*months->value); exact && !exact->is_integer()) {
    return fail(Code::months_not_whole, months->value->span, {written(*months->value)});
  }
  return operation(Op::shift_months, type_of(Kind::date), node.span, std::move(date), std::move(count));
}

CheckedPtr Checker::check_whole_years(const Node& node) {
  CheckedPtr from = require_date(check(*node.children[0]), *node.children[0]);
  CheckedPtr to = require_date(check(*node.children[1]), *node.children[1]);
  if (!from || !to) return nullptr;
  return operation(Op::whole_years, plain_number(), node.span, std::move(from), std::move(to));
}

CheckedPtr Checker::check_date_time(const Node& node) {
  CheckedPtr day = require_date(check(*node.children[0]), *node.children[0]);
  const Node& clock_node = *node.children[1];
  CheckedPtr clock = check(clock_node);
  if (!day || !clock) return nullptr;
  if (clock->type.kind == Kind::number && !clock->type.any) {
    if (!(clock->type.unit.dimension == second().dimension)) {
      return fail(Code::needs_clock, clock_node.span,
                  {written(clock_node), in_words(clock_node, clock->type)});
    }
    clock = converted(std::move(clock), second());
  } else if (clock->type.kind != Kind::text && !clock->type.any) {
    return fail(Code::needs_clock, clock_node.span, {written(clock_node), kind_in_words(clock->type.kind)});
  }
  return operation(Op::date_time, type_of(Kind::date), node.span, std::move(day), std::move(clock));
}

CheckedPtr Checker::check_period(const Node& node, const Signature& signature) {
  CheckedPtr date = require_date(check(*node.children[0]), *node.children[0]);
  const Node& name = *node.children[1];
  std::vector<std::string> known;
  known.reserve(kPeriods);
  for (int i = 0; i < kPeriods; ++i) known.emplace_back(period_name(static_cast<Period>(i)));
  const auto period = name.kind == NodeKind::text ? period_named(name.text) : std::nullopt;
  if (!period) {
    return fail(Code::unknown_period, name.span, {written(name), nearest_name(name.text, known)});
  }
  if (!date) return nullptr;
  CheckedPtr result = operation(signature.op, type_of(Kind::date), node.span, std::move(date));
  result->number = static_cast<double>(*period);
  return result;
}

CheckedPtr Checker::check_concat(const Node& node) {
  std::vector<CheckedPtr> args;
  for (const NodePtr& child : node.children) {
    CheckedPtr value = check(*child);
    if (!value) return nullptr;
    // A quantity would lose its unit in a text.
    if (value->type.kind == Kind::number && !value->type.any && !value->type.unit.is_one()) {
      return fail(Code::concat_of_quantity, child->span, {written(*child), settled_unit(value->type).text()});
    }
    args.push_back(std::move(value));
  }
  std::vector<std::string> kinds;
  kinds.reserve(args.size());
  for (const CheckedPtr& arg : args) kinds.emplace_back(kind_name(arg->type.kind));
  CheckedPtr result = operation(Op::concat, type_of(Kind::text), node.span, std::move(args));
  result->names = std::move(kinds);
  return result;
}

CheckedPtr Checker::check_text_function(const Node& node, const Signature& signature) {
  std::vector<CheckedPtr> args;
  for (const NodePtr& child : node.children) {
    CheckedPtr value = require_text(check(*child), *child);
    if (!value) return nullptr;
    args.push_back(std::move(value));
  }
  const Kind kind = signature.rule == Rule::text_test ? Kind::truth : Kind::text;
  return operation(signature.op, type_of(kind), node.span, std::move(args));
}

}  // namespace opensum
