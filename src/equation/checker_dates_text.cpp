// Third stage of an equation: functions of dates and of text.
#include <utility>

#include "equation/checker.h"
#include "equation/checker_impl.h"
#include "equation/operation.h"
#include "message/nearest.h"
#include "table/calendar.h"
#include "table/date_text.h"
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
    const auto date = read_iso_date(value->text);
    if (!date) return fail(Code::text_is_no_date, node.span, {value->text});
    Type type = type_of(Kind::date);
    type.clock = date->has_clock;
    return constant_node(date->utc(), type, node.span);
  }
  return fail(Code::needs_date, node.span, {written(node), kind_in_words(value->type.kind)});
}

CheckedPtr Checker::require_text(CheckedPtr value, const Node& node) {
  if (!value || value->type.any || value->type.kind == Kind::text) return value;
  return fail(Code::needs_text, node.span, {written(node), kind_in_words(value->type.kind)});
}

CheckedPtr Checker::check_date_literal(const Node& node) {
  const Node& argument = *node.children[0];
  if (argument.kind() != NodeKind::text) {
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

// A whole number of years, months, weeks or days; a null pointer after a reported error.
CheckedPtr Checker::check_count(const NamedArgument& argument) {
  const std::string name = argument.name + ":";
  CheckedPtr count = require_plain(check(*argument.value), *argument.value, name.c_str());
  if (!count) return nullptr;
  if (const auto exact = exact_value(*argument.value); exact && !exact->is_integer()) {
    return fail(Code::shift_not_whole, argument.value->span, {written(*argument.value), argument.name});
  }
  return count;
}

// Years and months go by the calendar, weeks and days follow.
CheckedPtr Checker::check_shift(const Node& node, const Signature& signature) {
  if (node.named().empty()) return fail(Code::argument_needed, node.mark, {"months", signature.usage});
  CheckedPtr date = require_date(check(*node.children[0]), *node.children[0]);
  bool good = date != nullptr;
  struct Part {
    const char* name;
    double factor;
    Op op;
  };
  for (const Part& part : {Part{"years", 12, Op::shift_months}, Part{"months", 1, Op::shift_months},
                           Part{"weeks", 7, Op::shift_days}, Part{"days", 1, Op::shift_days}}) {
    const NamedArgument* given = named(node, part.name);
    if (given == nullptr) continue;
    CheckedPtr count = check_count(*given);
    good = good && count != nullptr;
    if (!good) continue;
    if (part.factor != 1) {
      count = operation(Op::multiply, plain_number(), node.span, std::move(count),
                        constant_node(part.factor, plain_number(), node.span));
    }
    const Type type = date->type;
    date = operation(part.op, type, node.span, std::move(date), std::move(count));
  }
  return good ? std::move(date) : nullptr;
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
  Type type = type_of(Kind::date);
  type.clock = true;
  return operation(Op::date_time, type, node.span, std::move(day), std::move(clock));
}

CheckedPtr Checker::check_period(const Node& node, const Signature& signature) {
  CheckedPtr date = require_date(check(*node.children[0]), *node.children[0]);
  const Node& name = *node.children[1];
  std::vector<std::string> known;
  known.reserve(kPeriods);
  for (int i = 0; i < kPeriods; ++i) known.emplace_back(period_name(static_cast<Period>(i)));
  const bool is_text = name.is<tree::Text>();
  const std::string& text = is_text ? name.as<tree::Text>().text : symbol_in(name);
  const auto period = is_text ? period_named(text) : std::nullopt;
  if (!period) {
    return fail(Code::unknown_period, name.span, {written(name), nearest_name(text, known)});
  }
  if (!date) return nullptr;
  Type type = type_of(Kind::date);
  type.clock = *period == Period::hour;
  CheckedPtr result = operation(signature.op, type, node.span, std::move(date));
  result->setting = *period;
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
  for (const CheckedPtr& arg : args)
    kinds.emplace_back(arg->type.clock ? kDateTime : kind_name(arg->type.kind));
  CheckedPtr result = operation(Op::concat, type_of(Kind::text), node.span, std::move(args));
  result->names = std::move(kinds);
  return result;
}

CheckedPtr Checker::check_part(const Node& node) {
  const NamedArgument* split = named(node, "split");
  if (split == nullptr) {
    return fail(Code::argument_needed, node.mark, {"split", find_signature("part")->usage});
  }
  CheckedPtr text = require_text(check(*node.children[0]), *node.children[0]);
  const auto place = exact_value(*node.children[1]);
  if (!place || !place->is_integer() || *place < 1) {
    return fail(Code::part_place, node.children[1]->span, {written(*node.children[1])});
  }
  if (!split->value->is<tree::Text>() || split->value->as<tree::Text>().text.empty()) {
    return fail(Code::part_split, split->value->span, {written(*split->value)});
  }
  CheckedPtr sign = check(*split->value);
  if (!text || !sign) return nullptr;
  CheckedPtr result = operation(Op::part, type_of(Kind::text), node.span, std::move(text), std::move(sign));
  result->setting = PartNumber{static_cast<std::size_t>(place->numerator())};
  return result;
}

CheckedPtr Checker::check_number_of_text(const Node& node) {
  Type type;
  if (node.children.size() == 2) {
    const Node& unit_node = *node.children[1];
    if (!unit_node.is<tree::UnitArgument>()) {
      return fail(Code::unit_argument_needed, unit_node.span, {written(unit_node)});
    }
    auto unit = read_unit(unit_node.as<tree::UnitArgument>().unit);
    if (!unit) return nullptr;
    type.unit = std::move(*unit);
  }
  CheckedPtr text = require_text(check(*node.children[0]), *node.children[0]);
  return text ? operation(Op::number_of_text, type, node.span, std::move(text)) : nullptr;
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
