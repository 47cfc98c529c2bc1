// Third stage of an equation: operators, and how their operands are brought to one kind and scale.
#include <cmath>
#include <cstdlib>
#include <utility>

#include "base/limits.h"
#include "equation/checker.h"
#include "equation/checker_impl.h"
#include "equation/operation.h"
#include "table/date_text.h"
#include "table/number_text.h"

namespace opensum {
namespace {

Operator op_of(const Node& node) { return node.as<tree::Binary>().op; }

}  // namespace

CheckedPtr Checker::check_unary(const Node& node) {
  const Node& operand = *node.children[0];
  if (node.as<tree::Unary>().op == Operator::logical_not) {
    CheckedPtr value = require_condition(check(operand), operand);
    return value ? operation(Op::logical_not, truth(), node.span, std::move(value)) : nullptr;
  }
  CheckedPtr value = require_number(check(operand), operand);
  if (!value) return nullptr;
  if (value->type.unit.is_reading()) {
    return fail_reading(*value, operand);
  }
  if (value->op == Op::constant) {
    value->number = -value->number;
    for (NumberPart& part : value->parts) part.by = -part.by;
    value->span = node.span;
    return value;
  }
  const Type type = value->type;
  return operation(Op::negate, type, node.span, std::move(value));
}

CheckedPtr Checker::check_binary(const Node& node) {
  CheckedPtr left = check(*node.children[0]);
  CheckedPtr right = check(*node.children[1]);
  if (!left || !right) return nullptr;
  switch (op_of(node)) {
    case Operator::add:
    case Operator::subtract:
      return check_sum(node, std::move(left), std::move(right));
    case Operator::multiply:
    case Operator::divide:
      return check_product(node, std::move(left), std::move(right));
    case Operator::power:
      return check_power(node, std::move(left), std::move(right));
    case Operator::logical_and:
    case Operator::logical_or:
      return check_logic(node, std::move(left), std::move(right));
    default:
      return check_comparison(node, std::move(left), std::move(right));
  }
}

CheckedPtr Checker::check_date_sum(const Node& node, CheckedPtr left, CheckedPtr right) {
  const bool minus = op_of(node) == Operator::subtract;
  const bool left_date = left->type.kind == Kind::date;
  const bool right_date = right->type.kind == Kind::date;
  if (left_date && right_date) {
    if (!minus) return fail_pair(Code::dates_added, *node.children[0], *node.children[1], {});
    Type type;
    type.unit = second();
    return operation(Op::subtract, type, node.span, std::move(left), std::move(right));
  }
  CheckedPtr& duration = left_date ? right : left;
  const Node& duration_node = *node.children[left_date ? 1 : 0];
  duration = require_number(std::move(duration), duration_node);
  if (!duration) return nullptr;
  const bool is_time = duration->type.unit.dimension == second().dimension;
  if (!is_time || (minus && right_date)) {
    return fail(Code::date_plus_number, duration_node.span, {written(duration_node)});
  }
  duration = converted(std::move(duration), second());
  Type type;
  type.kind = Kind::date;
  constexpr double kDay = 86400;
  const bool whole_days = duration->op == Op::constant && std::fmod(duration->number, kDay) == 0;
  type.clock = (left_date ? left : right)->type.clock || !whole_days;
  CheckedPtr sum =
      operation(minus ? Op::subtract : Op::add, type, node.span, std::move(left), std::move(right));
  return operation(Op::within_calendar, type, node.span, std::move(sum));
}

CheckedPtr Checker::check_sum(const Node& node, CheckedPtr left, CheckedPtr right) {
  const Node& left_node = *node.children[0];
  const Node& right_node = *node.children[1];
  const bool minus = op_of(node) == Operator::subtract;
  const Op op = minus ? Op::subtract : Op::add;
  if (left->type.kind == Kind::date || right->type.kind == Kind::date) {
    return check_date_sum(node, std::move(left), std::move(right));
  }
  if (!minus && left->type.kind == Kind::text && right->type.kind == Kind::text)
    return fail_pair(Code::texts_added, left_node, right_node, {written(left_node), written(right_node)});
  left = require_number(std::move(left), left_node);
  right = require_number(std::move(right), right_node);
  if (!left || !right) return nullptr;
  if (left->type.any) left->type = right->type;
  if (right->type.any) right->type = left->type;
  left = settled(std::move(left));
  right = settled(std::move(right));
  const bool left_reading = left->type.unit.is_reading();
  const bool right_reading = right->type.unit.is_reading();
  if (!right_reading && is_literal_zero(left_node)) left->type.unit = right->type.unit;
  if (!left_reading && is_literal_zero(right_node)) right->type.unit = left->type.unit;
  if (const Mismatch wrong = mismatch_of_sides(left->type.unit, right->type.unit)) {
    return fail_sides(wrong, minus ? Code::cannot_subtract : Code::cannot_add, left_node, *left, right_node,
                      *right);
  }
  warn_of_needless_offset(left_node, *left, right_node, *right);
  if (left_reading && right_reading) {
    if (!minus) {
      return fail_pair(Code::readings_added, left_node, right_node,
                       {written(left_node), written(right_node)});
    }
    Type type;
    type.unit = kelvin();
    type.difference = true;
    // Both on one scale first: 20.3 degC - 20.1 degC keeps the digits that a detour over kelvin loses.
    const Unit scale = left->type.unit;
    right = converted(std::move(right), scale);
    type.unit = scale;
    CheckedPtr difference = operation(op, type, node.span, std::move(left), std::move(right));
    return converted(std::move(difference), kelvin(), true);
  }
  if (right_reading) {
    if (minus) {
      return fail_pair(Code::reading_subtracted, left_node, right_node,
                       {written(left_node), written(right_node)});
    }
    const Unit scale = right->type.unit;
    left = converted(std::move(left), scale, true);
    const Type type = right->type;
    return operation(op, type, node.span, std::move(left), std::move(right));
  }
  Type type = left->type;
  const bool temperature = type.unit.dimension == kelvin().dimension;
  if (temperature && !left_reading && minus) type.difference = true;
  right = converted(std::move(right), left->type.unit, left_reading);
  return operation(op, type, node.span, std::move(left), std::move(right));
}

CheckedPtr Checker::check_product(const Node& node, CheckedPtr left, CheckedPtr right) {
  const Node& left_node = *node.children[0];
  const Node& right_node = *node.children[1];
  if (left->type.kind == Kind::date || right->type.kind == Kind::date) {
    const Node& date = left->type.kind == Kind::date ? left_node : right_node;
    return fail(Code::date_in_product, date.span, {written(date)});
  }
  left = require_number(std::move(left), left_node);
  right = require_number(std::move(right), right_node);
  if (!left || !right) return nullptr;
  // It could mean the number on the scale, the absolute temperature or, of a column, a difference.
  for (const auto& [value, value_node] : {std::pair(&left, &left_node), std::pair(&right, &right_node)}) {
    if ((*value)->type.unit.is_reading()) return fail_reading(**value, *value_node);
  }
  const bool times = op_of(node) == Operator::multiply;
  Type type;
  type.unit =
      times ? product(left->type.unit, right->type.unit) : quotient(left->type.unit, right->type.unit);
  const auto plain = [](const Unit& unit) { return unit.is_one() && unit.counted.none(); };
  const bool left_plain = plain(left->type.unit);
  const bool right_plain = plain(right->type.unit);
  if (right_plain) {
    type.raw = left->type.raw;
    type.difference = left->type.difference;
  } else if (left_plain && times) {
    type.raw = right->type.raw;
    type.difference = right->type.difference;
  } else {
    type.raw = true;
  }
  return operation(times ? Op::multiply : Op::divide, type, node.span, std::move(left), std::move(right));
}

CheckedPtr Checker::check_power(const Node& node, CheckedPtr base, CheckedPtr exponent) {
  const Node& base_node = *node.children[0];
  const Node& exponent_node = *node.children[1];
  if (base->type.kind == Kind::date) return fail(Code::date_in_product, base_node.span, {written(base_node)});
  base = require_number(std::move(base), base_node);
  exponent = require_number(std::move(exponent), exponent_node);
  if (!base || !exponent) return nullptr;
  if (base->type.unit.is_reading()) {
    return fail_reading(*base, base_node);
  }
  if (!exponent->type.unit.is_dimensionless()) {
    return fail(Code::exponent_with_unit, exponent_node.span,
                {written(exponent_node), unit_in_words(settled_unit(exponent->type))});
  }
  exponent = converted(std::move(exponent), Unit{});
  Type type;
  const auto exact = exact_value(exponent_node);
  if (base->type.unit.is_dimensionless()) {
    // An angle's square is one, whatever its unit.
    const Counted counted = base->type.unit.counted;
    base = converted(std::move(base), Unit{});
    if (exact) type.unit.counted = counted.power(*exact);
  } else {
    if (!exact) {
      return fail(Code::exponent_not_constant, exponent_node.span,
                  {written(base_node), unit_in_words(settled_unit(base->type)), written(exponent_node)});
    }
    constexpr std::int64_t kMost = kMostExponent * kMostExponent;
    if (std::abs(exact->numerator()) > kMost || exact->denominator() > kMost)
      return fail(Code::unit_out_of_range, node.span, {written(node), std::to_string(kMostExponent)});
    type.unit = power(base->type.unit, *exact);
    type.raw = true;
    exponent = constant_node(exact->value(), plain_number(), exponent_node.span);
  }
  return operation(Op::power, type, node.span, std::move(base), std::move(exponent));
}

bool Checker::unify(CheckedPtr& left, const Node& left_node, CheckedPtr& right, const Node& right_node,
                    Code code) {
  if (left->type.any) {
    left->type = right->type;
    return true;
  }
  if (right->type.any) {
    right->type = left->type;
    return true;
  }
  const auto report = [&](Code what) {
    fail_pair(what, left_node, right_node, pair_args(left_node, left->type, right_node, right->type));
    return false;
  };
  // Text beside a date is read as one.
  const auto read_as_date = [&](CheckedPtr& text, const Node& text_node) {
    const auto date = read_iso_date(text->text);
    if (!date) {
      fail(Code::text_is_no_date, text_node.span, {text->text});
      return false;
    }
    Type type;
    type.kind = Kind::date;
    type.clock = date->has_clock;
    text = constant_node(date->utc(), type, text_node.span);
    return true;
  };
  if (left->type.kind == Kind::date && right->op == Op::text_constant) {
    if (!read_as_date(right, right_node)) return false;
  } else if (right->type.kind == Kind::date && left->op == Op::text_constant) {
    if (!read_as_date(left, left_node)) return false;
  }
  if (left->type.kind != right->type.kind) return report(code);
  left->type.clock = right->type.clock = left->type.clock || right->type.clock;
  if (left->type.kind != Kind::number) return true;
  left = settled(std::move(left));
  right = settled(std::move(right));
  if (!right->type.unit.is_reading() && is_literal_zero(left_node)) left->type.unit = right->type.unit;
  if (!left->type.unit.is_reading() && is_literal_zero(right_node)) right->type.unit = left->type.unit;
  if (const Mismatch wrong = mismatch_of_sides(left->type.unit, right->type.unit)) {
    fail_sides(wrong, code, left_node, *left, right_node, *right);
    return false;
  }
  right = converted(std::move(right), left->type.unit);
  return true;
}

CheckedPtr Checker::check_comparison(const Node& node, CheckedPtr left, CheckedPtr right) {
  const Node& left_node = *node.children[0];
  const Node& right_node = *node.children[1];
  if (!unify(left, left_node, right, right_node, Code::cannot_compare)) return nullptr;
  const bool order = op_of(node) != Operator::equal && op_of(node) != Operator::not_equal;
  const Kind kind = left->type.kind;
  if (order && (kind == Kind::text || kind == Kind::truth)) {
    return fail(Code::no_order, node.mark, {operator_text(op_of(node)), kind_in_words(kind)});
  }
  Op op{};
  if (kind == Kind::text) {
    op = op_of(node) == Operator::equal ? Op::text_equal : Op::text_not_equal;
  } else {
    op = static_cast<Op>(static_cast<int>(Op::equal) + static_cast<int>(op_of(node)) -
                         static_cast<int>(Operator::equal));
  }
  for (const Node* side : {&left_node, &right_node}) {
    const Node& other = side == &left_node ? right_node : left_node;
    if (side->kind() == NodeKind::null)
      fail(Code::compared_to_null, node.span, {written(node), written(other)});
  }
  const bool limits = kind == Kind::number;
  const std::array<bool, 2> keeps_limit = {limits && keeps_limits(*left), limits && keeps_limits(*right)};
  CheckedPtr comparison = operation(op, truth(), node.span, std::move(left), std::move(right));
  comparison->keeps_limit = keeps_limit;
  return comparison;
}

// A measured column, converted or not.
bool Checker::keeps_limits(const Checked& value) const {
  if (value.op == Op::convert) return keeps_limits(*value.args[0]);
  return value.op == Op::column && context_.scope.columns[value.column].keeps_limits;
}

CheckedPtr Checker::check_logic(const Node& node, CheckedPtr left, CheckedPtr right) {
  left = require_condition(std::move(left), *node.children[0]);
  right = require_condition(std::move(right), *node.children[1]);
  if (!left || !right) return nullptr;
  const Op op = op_of(node) == Operator::logical_and ? Op::logical_and : Op::logical_or;
  return operation(op, truth(), node.span, std::move(left), std::move(right));
}

}  // namespace opensum
