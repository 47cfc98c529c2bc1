// Third stage of an equation: reductions down the column and functions of the sequence of rows.
#include <algorithm>
#include <cmath>
#include <utility>

#include "equation/checker.h"
#include "equation/checker_impl.h"
#include "equation/names_used.h"
#include "equation/operation.h"

namespace opensum {
namespace {

// What a reduction over the rows of a group sees of other sheets: their rows for reductions of its own.
class SheetsAround : public OtherSheets {
 public:
  explicit SheetsAround(const OtherSheets& others) : others_(others) {}
  Result<std::size_t> linked(const Node& member, const Passage& passage, Diagnostics& diagnostics) override {
    diagnostics.add(Code::link_inside_groups, passage.place(member.span),
                    {member.as<tree::Member>().owner, member.as<tree::Member>().symbol});
    return std::nullopt;
  }
  std::optional<OtherScope> scope_of(const std::string& sheet) const override {
    return others_.scope_of(sheet);
  }
  bool has_link(const std::string& /*name*/) const override { return false; }
  std::optional<OtherScope> grouped() const override { return std::nullopt; }
  std::size_t group_column(std::size_t column) override { return column; }
  std::vector<std::size_t> group_keys() const override { return {}; }
  bool is_first_whole_source() override { return false; }
  FitView fit(const std::string& name, const std::string& sheet) const override {
    return others_.fit(name, sheet);
  }
  std::size_t uncertainty_of(std::size_t column, const Place& /*place*/) override { return column; }

 private:
  const OtherSheets& others_;
};

}  // namespace

// The fraction of col_quantile and the row of col_at are constants.
bool Checker::check_column_setting(const Node& node, const Signature& signature, OpSetting& setting) {
  const bool quantile = signature.op == Op::col_quantile;
  if (!quantile && signature.op != Op::col_at) return true;
  const Node& given = *node.children[1];
  const auto value = exact_value(given);
  const bool good = value && (quantile ? !(*value < 0) && !(Rational(1) < *value)
                                       : value->is_integer() && Rational(0) < *value);
  if (!good) {
    fail(quantile ? Code::quantile_range : Code::row_range, given.span, {written(given)});
    return false;
  }
  if (quantile) {
    setting = QuantileFraction{value->value()};
  } else {
    setting = RowNumber{static_cast<std::size_t>(value->numerator())};
  }
  return true;
}

bool Checker::check_beside(const Node& node, const Signature& signature, CheckedPtr& beside) {
  const Node* operand = nullptr;
  if (signature.rule == Rule::col_area) {
    beside = check_along(node, signature);
    return beside != nullptr;
  }
  if (signature.rule == Rule::col_correlation) operand = node.children[1].get();
  if (const NamedArgument* weights = named(node, "weights")) operand = weights->value.get();
  if (operand == nullptr) return true;
  beside = require_number(check(*operand), *operand);
  if (!beside) return false;
  beside = settled(std::move(beside));
  if (signature.rule != Rule::col_correlation && beside->type.unit.is_reading()) {
    fail_reading(*beside, *operand);
    return false;
  }
  return true;
}

bool Checker::check_keys(const Node& node, bool over_groups, std::vector<CheckedPtr>& keys) {
  if (context_.groups != nullptr && !over_groups) {
    for (const std::size_t key : context_.groups->others.group_keys()) {
      keys.push_back(column_node(key, node));
      if (!keys.back()) return false;
    }
  }
  const NamedArgument* by = named(node, "by");
  if (by == nullptr) return true;
  const Node& list = *by->value;
  bool good = true;
  const std::size_t count = list.kind() == NodeKind::list ? list.children.size() : 1;
  for (std::size_t i = 0; i < count; ++i) {
    const Node& item = list.kind() == NodeKind::list ? *list.children[i] : list;
    CheckedPtr key = check(item);
    if (key && key->op == Op::text_constant) key = fail_text_for_column(item, *key, "by: ", "");
    good = key != nullptr && good;
    keys.push_back(std::move(key));
  }
  return good;
}

// `rows:` is a whole number; a moving window has its row in the middle.
bool Checker::check_rows(const Node& node, const Signature& signature, std::size_t& rows) {
  const NamedArgument* given = named(node, "rows");
  const bool window = family_of(signature.op) == OpFamily::moving;
  rows = 1;
  if (given == nullptr) {
    if (window) fail(Code::argument_needed, node.mark, {"rows", signature.usage});
    return !window;
  }
  const auto value = exact_value(*given->value);
  const bool whole = value && value->is_integer() && Rational(0) < *value && *value < Rational(1'000'000);
  if (!whole || (window && value->numerator() % 2 == 0)) {
    fail(window ? Code::window_rows : Code::neighbour_rows, given->value->span, {written(*given->value)});
    return false;
  }
  rows = static_cast<std::size_t>(value->numerator());
  return true;
}

CheckedPtr Checker::check_along(const Node& node, const Signature& signature) {
  const NamedArgument* given = named(node, "along");
  if (given == nullptr) return fail(Code::argument_needed, node.mark, {"along", signature.usage});
  CheckedPtr along = check(*given->value);
  if (!along || along->type.kind == Kind::date) return along;
  along = require_number(std::move(along), *given->value);
  return along ? settled(std::move(along)) : nullptr;
}

CheckedPtr Checker::check_sequence(const Node& node, const Signature& signature) {
  if (context_.standing == Standing::keep) return fail(Code::keep_row_by_row, node.mark, {node.function()});
  std::vector<CheckedPtr> keys;
  std::size_t rows = 0;
  bool good = check_keys(node, false, keys);
  good = check_rows(node, signature, rows) && good;
  CheckedPtr along;
  if (family_of(signature.op) == OpFamily::along_column) {
    along = check_along(node, signature);
    good = along != nullptr && good;
  }
  const auto rule = null_rule(node, 0, context_.policy.sequence_skips);
  // row_number() counts the rows whatever they hold.
  CheckedPtr value = constant_node(0, plain_number(), node.span);
  if (!node.children.empty()) value = check(*node.children[0]);
  if (!value || !rule || !good) return nullptr;
  const Node& argument = node.children.empty() ? node : *node.children[0];
  if (value->op == Op::text_constant)
    return fail_text_for_column(argument, *value, node.function() + "(", ")");
  const bool date = value->type.kind == Kind::date && signature.rule != Rule::sequence_sum &&
                    signature.rule != Rule::sequence_slope && signature.rule != Rule::sequence_area;
  if (signature.rule != Rule::sequence_same && !date) {
    value = require_number(std::move(value), argument);
    if (!value) return nullptr;
  }
  value = settled(std::move(value));
  Type type = value->type;
  type.any = false;
  const bool sums = signature.rule == Rule::sequence_sum || signature.rule == Rule::sequence_area;
  if (sums && type.unit.is_reading()) {
    return fail(Code::readings_summed, argument.span, {node.function(), type.unit.text(), "mean_so_far"});
  }
  if (is_average(signature.op)) type.clock = true;
  if (signature.rule == Rule::sequence_plain) type = plain_number();
  if (signature.rule == Rule::sequence_change) type = difference_type(type);
  std::vector<CheckedPtr> args;
  if (along) {
    const bool slope = signature.rule == Rule::sequence_slope;
    const Unit step = along->type.kind == Kind::date ? second() : step_unit(along->type.unit);
    if (slope || signature.rule == Rule::sequence_area) {
      type = Type();
      const Unit height = step_unit(value->type.unit);
      type.unit = slope ? quotient(height, step) : product(height, step);
      type.raw = true;
    }
  }
  const bool has_beside = along != nullptr;
  args.push_back(std::move(value));
  if (has_beside) args.push_back(std::move(along));
  for (CheckedPtr& key : keys) args.push_back(std::move(key));
  CheckedPtr result = operation(signature.op, type, node.span, std::move(args));
  result->nulls = *rule;
  result->setting = RowCount{rows};
  result->text = node.function();
  result->has_beside = has_beside;
  return signature.rule == Rule::sequence_change ? as_difference(std::move(result)) : std::move(result);
}

CheckedPtr Checker::check_foreign(const Node& node, const Signature& signature,
                                  const std::vector<MemberUse>& others) {
  const std::string& owner = others.front().owner;
  const auto there = context_.others->scope_of(owner);
  if (!there) return nullptr;
  // All columns inside one reduction come from one sheet; a bare name would be one of the own columns.
  for (const MemberUse& other : others) {
    if (other.owner != owner)
      return fail(Code::reduction_of_two_sheets, node.span, {node.function(), owner, other.owner});
  }
  const auto source = context_.others->grouped();
  if (source && source->shown_as == owner && !bare_columns(node, *source->scope).empty())
    return fail(Code::group_beside_whole, node.span, {node.function(), owner});
  if (!bare_columns(node, context_.scope).empty() ||
      (source && !bare_columns(node, *source->scope).empty())) {
    return fail(Code::reduction_of_two_sheets, node.span, {node.function(), owner, context_.scope.sheet});
  }
  if (const NamedArgument* by = named(node, "by")) return fail(Code::foreign_groups, by->span, {owner});
  if (source && source->shown_as == owner) say_whole_source(node, owner, *context_.others);
  const CheckContext inside{*there->scope,      context_.units, context_.policy,
                            Standing::equation, std::nullopt,   nullptr};
  return check_over(there->rows, inside, node, signature);
}

CheckedPtr Checker::check_grouped(const Node& node, const Signature& signature, const OtherScope& source) {
  if (const NamedArgument* by = named(node, "by")) {
    return fail(Code::groups_of_groups, by->span, {context_.scope.sheet});
  }
  warn_of_group_columns(node, source);
  const GroupsAround groups{context_.scope, *context_.others};
  SheetsAround around(*context_.others);
  const CheckContext inside{*source.scope, context_.units, context_.policy, Standing::equation,
                            std::nullopt,  &around,        nullptr,         &groups};
  return check_over(source.rows, inside, node, signature);
}

void Checker::warn_of_group_columns(const Node& node, const OtherScope& source) {
  std::string first;
  for (const std::string& name : names_used(node, context_.scope)) {
    if (source.scope->find_column(name, false)) return;
    if (first.empty() && context_.scope.find_column(name, false)) first = name;
  }
  if (first.empty() || !bare_columns(node, *source.scope).empty() ||
      !members_used(node, context_.scope).empty())
    return;
  fail(Code::group_column_alone, node.span, {node.function(), first, context_.scope.sheet});
}

CheckedPtr Checker::group_column(const std::string& symbol, bool quoted, const Node& node) {
  if (context_.groups == nullptr) return nullptr;
  const Scope& groups = context_.groups->scope;
  const auto found = groups.find_column(symbol, quoted);
  if (!found) return nullptr;
  const std::size_t meant = groups.meant_by(*found);
  if (groups.columns[meant].broken) return nullptr;
  return column_node(context_.groups->others.group_column(meant), node);
}

void Checker::say_whole_source(const Node& node, const std::string& source, OtherSheets& others) {
  if (others.is_first_whole_source()) fail(Code::whole_source, node.span, {node.function(), source});
}

CheckedPtr Checker::check_whole(const Node& node, const Signature& signature) {
  if (!bare_columns(node, context_.scope).empty())
    return fail(Code::group_beside_whole, node.span, {node.function(), context_.scope.sheet});
  say_whole_source(node, context_.scope.sheet, context_.groups->others);
  CheckContext whole = context_;
  whole.groups = nullptr;
  return Checker(passage_, whole, diagnostics_).check_column(node, signature);
}

CheckedPtr Checker::check_over(const OtherRows& rows, const CheckContext& inside, const Node& node,
                               const Signature& signature) {
  Checker checker(passage_, inside, diagnostics_);
  checker.over_groups_ = rows.groups_of.has_value();
  CheckedPtr result = checker.check_column(node, signature);
  if (!result) return nullptr;
  // A conversion to a difference may stand around it.
  Checked* reduction = result.get();
  while (!needs_whole_column(reduction->op)) reduction = reduction->args.front().get();
  reduction->over = rows;
  return result;
}

CheckedPtr Checker::check_column(const Node& node, const Signature& signature) {
  const bool over_groups = std::exchange(over_groups_, false);
  if (context_.others != nullptr && !over_groups) {
    const auto source = context_.others->grouped();
    std::vector<MemberUse> others = members_of_reduction(node, context_.scope);
    std::vector<std::string> names = names_of_reduction(node, context_.scope);
    if (others.empty() && names.empty() && !source && context_.groups == nullptr)
      others = members_used(node, context_.scope);
    std::erase_if(others, [&](const MemberUse& m) { return !context_.others->scope_of(m.owner); });
    // Alone, the name of a sheet means all of its rows. Beside columns of this sheet it is a link, which
    // gives for each row here the one that belongs to it.
    const bool beside_own = std::any_of(names.begin(), names.end(), [&](const std::string& name) {
      return context_.scope.find_column(name, false).has_value();
    });
    const bool all_linked = std::all_of(
        others.begin(), others.end(), [&](const MemberUse& m) { return context_.others->has_link(m.owner); });
    if (beside_own && all_linked) others.clear();
    if (!others.empty()) return check_foreign(node, signature, others);
    if (source) return check_grouped(node, signature, *source);
  }
  if (context_.groups != nullptr && !over_groups && names_itself(node, context_.scope))
    return check_whole(node, signature);
  if (context_.standing == Standing::keep) return fail(Code::keep_row_by_row, node.mark, {node.function()});
  const Node& argument = *node.children[0];
  CheckedPtr value = check(argument);
  if (value && value->op == Op::text_constant)
    return fail_text_for_column(argument, *value, node.function() + "(", ")");
  OpSetting setting;
  bool good = check_column_setting(node, signature, setting);
  const auto rule = null_rule(node, 0, context_.policy.column_skips);
  CheckedPtr where;
  if (const NamedArgument* condition = named(node, "where")) {
    where = require_condition(check(*condition->value), *condition->value);
    good = where != nullptr && good;
  }
  std::vector<CheckedPtr> keys;
  good = check_keys(node, over_groups, keys) && good;
  CheckedPtr beside;
  good = check_beside(node, signature, beside) && good;
  if (!value || !rule || !good) return nullptr;
  const bool any_kind = signature.op == Op::col_first || signature.op == Op::col_last ||
                        signature.op == Op::col_at || signature.op == Op::col_first_known ||
                        signature.op == Op::col_last_known || signature.rule == Rule::col_count;
  const bool of_dates = value->type.kind == Kind::date && beside == nullptr &&
                        (signature.rule == Rule::col_alike || signature.rule == Rule::col_difference);
  if (!any_kind && !of_dates && !(value = require_number(std::move(value), argument))) return nullptr;
  value = settled(std::move(value));
  Type type = value->type;
  type.any = false;
  const bool sums = signature.rule == Rule::col_sum || signature.rule == Rule::col_area;
  if (sums && type.unit.is_reading()) {
    return fail(Code::readings_summed, argument.span, {node.function(), type.unit.text(), "col_mean"});
  }
  if (signature.rule == Rule::col_product && type.unit.is_reading()) return fail_reading(*value, argument);
  if (is_average(signature.op)) type.clock = true;
  if (signature.rule == Rule::col_count) type = plain_number();
  if (signature.rule == Rule::col_difference) type = difference_type(type);
  if (signature.rule == Rule::col_correlation) type = plain_number();
  if (signature.rule == Rule::col_area) {
    const Unit step = beside->type.kind == Kind::date ? second() : step_unit(beside->type.unit);
    type.unit = product(value->type.unit, step);
    type.raw = true;
  }
  std::vector<CheckedPtr> args;
  args.push_back(std::move(value));
  const bool has_beside = beside != nullptr;
  if (has_beside) args.push_back(std::move(beside));
  const bool has_where = where != nullptr;
  if (has_where) args.push_back(std::move(where));
  for (CheckedPtr& key : keys) args.push_back(std::move(key));
  const bool weighted = has_beside && signature.op == Op::col_mean;
  CheckedPtr result =
      operation(weighted ? Op::col_weighted_mean : signature.op, type, node.span, std::move(args));
  result->nulls = *rule;
  result->setting = setting;
  result->text = node.function();
  result->has_beside = has_beside;
  result->has_where = has_where;
  return signature.rule == Rule::col_difference ? as_difference(std::move(result)) : std::move(result);
}

}  // namespace opensum
