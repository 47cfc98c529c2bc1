// Third stage of an equation: calls of functions, lists of columns and null rules.
#include <algorithm>
#include <cmath>
#include <utility>

#include "equation/checker_impl.h"
#include "equation/operation.h"
#include "message/nearest.h"
#include "message/other_words.h"
#include "table/decimal.h"
#include "table/number_text.h"

namespace opensum {
namespace {

std::vector<std::string> words(std::string_view text) {
  std::vector<std::string> out;
  while (!text.empty()) {
    const std::size_t end = std::min(text.find(' '), text.size());
    if (end > 0) out.emplace_back(text.substr(0, end));
    text.remove_prefix(std::min(end + 1, text.size()));
  }
  return out;
}

std::string counted(int least, int most) {
  if (most >= kAnyNumber) return "at least " + std::to_string(least) + (least == 1 ? " value" : " values");
  if (least == most) return std::to_string(least) + (least == 1 ? " value" : " values");
  return std::to_string(least) + " to " + std::to_string(most) + " values";
}

}  // namespace

const NamedArgument* Checker::named(const Node& call, const char* name) const {
  for (const NamedArgument& argument : call.named()) {
    if (argument.name == name) return &argument;
  }
  return nullptr;
}

CheckedPtr Checker::check_call(const Node& node) {
  if (const Formula* formula = context_.scope.find_formula(node.function()))
    return check_formula(node, *formula);
  const Signature* signature = find_signature(node.function());
  if (signature == nullptr) {
    if (context_.scope.find_column(node.function(), false).has_value() ||
        context_.scope.find_constant(node.function()) != nullptr) {
      return fail(Code::column_called, node.mark, {node.function()});
    }
    std::vector<std::string> arguments;
    for (const NodePtr& child : node.children) arguments.push_back(print(*child));
    if (const std::string here = call_here(node.function(), arguments); !here.empty())
      return fail(Code::other_word, node.mark, {node.function(), here});
    std::vector<std::string> known = function_names();
    if (context_.scope.formulas != nullptr) {
      for (const Formula& formula : *context_.scope.formulas) known.push_back(formula.name);
    }
    return fail(
        Code::unknown_function, node.mark,
        {node.function(), has_nothing_like(node.function()) ? "" : nearest_name(node.function(), known)});
  }
  const std::vector<std::string> allowed = words(signature->named);
  bool good = true;
  for (std::size_t i = 0; i < node.named().size(); ++i) {
    const NamedArgument& argument = node.named()[i];
    if (std::find(allowed.begin(), allowed.end(), argument.name) == allowed.end()) {
      fail(Code::unknown_argument, argument.span,
           {node.function(), argument.name, nearest_name(argument.name, allowed), signature->usage});
      good = false;
    }
    for (std::size_t j = 0; j < i; ++j) {
      if (node.named()[j].name != argument.name) continue;
      fail(Code::argument_twice, argument.span, {argument.name});
      good = false;
    }
  }
  const int count = static_cast<int>(node.children.size());
  const bool lists = std::any_of(node.children.begin(), node.children.end(), [](const NodePtr& child) {
    return child->kind() == NodeKind::range || child->kind() == NodeKind::text;
  });
  if (signature->family == Family::column && (count > signature->most || (lists && count == 1))) {
    const std::string row_function = "row" + node.function().substr(3);
    if (find_signature(row_function) != nullptr) {
      std::string list;
      for (const NodePtr& child : node.children) list += (list.empty() ? "" : ", ") + written(*child);
      return fail(Code::column_of_several, node.span, {node.function(), row_function, list});
    }
  }
  if (count < signature->least || count > signature->most) {
    fail(Code::argument_count, node.mark,
         {node.function(), counted(signature->least, signature->most), std::to_string(count),
          signature->usage});
    good = false;
  }
  return good ? check_rule(node, *signature) : nullptr;
}

CheckedPtr Checker::check_rule(const Node& node, const Signature& signature) {
  switch (signature.rule) {
    case Rule::same_unit:
    case Rule::to_sign:
    case Rule::root:
    case Rule::plain:
    case Rule::of_angle:
    case Rule::to_angle:
      return check_one_number(node, signature);
    case Rule::angle_of_two:
    case Rule::alike:
      return check_alike(node, signature);
    case Rule::rounding:
      return check_rounding(node, signature);
    case Rule::clamp:
      return check_clamp(node, signature);
    case Rule::agrees:
      return check_agrees(node, signature);
    case Rule::value:
      return check_value(node);
    case Rule::kelvin:
      return check_kelvin(node);
    case Rule::choice:
      return check_choice(node);
    case Rule::is_any:
      return check_is_any(node);
    case Rule::is_null:
      return check_is_null(node);
    case Rule::fallback:
      return check_fallback(node);
    case Rule::complete:
      return check_complete(node);
    case Rule::exclude:
      return check_exclude(node);
    case Rule::ratio:
      return check_ratio(node);
    case Rule::measured:
      return check_measured(node);
    case Rule::limit:
      return check_limit(node);
    case Rule::date_literal:
      return check_date_literal(node);
    case Rule::date_part:
    case Rule::date_name:
      return check_date_function(node, signature);
    case Rule::shift:
      return check_shift(node, signature);
    case Rule::whole_years:
      return check_whole_years(node);
    case Rule::date_time:
      return check_date_time(node);
    case Rule::period:
      return check_period(node, signature);
    case Rule::concat:
      return check_concat(node);
    case Rule::part:
      return check_part(node);
    case Rule::number_of_text:
      return check_number_of_text(node);
    case Rule::text_test:
    case Rule::text_same:
      return check_text_function(node, signature);
    case Rule::row_alike:
    case Rule::row_sum:
    case Rule::row_difference:
    case Rule::row_product:
    case Rule::row_count:
    case Rule::row_name:
      return check_row(node, signature);
    case Rule::col_alike:
    case Rule::col_sum:
    case Rule::col_difference:
    case Rule::col_product:
    case Rule::col_correlation:
    case Rule::col_area:
    case Rule::col_count:
      return check_column(node, signature);
    case Rule::sequence_same:
    case Rule::sequence_alike:
    case Rule::sequence_sum:
    case Rule::sequence_change:
    case Rule::sequence_plain:
    case Rule::sequence_slope:
    case Rule::sequence_area:
      return check_sequence(node, signature);
    case Rule::fit_value:
    case Rule::fit_solve:
      return check_fit_call(node, signature);
    case Rule::uncertainty:
      return check_uncertainty(node);
    case Rule::plain_numbers:
      return check_plain_numbers(node, signature);
  }
  return nullptr;
}

CheckedPtr Checker::check_one_number(const Node& node, const Signature& signature) {
  const Node& argument = *node.children[0];
  const bool plain = signature.rule == Rule::plain || signature.rule == Rule::to_angle;
  CheckedPtr value = check(argument);
  if (!value) return nullptr;
  if (plain) {
    value = require_plain(std::move(value), argument, signature.name);
    if (!value) return nullptr;
    Type type;
    if (signature.rule == Rule::to_angle) type.unit = radian();
    return operation(signature.op, type, node.span, std::move(value));
  }
  value = require_number(std::move(value), argument);
  if (!value) return nullptr;
  if (value->type.unit.is_reading()) {
    return fail_reading(*value, argument);
  }
  Type type = value->type;
  type.any = false;
  switch (signature.rule) {
    case Rule::to_sign:
      type = plain_number();
      break;
    case Rule::root:
      if (value->type.unit.is_dimensionless()) {
        value = converted(std::move(value), Unit{});
        type = plain_number();
      } else {
        type.unit = power(type.unit, Rational(1, signature.op == Op::square_root ? 2 : 3));
        type.raw = true;
      }
      break;
    case Rule::of_angle:
      if (const Mismatch wrong = mismatch(type.unit, radian())) {
        const bool turns = wrong.counted == CountFault::turns_and_angles;
        return fail(
            Code::needs_angle, argument.span,
            {signature.name, written(argument), turns ? "counts turns" : "is in " + settled_unit(type).text(),
             turns ? counting(*value) : ""});
      }
      value = converted(std::move(value), radian());
      type = plain_number();
      break;
    default:
      break;
  }
  return operation(signature.op, type, node.span, std::move(value));
}

CheckedPtr Checker::check_alike(const Node& node, const Signature& signature) {
  const Node& left_node = *node.children[0];
  const Node& right_node = *node.children[1];
  CheckedPtr left = require_number(check(left_node), left_node);
  CheckedPtr right = require_number(check(right_node), right_node);
  if (!left || !right) return nullptr;
  for (const auto& [value, value_node] : {std::pair(&left, &left_node), std::pair(&right, &right_node)}) {
    if ((*value)->type.unit.is_reading()) {
      return fail_reading(**value, *value_node);
    }
  }
  if (!unify(left, left_node, right, right_node, Code::cannot_combine)) return nullptr;
  Type type = left->type;
  if (signature.rule == Rule::angle_of_two) {
    type = Type();
    type.unit = radian();
  }
  return operation(signature.op, type, node.span, std::move(left), std::move(right));
}

CheckedPtr Checker::check_rounding(const Node& node, const Signature& signature) {
  const Node& argument = *node.children[0];
  CheckedPtr value = require_number(check(argument), argument);
  if (!value) return nullptr;
  value = settled(std::move(value));
  const NamedArgument* to = named(node, "to");
  double step = 1;
  const Unit unit = value->type.unit;
  if (to == nullptr) {
    if (!value->type.unit.is_one()) {
      return fail(Code::rounding_needs_step, node.mark,
                  {node.function(), written(argument), value->type.unit.text()});
    }
  } else {
    CheckedPtr given = require_number(check(*to->value), *to->value);
    if (!given) return nullptr;
    if (given->op != Op::constant || given->number <= 0) {
      return fail(Code::step_not_positive, to->value->span, {written(*to->value)});
    }
    if (mismatch(difference_unit(value->type.unit), given->type.unit)) {
      return fail_pair(Code::cannot_combine, argument, *to->value,
                       pair_args(argument, value->type, *to->value, given->type));
    }
    step = given->number;
    if (value->type.unit.is_reading() != given->type.unit.is_reading()) {
      step = as_typed(conversion(given->type.unit, value->type.unit, true)(step));
    } else {
      // In the unit of the step, in which its multiples are decimals.
      value = converted(std::move(value), given->type.unit);
    }
  }
  const Type type = value->type;
  CheckedPtr result = operation(signature.op, type, node.span, std::move(value));
  result->setting = RoundingStep{step};
  return converted(std::move(result), unit);
}

CheckedPtr Checker::check_clamp(const Node& node, const Signature& signature) {
  std::vector<CheckedPtr> args;
  for (const NodePtr& child : node.children) {
    CheckedPtr value = check(*child);
    if (value && value->type.kind != Kind::date) value = require_number(std::move(value), *child);
    if (!value) return nullptr;
    args.push_back(std::move(value));
  }
  for (std::size_t i = 1; i < args.size(); ++i) {
    if (!unify(args[0], *node.children[0], args[i], *node.children[i], Code::cannot_combine)) return nullptr;
  }
  const auto low = known_constant(*args[1]);
  const auto high = known_constant(*args[2]);
  if (low && high && *low > *high) {
    return fail_pair(Code::clamp_limits, *node.children[1], *node.children[2],
                     {written(*node.children[1]), written(*node.children[2])});
  }
  const Type type = args[0]->type;
  return operation(signature.op, type, node.span, std::move(args));
}

CheckedPtr Checker::check_agrees(const Node& node, const Signature& signature) {
  const NamedArgument* within = named(node, "within");
  if (within == nullptr) return fail(Code::argument_needed, node.mark, {"within", signature.usage});
  CheckedPtr left = check(*node.children[0]);
  CheckedPtr right = check(*node.children[1]);
  CheckedPtr width = require_number(check(*within->value), *within->value);
  if (!left || !right || !width) return nullptr;
  if (!unify(left, *node.children[0], right, *node.children[1], Code::cannot_combine)) return nullptr;
  if (left->type.kind == Kind::text || left->type.kind == Kind::truth) {
    require_number(std::move(left), *node.children[0]);
    return nullptr;
  }
  const Unit unit = left->type.kind == Kind::date ? second() : left->type.unit;
  width = settled(std::move(width));
  if (!is_literal_zero(*within->value)) {
    if (width->type.unit.is_reading() || mismatch(difference_unit(unit), width->type.unit)) {
      return fail_pair(Code::cannot_combine, *node.children[0], *within->value,
                       pair_args(*node.children[0], left->type, *within->value, width->type));
    }
    width = converted(std::move(width), unit, true);
  }
  if (const auto known = known_constant(*width); known && *known < 0)
    return fail(Code::within_negative, within->value->span, {written(*within->value)});
  std::vector<CheckedPtr> args;
  args.push_back(std::move(left));
  args.push_back(std::move(right));
  args.push_back(std::move(width));
  return operation(signature.op, truth(), node.span, std::move(args));
}

CheckedPtr Checker::check_value(const Node& node) {
  const Node& unit_node = *node.children[1];
  if (!unit_node.is<tree::UnitArgument>()) {
    return fail(Code::unit_argument_needed, unit_node.span, {written(unit_node)});
  }
  CheckedPtr value = require_number(check(*node.children[0]), *node.children[0]);
  if (!value) {
    read_unit(unit_node.as<tree::UnitArgument>().unit);
    return nullptr;
  }
  value = in_unit(std::move(value), unit_node.as<tree::UnitArgument>().unit);
  if (!value) return nullptr;
  value->type = plain_number();
  return value;
}

CheckedPtr Checker::check_kelvin(const Node& node) {
  const Node& argument = *node.children[0];
  CheckedPtr value = require_number(check(argument), argument);
  if (!value) return nullptr;
  if (!(value->type.unit.dimension == kelvin().dimension)) {
    return fail(
        Code::needs_temperature, argument.span,
        {written(argument), value->type.unit.is_one() ? "a plain number" : "in " + value->type.unit.text()});
  }
  const bool difference = value->type.difference;
  return converted(std::move(value), kelvin(), difference);
}

CheckedPtr Checker::check_choice(const Node& node) {
  CheckedPtr condition = require_condition(check(*node.children[0]), *node.children[0]);
  CheckedPtr yes = check(*node.children[1]);
  CheckedPtr no = check(*node.children[2]);
  if (!condition || !yes || !no) return nullptr;
  if (!unify(yes, *node.children[1], no, *node.children[2], Code::branches_differ)) return nullptr;
  Type type = yes->type;
  type.difference = yes->type.difference || no->type.difference;
  std::vector<CheckedPtr> args;
  args.push_back(std::move(condition));
  args.push_back(std::move(yes));
  args.push_back(std::move(no));
  return operation(Op::select, type, node.span, std::move(args));
}

CheckedPtr Checker::check_is_any(const Node& node) {
  std::vector<CheckedPtr> args;
  for (const NodePtr& child : node.children) {
    CheckedPtr value = check(*child);
    if (!value) return nullptr;
    args.push_back(std::move(value));
  }
  for (std::size_t i = 1; i < args.size(); ++i) {
    if (!unify(args[0], *node.children[0], args[i], *node.children[i], Code::cannot_compare)) return nullptr;
  }
  return operation(Op::is_any, truth(), node.span, std::move(args));
}

CheckedPtr Checker::check_is_null(const Node& node) {
  CheckedPtr value = check(*node.children[0]);
  if (value && value->op == Op::text_constant)
    return fail_text_for_column(*node.children[0], *value, node.function() + "(", ")");
  return value ? operation(Op::is_null, truth(), node.span, std::move(value)) : nullptr;
}

CheckedPtr Checker::check_fallback(const Node& node) {
  auto items = check_list(node);
  if (!items || !unify_list(*items, node)) return nullptr;
  if (items->front().value->op == Op::text_constant && items->size() > 1)
    return fail_text_for_column(*items->front().node, *items->front().value, "fallback(", ", …)");
  const Type type = items->front().value->type;
  std::vector<CheckedPtr> args;
  for (Item& item : *items) args.push_back(std::move(item.value));
  return operation(Op::fallback, type, node.span, std::move(args));
}

CheckedPtr Checker::check_complete(const Node& node) {
  auto items = check_list(node);
  if (!items) return nullptr;
  std::vector<CheckedPtr> args;
  for (Item& item : *items) args.push_back(std::move(item.value));
  return operation(Op::complete, truth(), node.span, std::move(args));
}

CheckedPtr Checker::check_exclude(const Node& node) {
  const NamedArgument* where = named(node, "where");
  if (where == nullptr) {
    return fail(Code::argument_needed, node.mark, {"where", find_signature("exclude")->usage});
  }
  CheckedPtr value = check(*node.children[0]);
  CheckedPtr condition = require_condition(check(*where->value), *where->value);
  if (!value || !condition) return nullptr;
  const Type type = value->type;
  return operation(Op::exclude, type, node.span, std::move(value), std::move(condition));
}

CheckedPtr Checker::check_ratio(const Node& node) {
  const NamedArgument* zero = named(node, "zero");
  CheckedPtr above = check(*node.children[0]);
  CheckedPtr below = check(*node.children[1]);
  if (!above || !below) return nullptr;
  Node division;
  division.what = tree::Binary{Operator::divide};
  division.span = node.span;
  // The operands are only looked at for their spans.
  const auto stand_in = [](const Node& original) {
    auto copy = std::make_unique<Node>();
    copy->what = tree::Word{};
    copy->span = original.span;
    return copy;
  };
  division.children.push_back(stand_in(*node.children[0]));
  division.children.push_back(stand_in(*node.children[1]));
  CheckedPtr quotient = check_product(division, std::move(above), std::move(below));
  if (!quotient || zero == nullptr) return quotient;
  CheckedPtr otherwise = require_number(check(*zero->value), *zero->value);
  if (!otherwise) return nullptr;
  if (otherwise->type.any || is_literal_zero(*zero->value)) {
    otherwise->type = quotient->type;
  } else {
    const Unit unit = quotient->type.unit;
    otherwise = settled(std::move(otherwise));
    if (mismatch(otherwise->type.unit, unit)) {
      return fail_pair(Code::cannot_combine, *node.children[0], *zero->value,
                       pair_args(node, quotient->type, *zero->value, otherwise->type));
    }
    otherwise = converted(std::move(otherwise), unit);
  }
  quotient->op = Op::ratio;
  quotient->args.push_back(std::move(otherwise));
  return quotient;
}

CheckedPtr Checker::check_measured(const Node& node) {
  const Node& argument = *node.children[0];
  as_measured_ = true;
  CheckedPtr value = check(argument);
  as_measured_ = false;
  if (!value) return nullptr;
  if (value->op != Op::column || !context_.scope.columns[value->column].measured) {
    return fail(Code::not_measured, argument.span, {written(argument)});
  }
  return value;
}

CheckedPtr Checker::check_limit(const Node& node) {
  as_measured_ = true;
  CheckedPtr value = check(*node.children[0]);
  as_measured_ = false;
  if (!value) return nullptr;
  if (value->op != Op::column || !context_.scope.columns[value->column].keeps_limits)
    return fail(Code::not_measured, node.children[0]->span, {written(*node.children[0])});
  if (value->type.kind != Kind::number) return require_number(std::move(value), *node.children[0]);
  const Type type = value->type;
  return operation(Op::limit, type, node.span, std::move(value));
}

Checker::Item Checker::named_item(CheckedPtr value, const std::string& symbol, Span span) const {
  Item item{std::move(value), nullptr, symbol, std::make_unique<Node>()};
  item.own->what = tree::Name{symbol};
  item.own->span = item.own->mark = span;
  item.node = item.own.get();
  return item;
}

bool Checker::add_range(const Node& range, std::vector<Item>& items) {
  const Scope& scope = context_.scope;
  std::size_t ends[2] = {0, 0};
  for (std::size_t i = 0; i < 2; ++i) {
    const Node& end = *range.children[i];
    const auto index = scope.find_column(end);
    if (!index) {
      fail(Code::unknown_name, end.span, {symbol_in(end), nearest_name(symbol_in(end), scope.names())});
      return false;
    }
    if (!scope.columns[*index].measured) {
      fail(Code::range_of_derived, end.span, {symbol_in(end)});
      return false;
    }
    ends[i] = *index;
  }
  if (ends[0] > ends[1]) {
    fail(Code::range_backwards, range.span, {symbol_in(*range.children[0]), symbol_in(*range.children[1])});
    return false;
  }
  for (std::size_t i = ends[0]; i <= ends[1]; ++i) {
    if (!scope.columns[i].measured) continue;
    CheckedPtr value = column_node(i, range);
    if (!value) return false;
    items.push_back(named_item(std::move(value), scope.columns[i].symbol, range.span));
  }
  return true;
}

bool Checker::add_pattern(const Node& pattern, std::vector<Item>& items) {
  const Scope& scope = context_.scope;
  const std::vector<std::size_t> found = scope.matching(pattern.as<tree::Text>().text);
  if (found.empty()) {
    fail(Code::pattern_matches_nothing, pattern.span, {pattern.as<tree::Text>().text});
    return false;
  }
  for (const std::size_t i : found) {
    CheckedPtr value = column_node(i, pattern);
    if (!value) return false;
    items.push_back(named_item(std::move(value), scope.columns[i].symbol, pattern.span));
  }
  return true;
}

std::optional<std::vector<Checker::Item>> Checker::check_list(const Node& call) {
  std::vector<Item> items;
  bool good = true;
  const bool patterns = call.function() != "fallback";
  for (const NodePtr& child : call.children) {
    if (child->kind() == NodeKind::range) {
      good = add_range(*child, items) && good;
    } else if (child->kind() == NodeKind::text && patterns) {
      good = add_pattern(*child, items) && good;
    } else if (const auto list = context_.scope.lists.find(symbol_in(*child));
               child->is<tree::Name>() && list != context_.scope.lists.end()) {
      for (const std::string& symbol : list->second) {
        const auto index = context_.scope.find_column(symbol, false);
        CheckedPtr value = !index ? nullptr : column_node(*index, *child);
        good = value != nullptr && good;
        if (value) items.push_back(named_item(std::move(value), symbol, child->span));
      }
    } else {
      CheckedPtr value = check(*child);
      good = value != nullptr && good;
      const std::string name =
          value && value->op == Op::column ? context_.scope.columns[value->column].symbol : written(*child);
      items.push_back({std::move(value), child.get(), name, nullptr});
    }
  }
  // A list is empty where its loop went over nothing, which is reported there.
  if (!good || items.empty()) return std::nullopt;
  return items;
}

bool Checker::unify_list(std::vector<Item>& items, const Node& call) {
  // The first that is no literal null decides on kind and unit.
  const auto first =
      std::find_if(items.begin(), items.end(), [](const Item& i) { return !i.value->type.any; });
  if (first == items.end()) return true;
  for (Item& item : items) {
    if (&item == &*first) continue;
    if (!unify(first->value, *first->node, item.value, *item.node,
               call.function() == "fallback" ? Code::branches_differ : Code::cannot_combine)) {
      return false;
    }
  }
  if (&*first != &items.front()) items.front().value->type = first->value->type;
  return true;
}

std::optional<NullRule> Checker::null_rule(const Node& call, std::size_t length, bool skips) {
  NullRule rule;
  rule.skip = skips;
  bool stated = false;
  if (const NamedArgument* nulls = named(call, "nulls")) {
    const bool is_word = nulls->value->is<tree::Word>();
    const std::string word = is_word ? nulls->value->as<tree::Word>().word : "";
    if (!is_word || (word != "skip" && word != "propagate")) {
      fail(Code::null_rule_word, nulls->value->span,
           {written(*nulls->value), nearest_name(word, {"skip", "propagate"})});
      return std::nullopt;
    }
    rule.skip = word == "skip";
    stated = true;
  }
  const NamedArgument* at_least = named(call, "at_least");
  if (at_least == nullptr) return rule;
  const auto count = exact_value(*at_least->value);
  const bool too_many = count && length > 0 && Rational(static_cast<std::int64_t>(length)) < *count;
  if (!count || !count->is_integer() || *count < 1 || too_many) {
    fail(length > 0 ? Code::at_least_range : Code::at_least_positive, at_least->value->span,
         {written(*at_least->value), std::to_string(length)});
    return std::nullopt;
  }
  if (!rule.skip) {
    fail(stated ? Code::at_least_propagates : Code::at_least_needs_skip, at_least->span, {call.function()});
    return std::nullopt;
  }
  rule.at_least = static_cast<int>(count->numerator());
  return rule;
}

CheckedPtr Checker::check_row(const Node& node, const Signature& signature) {
  auto items = check_list(node);
  if (!items) return nullptr;
  const bool list = context_.scope.lists.contains(symbol_in(*node.children[0]));
  if (items->size() == 1 && !list && node.children[0]->kind() != NodeKind::text &&
      node.children[0]->kind() != NodeKind::range) {
    const std::string column_function = "col" + node.function().substr(3);
    return fail(Code::row_of_one, node.span, {node.function(), written(*node.children[0]), column_function});
  }
  const auto rule = null_rule(node, items->size(), context_.policy.row_skips);
  if (!rule) return nullptr;
  Type type;
  if (signature.rule != Rule::row_count) {
    for (Item& item : *items) {
      if (item.value->type.kind == Kind::date && signature.rule != Rule::row_sum &&
          signature.rule != Rule::row_product) {
        continue;
      }
      if (!(item.value = require_number(std::move(item.value), *item.node))) return nullptr;
    }
    if (!unify_list(*items, node)) return nullptr;
    type = items->front().value->type;
    type.any = false;
    if (is_average(signature.op)) type.clock = true;
  }
  const Node& first = *items->front().node;
  switch (signature.rule) {
    case Rule::row_sum:
      if (type.unit.is_reading()) {
        return fail(Code::readings_summed, first.span, {node.function(), type.unit.text(), "row_mean"});
      }
      break;
    case Rule::row_difference:
      type = difference_type(type);
      break;
    case Rule::row_product: {
      if (type.unit.is_reading()) {
        return fail_reading(*items->front().value, first);
      }
      if (!type.unit.is_dimensionless()) {
        if (rule->skip) return fail(Code::product_skips, node.mark, {node.function(), type.unit.text()});
        type.unit = power(type.unit, static_cast<std::int64_t>(items->size()));
        type.raw = true;
      } else {
        for (Item& item : *items) item.value = converted(std::move(item.value), Unit{});
        type = plain_number();
      }
      break;
    }
    case Rule::row_count:
      type = plain_number();
      break;
    case Rule::row_name:
      type = Type();
      type.kind = Kind::text;
      break;
    default:
      break;
  }
  std::vector<CheckedPtr> args;
  std::vector<std::string> names;
  for (Item& item : *items) {
    names.push_back(item.name);
    args.push_back(std::move(item.value));
  }
  CheckedPtr result = operation(signature.op, type, node.span, std::move(args));
  result->nulls = *rule;
  result->names = std::move(names);
  return signature.rule == Rule::row_difference ? as_difference(std::move(result)) : std::move(result);
}

}  // namespace opensum
